"""A picture in halving sizes on disk, so that any window at any zoom costs what the screen shows."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from plinto_core.adjust.regions import PixelGrid
from plinto_core.files import reserved_map
from plinto_core.raster.decoded import described
from plinto_core.raster.opened import Artwork, Codes
from plinto_core.raster.picture_kernels import halve, resample

_SMALLEST = 512
#: So many windows of a picture are kept as they were last shown.
_WINDOWS = 4


@dataclass(frozen=True)
class Window:
    """What of the artwork is looked at: its left top corner and `zoom`, screen pixels for a picture pixel.

    `width` and `height` are screen pixels.
    """

    left: float
    top: float
    width: int
    height: int
    zoom: float


class Pyramid:
    """The levels of one picture, memory-mapped; level 0 is the whole picture in its own depth."""

    def __init__(self, folder: Path) -> None:
        described = json.loads((folder / "levels.json").read_text())
        self._samples: dict[int, tuple[Codes, PixelGrid, int]] = {}
        self._windows: dict[Window, Codes] = {}
        self.levels: list[Codes] = [np.load(folder / f"{i}.npy", mmap_mode="r") for i in range(described["levels"])]

    @property
    def width(self) -> int:
        """Pixels across the whole picture."""
        return int(self.levels[0].shape[1])

    @property
    def height(self) -> int:
        """Pixels down the whole picture."""
        return int(self.levels[0].shape[0])

    def window(self, window: Window) -> Codes:
        """The window's pixels (rows, columns, channels), at most one to a screen pixel, cut at the picture's edges.

        Above a zoom of 1 the picture's own pixels come as they are, to be enlarged by whoever shows them. Not to be
        changed: below it the next picture of the same window is made of them too.
        """
        if window.zoom >= 1:
            left, top = max(int(window.left), 0), max(int(window.top), 0)
            right = min(int(np.ceil(window.left + window.width / window.zoom)), self.width)
            bottom = min(int(np.ceil(window.top + window.height / window.zoom)), self.height)
            return np.ascontiguousarray(self.levels[0][top:bottom, left:right])
        found = self._windows.pop(window, None)
        if found is None:
            found = self._resampled(window)
            found.setflags(write=False)
        # While a control moves the window stays; the one that was looked at longest ago goes.
        self._windows[window] = found
        for oldest in list(self._windows)[:-_WINDOWS]:
            self._windows.pop(oldest, None)
        return found

    def _resampled(self, window: Window) -> Codes:
        level = min(int(np.floor(np.log2(1 / window.zoom))), len(self.levels) - 1)
        pixels = self.levels[level]
        step = 1 / (window.zoom * 2**level)
        out: Codes = np.empty((window.height, window.width, pixels.shape[2]), pixels.dtype)
        x, y = window.left / 2**level, window.top / 2**level
        # Beyond the edges the last pixels go on: there is always something to sample.
        x0 = min(max(int(x) - 2, 0), pixels.shape[1] - 1)
        y0 = min(max(int(y) - 2, 0), pixels.shape[0] - 1)
        x1, y1 = int(x + window.width * step) + 3, int(y + window.height * step) + 3
        cut = np.ascontiguousarray(pixels[y0:y1, x0:x1])
        resample(cut, x - x0, y - y0, step, out)
        return out

    def places(self, window: Window) -> PixelGrid:
        """Where the pixels that `window` gives lie on the artwork."""
        if window.zoom >= 1:
            left, top = max(int(window.left), 0), max(int(window.top), 0)
            right = min(int(np.ceil(window.left + window.width / window.zoom)), self.width)
            bottom = min(int(np.ceil(window.top + window.height / window.zoom)), self.height)
            xs, ys = np.arange(left, right) + 0.5, np.arange(top, bottom) + 0.5
        else:
            xs = window.left + (np.arange(window.width) + 0.5) / window.zoom
            ys = window.top + (np.arange(window.height) + 0.5) / window.zoom
        return PixelGrid(xs, ys, self.width, self.height)

    def sample(self, most: int) -> tuple[Codes, PixelGrid, int]:
        """At most about `most` real pixels (h, w, channels), spread evenly, where they are, and their step (1: all)."""
        if most in self._samples:
            return self._samples[most]
        step = max(1, int(np.ceil(np.sqrt(self.width * self.height / most))))
        rows = self.levels[0][step // 2 :: step, step // 2 :: step]
        xs = np.arange(step // 2, self.width, step) + 0.5
        ys = np.arange(step // 2, self.height, step) + 0.5
        # Every setting is measured on the same pixels; picking them out of a large file costs more than measuring.
        self._samples[most] = np.ascontiguousarray(rows), PixelGrid(xs, ys, self.width, self.height), step
        return self._samples[most]


def build_pyramid(artwork: Artwork, folder: Path, progress: Callable[[float], None] = lambda share: None) -> None:
    """Decode the whole picture once into `folder`. Raises `ArtworkError` for damaged pixels, OSError for a
    full disk."""
    folder.mkdir(parents=True, exist_ok=True)
    kind = np.dtype(np.uint8 if artwork.depth == 8 else np.uint16)
    shape = (artwork.height, artwork.width, artwork.channels)
    whole = reserved_map(folder / "0.npy", kind, shape)
    row = 0
    for band in artwork.bands():
        whole[row : row + len(band)] = band
        row += len(band)
        progress(0.9 * row / artwork.height)
    whole.flush()
    levels, pixels = 1, whole
    while max(pixels.shape[:2]) > _SMALLEST:
        smaller = ((pixels.shape[0] + 1) // 2, (pixels.shape[1] + 1) // 2, artwork.channels)
        out = reserved_map(folder / f"{levels}.npy", kind, smaller)
        halve(pixels, out)
        out.flush()
        levels, pixels = levels + 1, out
    (folder / "levels.json").write_text(json.dumps({"levels": levels, **described(artwork, folder)}))
