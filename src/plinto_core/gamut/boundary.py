"""Gamut boundaries as the largest chroma over lightness and hue, in CIELAB for figures or in straight coordinates."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.ndimage import gaussian_filter, map_coordinates, maximum_filter

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.colorimetry.straight import straight_to_lab

Array = NDArray[np.float64]

#: Closer together where yellow and cyan come to a point just below white.
LIGHTNESS = np.concatenate([np.linspace(0, 80, 25)[:-1], np.linspace(80, 100, 17)])
_HUE_STEP_DEG = 3.75
HUES_DEG = np.arange(0, 360, _HUE_STEP_DEG)


@dataclass(frozen=True)
class Boundary:
    """`chroma` (41 lightnesses, 96 hues): the largest C* there; 0 where the gamut does not reach.

    `ridge` (m, 3) are L*, C*, h of the most saturated colors, rising in hue: corners of a gamut stand there exactly,
    which fall between the places of the table.
    """

    chroma: Array
    ridge: Array = field(default_factory=lambda: np.empty((0, 3)))

    def chroma_at(self, lightness: ArrayLike, hue_deg: ArrayLike) -> Array:
        """Largest C* at L* and h, interpolated; arrays of one shape."""
        rows = np.interp(np.asarray(lightness), LIGHTNESS, np.arange(len(LIGHTNESS)))
        place = [rows, np.asarray(hue_deg) / _HUE_STEP_DEG]
        # The first hue once more at the end closes the circle.
        closed = np.concatenate([self.chroma, self.chroma[:, :1]], axis=1)
        return np.asarray(map_coordinates(closed, place, order=1, mode="nearest"))


#: How far a surface goes on beyond either end of the circle of hues.
_UNROLLED_DEG = 90.0
#: L* from the lightest and the darkest color within which colors may stand alone.
_LONE = 12.0
#: So far apart in hue colors lean on others where inks do not go around the neutrals.
_LEANS_DEG = 60.0


def ridge_of(lch: ArrayLike) -> Array:
    """Of colors L*, C*, h (n, 3), the one of the largest chroma in each step of hue: (m, 3), rising in hue."""
    lch = np.asarray(lch, np.float64).reshape(-1, 3)
    lch = lch[lch[:, 1] > 0.5]
    step = (lch[:, 2] // _HUE_STEP_DEG).astype(int)
    order = np.lexsort((lch[:, 1], step))
    last = np.flatnonzero(np.diff(step[order], append=-1))
    ridge = lch[order[last]]
    # A step of hue in which only a weak color fell says nothing of the ridge.
    beside = np.minimum(np.roll(ridge[:, 1], 1), np.roll(ridge[:, 1], -1))
    return np.asarray(ridge[ridge[:, 1] >= 0.85 * beside])


def boundary_of_surface(lab: ArrayLike) -> Boundary:
    """The boundary through points (..., 3) that lie on a gamut's surface, densely enough."""
    lch = lab_to_lch(lab).reshape(-1, 3)
    bottom, top = lch[:, 0].min(), lch[:, 0].max()
    colored = lch[:, 1] > 0.5
    ridge = ridge_of(lch)
    if not colored.any():
        return Boundary(np.zeros((len(LIGHTNESS), len(HUES_DEG))), ridge)
    lch = lch[colored]
    # Unrolled to either side, so that the seam at 0° is interior. Far from it only what lies near white and black counts,
    # where a few corners stand alone around the whole circle.
    hue, lone = lch[:, 2], (lch[:, 0] > top - _LONE) | (lch[:, 0] < bottom + _LONE)
    unrolled = np.concatenate([
        lch[(hue > 360 - _UNROLLED_DEG) | lone] - [0, 0, 360], lch, lch[(hue < _UNROLLED_DEG) | lone] + [0, 0, 360],
    ])  # fmt: skip
    from scipy.interpolate import LinearNDInterpolator

    surface = LinearNDInterpolator(unrolled[:, [0, 2]] / [1.0, 3.6], unrolled[:, 1], fill_value=0.0)
    L, h = np.meshgrid(LIGHTNESS, HUES_DEG / 3.6, indexing="ij")
    found = np.nan_to_num(surface(L, h))
    found[(bottom > LIGHTNESS) | (top < LIGHTNESS)] = 0
    return Boundary(gaussian_filter(found, 0.4, mode=("nearest", "wrap")), ridge)


def leaned_on(lab: ArrayLike) -> Boundary:
    """The boundary of inks that do not go around the neutrals, from colors (n, 3) all over what they print, as colors of
    other hues may lean on it: a hue counts on so much of a neighbor's chroma as the cosine of the angle between them, up to
    60°, leaves. Its own hue, a line through the table, would be missed by it.
    """
    lightness, chroma, hue = np.moveaxis(lab_to_lch(lab), -1, 0)
    row = np.abs(lightness[:, None] - LIGHTNESS).argmin(axis=1)
    found = np.zeros((len(LIGHTNESS), len(HUES_DEG)))
    for column, at in enumerate(HUES_DEG):
        apart = np.abs((hue - at + 180) % 360 - 180)
        near = apart <= _LEANS_DEG
        np.maximum.at(found[:, column], row[near], chroma[near] * np.cos(np.radians(apart[near])))
    found = gaussian_filter(maximum_filter(found, (3, 1)), 0.7, mode=("nearest", "wrap"))
    return Boundary(found, ridge_of(lab_to_lch(lab)))


def in_lab(straight: Boundary) -> Boundary:
    """A boundary in straight coordinates as one in CIELAB."""
    L, h = np.meshgrid(LIGHTNESS, HUES_DEG, indexing="ij")
    lch = lab_to_lch(straight_to_lab(lch_to_lab(np.stack([L, straight.chroma, h], axis=-1))))
    rows = [
        np.interp(HUES_DEG, hue[colored], chroma[colored], period=360) if colored.any() else np.zeros(len(HUES_DEG))
        for hue, chroma, colored in zip(lch[..., 2], lch[..., 1], straight.chroma > 0.01, strict=True)
    ]
    return Boundary(np.array(rows), ridge_of(lch))
