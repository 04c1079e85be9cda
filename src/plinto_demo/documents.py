"""The made-up shop's documents, each of its own kind: a poster, a programme, a price list, a repeat, and a bad one."""

import io
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray
from PIL import Image
from reportlab import rl_config
from reportlab.lib.colors import CMYKColor, CMYKColorSep, Color
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from plinto_core.icc.standard import rgb_profile
from plinto_demo.artwork import lantern_row, night_moth, seed_pouch_pattern

_A4, _A3 = (595.28, 841.89), (841.89, 1190.55)
_WORDS = (
    "From the second evening on, forty lanterns are lit along the southern bank.",
    "Boats leave every half hour from the reed landing; please bring this page.",
    "The moth walk starts after dark, and the hall of seeds stays open until the",
    "last visitor has gone. Children find a paper lantern of their own at the gate.",
)


@dataclass(frozen=True)
class DemoDocument:
    """A document by its file name, and what writes it."""

    file_name: str
    make: Callable[[], bytes]


def _picture(pixels: NDArray[Any], width: int) -> ImageReader:
    """A painting as a picture of so many pixels across."""
    codes = (pixels // 257).astype(np.uint8) if pixels.dtype == np.uint16 else pixels
    image = Image.fromarray(codes)
    size = width, round(width * image.height / image.width)
    return ImageReader(image.resize(size, Image.Resampling.LANCZOS))


def _canvas(size: tuple[float, float], title: str) -> tuple[Canvas, io.BytesIO]:
    rl_config.invariant = 1
    # Pictures are written as they are packed; turned into letters they take seconds, and a quarter more room.
    rl_config.useA85 = 0
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=size, invariant=1, pageCompression=1)
    canvas.setTitle(title)
    canvas.setAuthor("Quillmere Print Works")
    return canvas, out


def _tagged(data: bytes, which: Callable[[int], str]) -> bytes:
    """The document with the pictures' profiles inside: `which` names an RGB space for the picture of a number, or none."""
    with pikepdf.open(io.BytesIO(data)) as pdf:
        streams: dict[str, Any] = {}
        pictures = [
            each for each in pdf.objects if isinstance(each, pikepdf.Stream) and each.get("/Subtype") == "/Image"
        ]
        for at, picture in enumerate(pictures):
            space = which(at)
            if not space or picture.get("/ColorSpace") != "/DeviceRGB":
                continue
            if space not in streams:
                streams[space] = pdf.make_stream(rgb_profile(space).raw, N=3)
            picture.ColorSpace = pikepdf.Array([pikepdf.Name.ICCBased, streams[space]])
        out = io.BytesIO()
        pdf.save(out, deterministic_id=True)
    return out.getvalue()


def _poster() -> bytes:
    canvas, out = _canvas(_A3, "Night Garden poster")
    width, height = _A3
    canvas.drawImage(_picture(night_moth(), 1400), 0, 230, width, height - 230)
    canvas.saveState()
    band = canvas.beginPath()
    band.rect(0, 0, width, 230)
    canvas.clipPath(band, stroke=0)
    canvas.linearGradient(0, 0, 0, 230, (Color(0.05, 0.07, 0.2), Color(0.16, 0.1, 0.32)), extend=False)
    canvas.restoreState()
    canvas.setFillColor(Color(0.98, 0.85, 0.45))
    canvas.setFont("Helvetica-Bold", 64)
    canvas.drawString(48, 130, "Night Garden")
    canvas.setFillColor(Color(1, 1, 1))
    canvas.setFont("Helvetica", 22)
    canvas.drawString(50, 90, "Velderwyn, 3 to 27 October, from dusk")
    canvas.setFillColor(CMYKColor(0, 0, 0, 1))
    canvas.setFont("Helvetica", 7)
    canvas.drawString(50, 20, "Printed at Quillmere Print Works on Halden Silk 150")
    canvas.save()
    return _tagged(out.getvalue(), lambda at: "opRGB")


def _programme() -> bytes:
    canvas, out = _canvas(_A4, "Night Garden programme")
    width, height = _A4
    pictures = [_picture(lantern_row(), 1500), _picture(seed_pouch_pattern(), 700), _picture(night_moth(), 900)]
    for page in range(8):
        canvas.setFillColor(CMYKColor(0, 0, 0, 1) if page % 2 else Color(0, 0, 0))
        canvas.setFont("Helvetica-Bold", 30)
        canvas.drawString(50, height - 80, ("Lanterns on the lower lake", "The hall of seeds", "Moth walk")[page % 3])
        canvas.setFont("Helvetica", 10)
        canvas.setFillColor(Color(0.137, 0.125, 0.129) if page % 3 == 0 else CMYKColor(0, 0, 0, 1))
        for line, words in enumerate(_WORDS):
            canvas.drawString(50, height - 110 - 14 * line, words)
        canvas.drawImage(pictures[page % 3], 50, 330, width - 100, 320)
        canvas.setFillColor(CMYKColor(0.9, 0.18, 0.74, 0.22))
        canvas.rect(50, 150, 240, 150, stroke=0, fill=1)
        canvas.setFillColor(CMYKColor(0, 0, 0, 0))
        canvas.setFont("Helvetica-Bold", 16)
        canvas.drawString(66, 268, "Every evening")
        canvas.setFillColor(Color(0.85, 0.12, 0.36))
        canvas.circle(430, 225, 70, stroke=0, fill=1)
        canvas.setFillGray(0.45)
        canvas.setFont("Helvetica", 8)
        canvas.drawRightString(width - 50, 40, f"{page + 1}")
        canvas.showPage()
    canvas.save()
    return _tagged(out.getvalue(), lambda at: ("sRGB", "opRGB", "")[at % 3])


