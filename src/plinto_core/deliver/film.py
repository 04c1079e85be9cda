"""Films: what one is like, and how its margins look."""

from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, Literal

import numpy as np
import reportlab
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from plinto_core.errors import RecipeError

Tones = NDArray[np.uint8]

#: Screen angles by ink: the strongest three 30° apart, yellow between (ISO 12647-1, 4.2); more inks share them.
USUAL_ANGLES = {"C": 15.0, "M": 75.0, "Y": 0.0, "K": 45.0}
_SHARED_ANGLES = (15.0, 75.0, 45.0, 0.0)
_FONT = Path(reportlab.__file__).parent / "fonts" / "Vera.ttf"
WEDGE_STEPS = 21


@dataclass(frozen=True)
class FilmSettings:
    """`halftone` makes 1-bit film of `dpi`, with `ruling_lpi` lines an inch; without it a gray file an ink.

    `angles` names inks whose angle differs from the usual one. `negative` lets light through where ink is to be;
    `mirrored` is read through the film. `marks` adds a margin with register marks, ink name, notes and a wedge.
    """

    halftone: bool = True
    dpi: int = 1200
    ruling_lpi: float = 55.0
    shape: Literal["round", "elliptical", "line"] = "round"
    angles: tuple[tuple[str, float], ...] = ()
    mirrored: bool = False
    negative: bool = False
    marks: bool = True
    container: Literal["pdf", "tiff"] = "pdf"
    notes: str = ""

    def __post_init__(self) -> None:
        if not 300 <= self.dpi <= 2540:
            raise RecipeError(f"{self.dpi} dpi is no film; choose 300 to 2540.")
        if not (20 <= self.ruling_lpi <= 200 and self.ruling_lpi * 3 <= self.dpi):
            raise RecipeError(
                f"A ruling of {self.ruling_lpi:g} lines an inch needs 20 to 200, and a film of three times that dpi."
            )
        if self.shape not in ("round", "elliptical", "line"):
            raise RecipeError(f"The dot shape '{self.shape}' is not known; choose round, elliptical or line.")
        if self.container not in ("pdf", "tiff"):
            raise RecipeError(f"Films are written as pdf or tiff, not as '{self.container}'.")
        if len(self.notes) > 400:
            raise RecipeError("Notes on a film have at most 400 letters.")

    def angle(self, ink: str, index: int) -> float:
        """Screen angle of an ink in degrees."""
        usual = USUAL_ANGLES.get(ink, _SHARED_ANGLES[index % len(_SHARED_ANGLES)])
        return dict(self.angles).get(ink, usual)


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
def _font(size: int) -> Any:
    return ImageFont.truetype(str(_FONT), size)


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
    while size > 8 and draw.textlength(words, font=_font(size)) > room:
        size -= 1
    draw.text(place, words, fill=255, font=_font(size))


def _wedge(strip: Image.Image, left: int, length: int, top: int, height: int) -> None:
    draw = ImageDraw.Draw(strip)
    for step in range(WEDGE_STEPS):
        x0, x1 = left + length * step // WEDGE_STEPS, left + length * (step + 1) // WEDGE_STEPS
        tone = round(255 * step / (WEDGE_STEPS - 1))
        draw.rectangle((x0, top, max(x0, x1 - 1), top + height), fill=tone)
    draw.rectangle((left - 1, top - 1, max(left, left + length), top + height + 1), outline=255)
