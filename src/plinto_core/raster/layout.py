"""How the pixels of a file lie in it, as its header tells before anything is decoded."""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray

from plinto_core.errors import ArtworkError

Codes = NDArray[np.unsignedinteger[Any]]
Kind = Literal["rgb", "gray", "cmyk", "lab", "lab-signed", "lab-legacy"]

BAND_ROWS = 256
#: A narrow picture comes in taller bands: each costs as much as its overhead otherwise.
_BAND_PIXELS = 1 << 18
#: No side is longer: a picture of one column and 400 million rows is no artwork.
MAX_SIDE = 1_000_000


def band_rows(width: int) -> int:
    """Rows of a band of a picture so many pixels wide."""
    return max(BAND_ROWS, _BAND_PIXELS // max(width, 1))


#: Color channels of each kind; alpha comes after them.
CHANNELS: dict[Kind, int] = {"rgb": 3, "gray": 1, "cmyk": 4, "lab": 3, "lab-signed": 3, "lab-legacy": 3}

#: What the decoders raise on damaged input; each library has its own.
DECODE_ERRORS = (
    OSError, ValueError, IndexError, KeyError, struct.error, EOFError, SyntaxError, MemoryError, OverflowError,
    RuntimeError, TypeError, ZeroDivisionError, AttributeError, AssertionError,
    tifffile.TiffFileError, imagecodecs.PngError,
)  # fmt: skip


@dataclass(frozen=True)
class Layout:
    """Size and pixel layout as stored; `orientation` is the EXIF value 1…8, `inverted` means 0 is full ink or white.

    Alpha, where there is any, comes right after the colors; `premultiplied` says that they have been multiplied by it.
    `kind` 'lab' holds a* and b* with an offset of 128, 'lab-signed' in two's complement, 'lab-legacy' in the
    16-bit encoding of ICC version 2.
    """

    format: str
    width: int
    height: int
    depth: int
    kind: Kind
    has_alpha: bool = False
    inverted: bool = False
    orientation: int = 1
    icc: bytes | None = None
    resolution_ppi: float | None = None
    pages: int = 1
    notes: tuple[str, ...] = ()
    premultiplied: bool = False


def refused(name: str, what: str) -> ArtworkError:
    """The error for a kind of picture Plinto does not take."""
    return ArtworkError(
        f"'{name}' is {what}; Plinto takes RGB, gray, CMYK and Lab artwork of 8 or 16 bit. Export it as one of these."
    )


def in_strips(bands: Iterator[Codes], rows: int) -> Iterator[Codes]:
    """Bands of any height cut and joined to strips of `rows`; the last one may be shorter."""
    held: list[Codes] = []
    count = 0
    for band in bands:
        held.append(band)
        count += len(band)
        while count >= rows:
            joined = np.concatenate(held) if len(held) > 1 else held[0]
            yield np.ascontiguousarray(joined[:rows])
            held, count = [joined[rows:]], count - rows
    if count:
        yield np.concatenate(held)
