"""Pages drawn by PDFium."""

import io
import threading
from math import ceil
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pypdfium2 as pdfium
from numpy.typing import NDArray

from plinto_core.errors import DocumentError

Pixels = NDArray[np.uint8]

#: PDFium is not made for threads.
_ONE_AT_A_TIME = threading.Lock()
MOST_PIXELS = 120_000_000
POINTS_PER_INCH = 72.0


def draw(
    source: Path | bytes, page: int, ppi: float, paper: tuple[int, int, int] = (255, 255, 255),
    part: tuple[int, int, int, int] | None = None,
) -> Pixels:  # fmt: skip
    """A page (from 0) at `ppi` as RGB (h, w, 3) on `paper`; `part` asks for left, top, width and height of it in pixels.

    Raises `DocumentError`.
    """
    try:
        with _ONE_AT_A_TIME, pdfium.PdfDocument(source) as document:
            if not 0 <= page < len(document):
                raise DocumentError(f"There is no page {page + 1}; the document has {len(document)}.")
            width, height = document[page].get_size()
            scale = ppi / POINTS_PER_INCH
            crop = _cut_off(part, ceil(width * scale), ceil(height * scale), scale) if part else (0.0, 0.0, 0.0, 0.0)
            shown = (width - crop[0] - crop[2]) * (height - crop[1] - crop[3]) * scale**2
            if shown > MOST_PIXELS:
                raise DocumentError(f"Page {page + 1} at {ppi:g} ppi is larger than can be drawn. Ask for fewer ppi.")
            bitmap = document[page].render(scale=scale, crop=crop, fill_color=(*paper, 255), rev_byteorder=True)
            return np.array(bitmap.to_numpy()[..., :3])
    except pdfium.PdfiumError as error:
        raise DocumentError(f"Page {page + 1} cannot be drawn ({error}).") from error


def _cut_off(
    part: tuple[int, int, int, int], width: int, height: int, scale: float
) -> tuple[float, float, float, float]:  # fmt: skip
    """Points to cut off at left, bottom, right and top, so that PDFium's rounding up leaves these very pixels."""
    left, top, wide, high = part
    right, bottom = width - left - wide, height - top - high
    if min(left, top) < 0 or left >= width or top >= height or min(wide, high) < 1:
        raise DocumentError("This part is not on the page.")
    points = [(max(pixels, 0) - 0.5) / scale if pixels > 0 else 0.0 for pixels in (left, bottom, right, top)]
    return points[0], points[1], points[2], points[3]


def saved(pdf: pikepdf.Pdf) -> bytes:
    """The document as it stands, for drawing."""
    out = io.BytesIO()
    options: dict[str, Any] = {"compress_streams": False}
    pdf.save(out, **options)
    return out.getvalue()


def only_page(pdf: pikepdf.Pdf, page: int) -> pikepdf.Pdf:
    """A document of one page (from 0) of another, with all that the page needs. Raises `DocumentError`."""
    if not 0 <= page < len(pdf.pages):
        raise DocumentError(f"There is no page {page + 1}; the document has {len(pdf.pages)}.")
    alone = pikepdf.Pdf.new()
    alone.pages.append(pdf.pages[page])
    for key in ("/OutputIntents", "/OCProperties"):
        if key in pdf.Root:
            alone.Root[key] = alone.copy_foreign(pdf.Root[key]) if pdf.Root[key].is_indirect else alone.copy_foreign(
                pdf.make_indirect(pdf.Root[key])
            )  # fmt: skip
    return alone
