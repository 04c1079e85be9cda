"""Pictures of four inks through a link: simplex interpolation, compiled.

The cell's fractions, sorted, name five corners of a simplex; their weights sum to 2**15 exactly, so that limits
hold as in `link_kernels`. An edge or face of the grid is interpolated from its own nodes alone: pure inks stay pure.
Nodes are numbered without a sign, as there.
"""

import numpy as np
from numba import njit, prange

_ONE15 = 1 << 15
_BLOCKS = 256


@njit(cache=True, nogil=True, inline="always")
def _simplex(pixel, places, points, corners, weights, fractions, steps):
    """Node indices corners (5,) and weights (5,) that sum to 2**15, for one pixel of four codes."""
    last = np.uint64(points - 2)
    base = np.uint64(0)
    step = np.uint64(1)
    for k in range(3, -1, -1):
        place = np.uint64(places[pixel[k]])
        cell = min(place >> np.uint64(15), last)
        base += cell * step
        fractions[k] = np.int64(place - (cell << np.uint64(15)))
        steps[k] = step
        step *= np.uint64(points)
    # Insertion sort, largest fraction first.
    for i in range(1, 4):
        fraction, step = fractions[i], steps[i]
        j = i - 1
        while j >= 0 and fractions[j] < fraction:
            fractions[j + 1] = fractions[j]
            steps[j + 1] = steps[j]
            j -= 1
        fractions[j + 1] = fraction
        steps[j + 1] = step
    corners[0] = base
    weights[0] = _ONE15 - fractions[0]
    for i in range(4):
        corners[i + 1] = corners[i] + steps[i]
        weights[i + 1] = fractions[i] - fractions[i + 1] if i < 3 else fractions[3]


@njit(cache=True, nogil=True, parallel=True)
def inks_from_four(codes, places, points, nodes, caps, total, unit, out):
    """Pixels codes (n, 4) through nodes (points**4, inks) uint16 to ink codes out (n, inks).

    places, caps, total and unit as in `link_kernels.four_inks`.
    """
    half = unit[0] >> np.uint64(1)
    times, shift = unit[1], unit[2]
    inks = out.shape[1]
    count = codes.shape[0]
    for block in prange(_BLOCKS):
        corners = np.empty(5, np.uint64)
        weights = np.empty(5, np.int64)
        fractions = np.empty(4, np.int64)
        steps = np.empty(4, np.uint64)
        lanes = np.empty(inks, np.uint64)
        for i in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            _simplex(codes[i], places, points, corners, weights, fractions, steps)
            used = np.uint64(0)
            for k in range(inks):
                lane = np.uint64(0)
                for c in range(5):
                    lane += np.uint64(nodes[corners[c], k]) * np.uint64(weights[c])
                lanes[k] = lane
                code = min(((lane + half) * times) >> shift, caps[k])
                out[i, k] = code
                used += code
            if used > total:
                for k in range(inks):
                    out[i, k] = (lanes[k] * times) >> shift


@njit(cache=True, nogil=True, parallel=True)
def values_from_four(codes, places, points, nodes, out):
    """Pixels codes (n, 4) through floating-point nodes (points**4, m), to out (n, m) float32."""
    count = codes.shape[0]
    for block in prange(_BLOCKS):
        corners = np.empty(5, np.uint64)
        weights = np.empty(5, np.int64)
        fractions = np.empty(4, np.int64)
        steps = np.empty(4, np.uint64)
        for i in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            _simplex(codes[i], places, points, corners, weights, fractions, steps)
            for k in range(out.shape[1]):
                total = 0.0
                for c in range(5):
                    total += nodes[corners[c], k] * weights[c]
                out[i, k] = total * (1.0 / _ONE15)


@njit(cache=True, nogil=True, parallel=True)
def mark_nodes_of_four(codes, places, points, used):
    """Set used (points**4,) where the interpolation of pixels codes (n, 4) will look."""
    count = codes.shape[0]
    for block in prange(_BLOCKS):
        corners = np.empty(5, np.uint64)
        weights = np.empty(5, np.int64)
        fractions = np.empty(4, np.int64)
        steps = np.empty(4, np.uint64)
        for i in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            _simplex(codes[i], places, points, corners, weights, fractions, steps)
            for c in range(5):
                used[corners[c]] = True
