"""Figures of gamuts: volume, how much of one another covers, and a hull that can be drawn."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary

Array = NDArray[np.float64]

_DL = float(LIGHTNESS[1] - LIGHTNESS[0])
_DH = float(np.radians(HUES_DEG[1] - HUES_DEG[0]))


def volume(boundary: Boundary) -> float:
    """Volume in cubic ΔE*ab: ½ C² dh dL over the boundary."""
    return float((boundary.chroma**2).sum() * 0.5 * _DH * _DL)


def coverage(of: Boundary, by: Boundary) -> float:
    """Share (0…1) of `of`'s volume that lies inside `by`."""
    shared = np.minimum(of.chroma, by.chroma) ** 2
    return float(shared.sum() / max(float((of.chroma**2).sum()), 1e-9))


def share_outside(lab: Array, boundary: Boundary, tolerance: float = 1.0) -> float:
    """Share (0…1) of colors (n, 3) further out than the boundary by more than `tolerance` C*."""
    lch = lab_to_lch(lab)
    return float((lch[:, 1] > boundary.chroma_at(lch[:, 0], lch[:, 2]) + tolerance).mean())


def hull(boundary: Boundary) -> tuple[Array, NDArray[np.int32]]:
    """Lab (n, 3) of the boundary's points and triangles (m, 3) of them, closed at the darkest and lightest.

    A gamut without color is two points and no triangle.
    """
    reached = np.flatnonzero(boundary.chroma.max(axis=1) > 0)
    if len(reached) < 2:
        # Inks without any color, like a single black one: a line has no hull.
        return np.array([[0.0, 0, 0], [100.0, 0, 0]]), np.empty((0, 3), np.int32)
    rows = np.arange(max(reached[0], 0), reached[-1] + 1)
    hues = len(HUES_DEG)
    L, h = np.meshgrid(LIGHTNESS[rows], HUES_DEG, indexing="ij")
    points = lch_to_lab(np.stack([L, boundary.chroma[rows], h], axis=-1)).reshape(-1, 3)
    ends = np.array([[LIGHTNESS[rows[0]], 0, 0], [LIGHTNESS[rows[-1]], 0, 0]])
    triangles = []
    for row in range(len(rows) - 1):
        for hue in range(hues):
            a, b = row * hues + hue, row * hues + (hue + 1) % hues
            triangles += [[a, b, a + hues], [b, b + hues, a + hues]]
    bottom, top, last = len(points), len(points) + 1, (len(rows) - 1) * hues
    for hue in range(hues):
        triangles.append([bottom, (hue + 1) % hues, hue])
        triangles.append([top, last + hue, last + (hue + 1) % hues])
    return np.concatenate([points, ends]), np.array(triangles, np.int32)
