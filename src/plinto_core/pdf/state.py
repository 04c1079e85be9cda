"""The graphics state of an interpreted content stream, and what is told of a painted color (ISO 32000-2, 8.4)."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from math import hypot, inf, isfinite
from typing import Any, Literal

import numpy as np

from plinto_core.errors import DocumentError
from plinto_core.pdf.space import GRAY, DocumentSpace

Object = Literal["text", "line art", "image", "shading"]
Matrix = tuple[float, float, float, float, float, float]
#: Left, bottom, right, top in points of the page.
Box = tuple[float, float, float, float]

IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


@dataclass(frozen=True)
class Picture:
    """An image where it is painted: pixels, bits, filter, and how many pixels come to an inch, the fewer way."""

    width: int
    height: int
    bits: int
    compression: str
    ppi: float
    is_mask: bool
    key: tuple[int, int]


@dataclass(slots=True)
class ColorUse:
    """One painted color: `where` is the page (from 1) and the way to its stream; `values` as the document has them, empty
    for pictures and shadings. In a soft mask (`in_mask`) it is no color of the print. `box` is None where nobody
    asked for it.
    """

    page: int
    where: str
    object: Object
    stroke: bool
    space: DocumentSpace
    values: tuple[float, ...]
    overprint: bool
    overprint_mode: int
    blend: str
    alpha: float
    masked: bool
    in_mask: bool
    font: str = ""
    picture: Picture | None = None
    box: Box | None = None
    #: The rendering intent that holds where it is painted, as the document names it; '' where it names none.
    intent: str = ""
    #: What was decided of it, by whoever writes: found once, and asked for again with the outcome.
    settled: Any = field(default=None, compare=False, repr=False)


#: No picture is placed more finely than this; beyond, figures could neither be stored nor sent.
MOST_PPI = 1e6


@dataclass(unsafe_hash=True)
class Paint:
    """The current color: its space and values, the pattern's name, and the stream (by its number) in which it was set."""

    space: DocumentSpace = GRAY
    values: tuple[float, ...] = (0.0,)
    pattern: str = ""
    pattern_object: Any = field(default=None, compare=False)
    scope: int = field(default=0, compare=False)
    #: What was decided of it, by whoever writes, for each way in which it has been painted so far.
    settled: dict[Any, Any] = field(default_factory=dict, compare=False, repr=False)


@dataclass(frozen=True)
class Text:
    """Where text goes next: the text matrix and that of the line, size, spacings, leading, and rise (9.3)."""

    matrix: Matrix = IDENTITY
    line: Matrix = IDENTITY
    size: float = 1.0
    char_space: float = 0.0
    word_space: float = 0.0
    scale: float = 1.0
    leading: float = 0.0
    rise: float = 0.0


@dataclass
class State:
    """All that painting depends on; never changed, for what is saved by `q` is this very object."""

    matrix: Matrix = IDENTITY
    fill: Paint = field(default_factory=Paint)
    stroke: Paint = field(default_factory=Paint)
    mode: int = 0
    font: str = ""
    font_name: str = ""
    font_object: Any = field(default=None, compare=False)
    text: Text = field(default_factory=Text)
    overprint: bool = False
    overprint_stroke: bool = False
    overprint_mode: int = 0
    blend: str = "Normal"
    alpha: float = 1.0
    alpha_stroke: float = 1.0
    masked: bool = False
    in_mask: bool = False
    intent: str = ""
    #: In an uncolored pattern or glyph, color operators count for nothing (8.7.3.3, 9.6.4).
    uncolored: bool = False

    def but(self, **changes: Any) -> "State":
        """A copy with some parts changed: `dataclasses.replace` without going through every field, thirty times as fast."""
        new = object.__new__(State)
        new.__dict__ = self.__dict__ | changes
        return new


def as_numbers(operands: Iterable[Any]) -> tuple[float, ...]:
    """Operands as finite numbers. Raises `DocumentError`."""
    try:
        numbers = tuple(map(float, operands))
    except (TypeError, ValueError) as error:
        raise DocumentError("a color or place has values that are no numbers") from error
    if not isfinite(sum(numbers)):
        raise DocumentError("a color or place has values beyond all that can be written")
    return numbers


def as_matrix(values: Any) -> Matrix:
    """Six numbers. Raises `DocumentError`."""
    if values is None:
        return IDENTITY
    numbers = as_numbers(list(values))
    if len(numbers) != 6:
        raise DocumentError(f"a matrix has {len(numbers)} numbers, and 6 are meant")
    a, b, c, d, e, f = numbers
    return a, b, c, d, e, f


def times(first: Matrix, then: Matrix) -> Matrix:
    """The matrix that does `first`, then `then` (8.3.4)."""
    a, b, c, d, e, f = first
    g, h, i, j, k, m = then
    return a * g + b * i, a * h + b * j, c * g + d * i, c * h + d * j, e * g + f * i + k, e * h + f * j + m


def box_of(matrix: Matrix, box: Box) -> Box:
    """The upright box around a box that a matrix turns."""
    a, b, c, d, e, f = matrix
    x, y = np.array([box[0], box[2], box[0], box[2]]), np.array([box[1], box[1], box[3], box[3]])
    across, up = a * x + c * y + e, b * x + d * y + f
    return float(across.min()), float(up.min()), float(across.max()), float(up.max())


def ppi_of(width: int, height: int, matrix: Matrix) -> float:
    """Pixels an inch of a picture placed by `matrix`, the way in which there are fewer; `MOST_PPI` of one that is placed
    with no size at all, and so is not seen."""
    a, b, c, d, _, _ = matrix
    across, up = hypot(a, b) / 72, hypot(c, d) / 72
    ppi = min(width / across if across else inf, height / up if up else inf)
    return ppi if ppi <= MOST_PPI else MOST_PPI
