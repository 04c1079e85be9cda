"""Figures of gamuts: volume, how much of one another covers, and a hull that can be drawn."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary

Array = NDArray[np.float64]

#: Thickness of each lightness's slice.
_DL = np.gradient(LIGHTNESS)[:, None]
_DH = float(np.radians(HUES_DEG[1] - HUES_DEG[0]))
#: Wires run along every third lightness and every second hue.
_WIRE_ROWS, _WIRE_HUES = 3, 2


def volume(boundary: Boundary) -> float:
    """Volume in cubic ΔE*ab: ½ C² dh dL over the boundary."""
    return float((boundary.chroma**2 * _DL).sum() * 0.5 * _DH)


def coverage(of: Boundary, by: Boundary) -> float:
    """Share (0…1) of `of`'s volume that lies inside `by`."""
    shared = np.minimum(of.chroma, by.chroma) ** 2 * _DL
    return float(shared.sum() / max(float((of.chroma**2 * _DL).sum()), 1e-9))


def share_outside(lab: Array, boundary: Boundary, tolerance: float = 1.0) -> float:
    """Share (0…1) of colors (n, 3) further out than the boundary by more than `tolerance` C*."""
    lch = lab_to_lch(lab)
    return float((lch[:, 1] > boundary.chroma_at(lch[:, 0], lch[:, 2]) + tolerance).mean())


@dataclass(frozen=True)
class Hull:
    """A boundary to be drawn: Lab `points` (n, 3), `triangles` (m, 3) of them, and `wires` (k, 2) between them, which
    run along one lightness, one hue, or the crest."""

    points: Array
    triangles: NDArray[np.int32]
    wires: NDArray[np.int32]


def hull(boundary: Boundary) -> Hull:
    """The boundary, closed at the darkest and lightest. A gamut without color is two points and a wire."""
    reached = np.flatnonzero(boundary.chroma.max(axis=1) > 0)
    if len(reached) < 2:
        # Inks without any color, like a single black one: a line has no hull.
        line = np.array([[0.0, 0, 0], [100.0, 0, 0]])
        return Hull(line, np.empty((0, 3), np.int32), np.array([[0, 1]], np.int32))
    rows = np.arange(max(reached[0], 0), reached[-1] + 1)
    hues = len(HUES_DEG)
    L, h = np.meshgrid(LIGHTNESS[rows], HUES_DEG, indexing="ij")
    points = lch_to_lab(np.stack([L, boundary.chroma[rows], h], axis=-1)).reshape(-1, 3)
    ends = np.array([[LIGHTNESS[rows[0]], 0, 0], [LIGHTNESS[rows[-1]], 0, 0]])
    chroma = boundary.chroma[rows].ravel()
    triangles = []
    for row in range(len(rows) - 1):
        for hue in range(hues):
            a, b = row * hues + hue, row * hues + (hue + 1) % hues
            c, d = a + hues, b + hues
            # Cut along the crest, where there is one: across it, it would look like a saw.
            along = chroma[a] + chroma[d] > chroma[b] + chroma[c]
            triangles += [[a, b, d], [a, d, c]] if along else [[a, b, c], [b, d, c]]
    bottom, top, last = len(points), len(points) + 1, (len(rows) - 1) * hues
    for hue in range(hues):
        triangles.append([bottom, (hue + 1) % hues, hue])
        triangles.append([top, last + hue, last + (hue + 1) % hues])
    grid = np.arange(len(points)).reshape(len(rows), hues)
    rings = grid[::_WIRE_ROWS]
    meridians = np.vstack([np.full(hues, bottom), grid, np.full(hues, top)])[:, ::_WIRE_HUES]
    # And along the crest, where each hue reaches farthest: rings alone leave its teeth standing out.
    crest = grid[boundary.chroma[rows].argmax(axis=0), np.arange(hues)][None]
    pairs = [np.stack([each, np.roll(each, -1, axis=1)], -1) for each in (rings, crest)]
    pairs.append(np.stack([meridians[:-1], meridians[1:]], -1))
    wires = np.concatenate([each.reshape(-1, 2) for each in pairs])
    return Hull(np.concatenate([points, ends]), np.array(triangles, np.int32), wires.astype(np.int32))
