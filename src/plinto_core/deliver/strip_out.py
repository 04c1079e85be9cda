"""The check strip as a page: patches of sRGB from left to right, and a mark that cannot be mistaken for its mirror."""

import io

import numpy as np
from numpy.typing import NDArray
from reportlab import rl_config
from reportlab.lib.colors import Color
from reportlab.pdfgen.canvas import Canvas

from plinto_core import __version__

_SIDE, _MARGIN, _ROW = 34.0, 28.0, 12


def strip_page(rgb: NDArray[np.float64], title: str) -> bytes:
    """R, G, B values (n, 3) 0…1 as patches of 12 mm, twelve a row, numbered; PDF bytes."""
    rl_config.invariant = 1
    rows = -(-len(rgb) // _ROW)
    width, height = 2 * _MARGIN + _ROW * _SIDE, 2 * _MARGIN + rows * (_SIDE + 10) + 40
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(width, height), invariant=1)
    canvas.setTitle(f"Check strip, {title}")
    canvas.setCreator(f"Plinto {__version__}")
    canvas.setFont("Helvetica", 8)
    for at, (red, green, blue) in enumerate(rgb):
        row, column = divmod(at, _ROW)
        x, y = _MARGIN + column * _SIDE, height - _MARGIN - 30 - (row + 1) * (_SIDE + 10)
        canvas.setFillColor(Color(float(red), float(green), float(blue)))
        canvas.rect(x, y + 10, _SIDE, _SIDE, stroke=0, fill=1)
        canvas.setFillColor(Color(0, 0, 0))
        canvas.drawCentredString(x + _SIDE / 2, y + 1, str(at + 1))
    # An arrow whose head and foot differ: read from behind, it points the other way.
    top = height - _MARGIN
    path = canvas.beginPath()
    path.moveTo(_MARGIN, top - 14)
    path.lineTo(_MARGIN + 60, top - 14)
    path.lineTo(_MARGIN + 60, top)
    path.lineTo(_MARGIN + 76, top - 18)
    path.lineTo(_MARGIN, top - 18)
    path.close()
    canvas.drawPath(path, stroke=0, fill=1)
    canvas.drawString(_MARGIN + 86, top - 16, f"Read this way. {title}")
    canvas.save()
    return out.getvalue()
