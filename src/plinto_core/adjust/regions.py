"""Regions: parts of the artwork by place, by color or by both, that an adjustment or the black is limited to.

A region is kept as numbers, not as a picture, so that it is rendered alike at any resolution.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.computed_once import computed_once
from plinto_core.recipe.region import Region

Weights = NDArray[np.float32]

#: This near to the border (fraction of the side) a corner counts as drawn to it.
_AT_EDGE = 0.004


@dataclass(frozen=True)
class PixelGrid:
    """Where a grid of pixels lies: centers `xs` (w,) and `ys` (h,) in pixels of an artwork of this size."""

    xs: NDArray[np.floating[Any]]
    ys: NDArray[np.floating[Any]]
    width: int
    height: int

    @staticmethod
    def rows(top: int, count: int, width: int, height: int) -> "PixelGrid":
        """Whole rows of the artwork, as bands come."""
        return PixelGrid(np.arange(width) + 0.5, np.arange(top, top + count) + 0.5, width, height)

    def cut(self, rows: slice, columns: slice) -> "PixelGrid":
        """A part of the grid."""
        return PixelGrid(self.xs[columns], self.ys[rows], self.width, self.height)

    @computed_once
    def shape(self) -> tuple[int, int]:
        """(h, w)."""
        return len(self.ys), len(self.xs)


def outline_weights(region: Region, places: PixelGrid) -> Weights:
    """Weight 0…1 of the region's outline at every place, (h, w); its color is not asked."""
    from plinto_core.adjust.mask_kernels import polygon_weights

    out = np.ones(places.shape, np.float32)
    if region.corners:
        size = np.array([places.width, places.height], np.float64)
        corners = _past_the_edge(np.array(region.corners, np.float64)) * size
        polygon_weights(places.xs, places.ys, corners, region.softness * size.max(), out)
    return out


def _past_the_edge(corners: NDArray[np.float64]) -> NDArray[np.float64]:
    """Corners drawn to the artwork's edge moved beyond it, so that no soft edge runs along the border."""
    low, high = corners <= _AT_EDGE, corners >= 1 - _AT_EDGE
    return np.where(low, -1.0, np.where(high, 2.0, corners))


def region_weights(region: Region, places: PixelGrid, source_lab: NDArray[np.float32] | None) -> Weights:
    """Weight 0…1 of the region at every place, (h, w); `source_lab` (h, w, 3) is needed where it has a color."""
    from plinto_core.adjust.mask_kernels import color_weights

    out = outline_weights(region, places)
    if region.color is not None:
        assert source_lab is not None
        center = np.array(region.color.lab, np.float32)
        flat = np.ascontiguousarray(source_lab).reshape(-1, 3)
        color_weights(flat, center, region.color.radius, region.color.softness, out.reshape(-1))
    return 1 - out if region.inverted else out
