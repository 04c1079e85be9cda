"""Film sheets: a plate's tones, enlarged to the film, screened or gray, with margins, in rows."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.deliver.film import Margins, margins
from plinto_core.deliver.halftone import halftoned
from plinto_core.deliver.halftone_kernels import enlarge_rows
from plinto_core.recipe.film import FilmSettings

Tones = NDArray[np.uint16]

_ROWS = 256


@dataclass(frozen=True)
class FilmPage:
    """One film: plate rows through `read(first, last)` (tones uint16, opaque 65535) of `width` × `height` at `ppi`.

    `name` is what the margin says of the ink; the angle goes by its letter `ink`, and `index`, its place among the inks.
    """

    read: Callable[[int, int], Tones]
    width: int
    height: int
    ppi: float
    ink: str
    name: str
    index: int
    title: str
    settings: FilmSettings

    @property
    def dpi(self) -> float:
        """Film pixels an inch; a gray file keeps the artwork's own."""
        return float(self.settings.dpi) if self.settings.halftone else self.ppi

    @property
    def _scale(self) -> float:
        return self.dpi / self.ppi

    @property
    def _picture_size(self) -> tuple[int, int]:
        return max(1, round(self.width * self._scale)), max(1, round(self.height * self._scale))

    @property
    def _margins(self) -> Margins | None:
        if not self.settings.marks:
            return None
        screen = f"{self.settings.ruling_lpi:g} lpi, {self.settings.angle(self.ink, self.index):g}°"
        how = screen if self.settings.halftone else "gray"
        kind = ", negative" if self.settings.negative else ""
        words = f"{self.name}   {self.title}   {how}{kind}{', mirrored' if self.settings.mirrored else ''}"
        return margins(*self._picture_size, self.dpi, words, self.settings.notes)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the whole sheet in film pixels."""
        width, height = self._picture_size
        around = self._margins.width if self._margins else 0
        return width + 2 * around, height + 2 * around

    @property
    def bits(self) -> int:
        """1 for halftones, 8 for gray."""
        return 1 if self.settings.halftone else 8

    def rows(self, progress: Callable[[float], None] = lambda share: None) -> Iterator[NDArray[np.uint8]]:
        """The sheet top to bottom: packed bits (rows, bytes) or gray (rows, width), opaque is 1 or 255."""
        edge = self._margins
        done, (_whole_width, whole_height) = 0, self.size
        for tones in self._tones(edge):
            opaque: NDArray[np.uint8]
            if self.settings.halftone:
                opaque = halftoned(tones, 0, done, self.settings, self.ink, self.index)
                opaque = 1 - opaque if self.settings.negative else opaque
            else:
                opaque = np.asarray((tones.astype(np.uint32) * 255 + 32767) // 65535, np.uint8)
                opaque = 255 - opaque if self.settings.negative else opaque
            if self.settings.mirrored:
                opaque = opaque[:, ::-1]
            done += len(tones)
            yield np.packbits(opaque, axis=1) if self.settings.halftone else np.ascontiguousarray(opaque)
            progress(done / whole_height)

    def _tones(self, edge: Margins | None) -> Iterator[Tones]:
        width, height = self._picture_size
        if edge:
            yield from _wide(edge.top)
        for top in range(0, height, _ROWS):
            band = np.empty((min(_ROWS, height - top), width), np.uint16)
            # One plate row more on either side: the rows in between are mixed of both.
            first = max(int((top + 0.5) / self._scale - 0.5) - 1, 0)
            last = min(int((top + len(band)) / self._scale) + 2, self.height)
            enlarge_rows(self.read(first, last), first, top, self._scale, band)
            if edge:
                side = next(_wide(edge.side[top : top + len(band)]))
                band = np.concatenate([side, band, side], axis=1)
            yield band
        if edge:
            yield from _wide(edge.bottom)


def _wide(tones: NDArray[np.uint8]) -> Iterator[Tones]:
    """Tones of 8 bit as 16, in pieces."""
    for top in range(0, len(tones), _ROWS):
        yield tones[top : top + _ROWS].astype(np.uint16) * np.uint16(257)
