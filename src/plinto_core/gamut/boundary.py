"""Gamut boundaries as the largest chroma over lightness and hue."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import LinearNDInterpolator
from scipy.ndimage import gaussian_filter, map_coordinates

from plinto_core.colorimetry.lab import lab_to_lch

Array = NDArray[np.float64]

LIGHTNESS = np.linspace(0, 100, 34)
HUES_DEG = np.arange(0, 360, 7.5)


@dataclass(frozen=True)
class Boundary:
    """`chroma` (34 lightnesses, 48 hues): the largest C* there; 0 where the gamut does not reach."""

    chroma: Array

    def chroma_at(self, lightness: ArrayLike, hue_deg: ArrayLike) -> Array:
        """Largest C* at L* and h, interpolated; arrays of one shape."""
        place = [np.asarray(lightness) / 100 * (len(LIGHTNESS) - 1), np.asarray(hue_deg) / 7.5]
        # The first hue once more at the end closes the circle.
        closed = np.concatenate([self.chroma, self.chroma[:, :1]], axis=1)
        return np.asarray(map_coordinates(closed, place, order=1, mode="nearest"))

    def cusp_lightness(self) -> Array:
        """L* (48,) at which each hue reaches furthest, smoothed over hue."""
        weight = self.chroma**6
        cusp = (weight * LIGHTNESS[:, None]).sum(axis=0) / np.maximum(weight.sum(axis=0), 1e-9)
        return np.asarray(gaussian_filter(cusp, 1.5, mode="wrap"))


def boundary_of_surface(lab: ArrayLike) -> Boundary:
    """The boundary through points (n, 3) that lie on a gamut's surface, densely enough."""
    lch = lab_to_lch(lab)
    lightness, chroma, hue = lch[:, 0], lch[:, 1], lch[:, 2]
    colored = chroma > 0.5
    # Unrolled to either side, so that the seam at 0° is interior.
    turns = np.concatenate([hue[colored] + turn for turn in (-360, 0, 360)])
    plane = np.column_stack([np.tile(lightness[colored], 3), turns / 3.6])
    surface = LinearNDInterpolator(plane, np.tile(chroma[colored], 3), fill_value=0.0)
    L, h = np.meshgrid(LIGHTNESS, HUES_DEG / 3.6, indexing="ij")
    found = np.nan_to_num(surface(L, h))
    bottom, top = lightness.min(), lightness.max()
    found[(bottom > LIGHTNESS) | (top < LIGHTNESS)] = 0
    return Boundary(gaussian_filter(found, 0.5, mode=("nearest", "wrap")))
