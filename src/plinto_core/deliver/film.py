"""Films: what one is like, and how its margins look."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

Tones = NDArray[np.uint8]

WEDGE_STEPS = 21


@dataclass(frozen=True)
class Margins:
    """Tones (0 clear, 255 opaque) around a film's picture: `top` and `bottom` (margin, whole width), and the sides."""

    top: Tones
    bottom: Tones
    side: Tones

    @property
    def width(self) -> int:
        """Pixels of the margin on each side."""
        return int(self.side.shape[1])


@cache
def film_font(size: int) -> Any:
    import reportlab

    return ImageFont.truetype(str(Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"), size)


def margins(width: int, height: int, dpi: float, title: str, notes: str) -> Margins:
    """Margins of 9 mm around a picture of width × height film pixels: marks, title, notes, a wedge of 21 steps."""
    margin = round(9 / 25.4 * dpi)
    whole = width + 2 * margin
    top, bottom = (Image.new("L", (whole, margin), 0) for _ in range(2))
    side = Image.new("L", (margin, height), 0)
    for strip, center in ((top, whole / 2), (bottom, whole / 2)):
        _register_mark(strip, center, margin / 2, margin * 0.36, dpi)
    _register_mark(side, margin / 2, height / 2, min(margin * 0.36, height / 2.2), dpi)
    size = max(8, round(3.2 / 25.4 * dpi))
    room = whole / 2 - 1.6 * margin
    _text(top, title, (margin, margin * 0.3), size, room)
    if notes:
        _text(top, notes, (round(whole / 2 + 0.6 * margin), margin * 0.3), size, room)
    _wedge(bottom, margin, round(min(room, WEDGE_STEPS * 5 / 25.4 * dpi)), round(margin * 0.3), round(margin * 0.42))
    return Margins(np.asarray(top), np.asarray(bottom), np.asarray(side))


def _register_mark(strip: Image.Image, x: float, y: float, reach: float, dpi: float) -> None:
    draw = ImageDraw.Draw(strip)
    hair = max(1, round(0.1 / 25.4 * dpi))
    draw.line((x - reach, y, x + reach, y), fill=255, width=hair)
    draw.line((x, y - reach, x, y + reach), fill=255, width=hair)
    ring = reach * 0.6
    draw.ellipse((x - ring, y - ring, x + ring, y + ring), outline=255, width=hair)


def _text(strip: Image.Image, words: str, place: tuple[float, float], size: int, room: float) -> None:
    draw = ImageDraw.Draw(strip)
    while size > 8 and draw.textlength(words, font=film_font(size)) > room:
        size -= 1
    draw.text(place, words, fill=255, font=film_font(size))


def _wedge(strip: Image.Image, left: int, length: int, top: int, height: int) -> None:
    draw = ImageDraw.Draw(strip)
    for step in range(WEDGE_STEPS):
        x0, x1 = left + length * step // WEDGE_STEPS, left + length * (step + 1) // WEDGE_STEPS
        tone = round(255 * step / (WEDGE_STEPS - 1))
        draw.rectangle((x0, top, max(x0, x1 - 1), top + height), fill=tone)
    draw.rectangle((left - 1, top - 1, max(left, left + length), top + height + 1), outline=255)