def _price_list() -> bytes:
    canvas, out = _canvas(_A4, "Stall prices")
    _, height = _A4
    canvas.setFillColor(Color(0, 0.69, 0.31))
    canvas.rect(50, height - 110, 495, 40, stroke=0, fill=1)
    canvas.setFillColor(Color(1, 1, 1))
    canvas.setFont("Helvetica-Bold", 18)
    canvas.drawString(60, height - 97, "Stall prices")
    canvas.setFont("Helvetica", 11)
    prices = (("Seed pouch", "3.50"), ("Tote, one color", "9.00"), ("Scarf", "38.00"), ("Lantern", "6.00"))
    for line, (what, price) in enumerate(prices):
        top = height - 150 - 28 * line
        if line % 2:
            canvas.setFillColor(Color(0.95, 0.95, 0.95))
            canvas.rect(50, top - 9, 495, 28, stroke=0, fill=1)
        canvas.setFillColor(Color(0, 0, 0) if line else Color(0.12, 0.12, 0.12))
        canvas.drawString(60, top, what)
        canvas.drawRightString(530, top, price)
    canvas.setFillColor(Color(1, 0, 0))
    canvas.drawString(60, height - 290, "Cards are welcome from 5.00.")
    canvas.save()
    return out.getvalue()


def _repeat() -> bytes:
    canvas, out = _canvas((510, 510), "Scarf repeat")
    canvas.setFillColor(CMYKColorSep(0.9, 0.18, 0.74, 0.22, spotName="Lake green"))
    canvas.rect(0, 0, 510, 510, stroke=0, fill=1)
    for row in range(4):
        for column in range(4):
            x, y = 64 + 127 * column, 64 + 127 * row
            canvas.setFillColor(
                CMYKColorSep(0, 0.62, 0.9, 0, spotName="Ember", density=1 - 0.2 * ((row + column) % 3))
            )
            canvas.circle(x, y, 44, stroke=0, fill=1)
            canvas.setFillColor(Color(0.98, 0.9, 0.55))
            canvas.circle(x, y, 18, stroke=0, fill=1)
    canvas.save()
    return out.getvalue()


def _wrong() -> bytes:
    canvas, out = _canvas(_A4, "Wrap, final 2 (new)")
    _, height = _A4
    canvas.drawImage(_picture(lantern_row(), 160), 50, 460, 495, 300)
    canvas.setFillColor(Color(0, 0, 0))
    canvas.setFont("Helvetica", 10)
    canvas.drawString(50, 430, "Small text in RGB black, which comes out of four plates.")
    canvas.setFillColor(CMYKColor(1, 1, 1, 1))
    canvas.drawString(50, 410, "A caption in all four inks at once.")
    canvas.setFillColor(CMYKColor(0.6, 0.2, 0.1, 0))
    canvas.rect(50, 250, 200, 120, stroke=0, fill=1)
    canvas.setFillOverprint(True)
    canvas.setFillColor(CMYKColor(0, 0, 0, 0))
    canvas.setFont("Helvetica-Bold", 30)
    canvas.drawString(70, 300, "GONE")
    canvas.setFillOverprint(False)
    canvas.setFillColor(Color(0.2, 0.4, 0.9, alpha=0.4))
    canvas.circle(400, 300, 80, stroke=0, fill=1)
    canvas.setFillColor(CMYKColorSep(1, 1, 1, 1, spotName="All"))
    canvas.drawString(50, height - 40, "FINAL")
    canvas.save()
    return out.getvalue()


DOCUMENTS = (
    DemoDocument("Night Garden poster.pdf", _poster),
    DemoDocument("Night Garden programme.pdf", _programme),
    DemoDocument("Stall prices.pdf", _price_list),
    DemoDocument("Scarf repeat.pdf", _repeat),
    DemoDocument("Wrap, final 2 (new).pdf", _wrong),
)


def write_document(document: DemoDocument, folder: Path) -> Path:
    """Write one of them."""
    path = folder / document.file_name
    path.write_bytes(document.make())
    return path
