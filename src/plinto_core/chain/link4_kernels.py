"""Pictures of four channels through a grid: simplex interpolation, compiled.

The cell's fractions, sorted, name five corners of a simplex; their weights sum to 2**15 exactly, so that limits hold as in
`link_kernels`, whose words hold here. An edge or face of the grid is interpolated from its own nodes alone: pure inks stay
pure. `codes` are pixels (n, 4).
"""

import numpy as np
from numba import carray, njit

from plinto_core.chain.link_kernels import _CELL, _FRACTION, _HIGH, _ONE, _ONE15, _STEP, address_of, write_inks


@njit(nogil=True, inline="always")
def _simplex(codes, row, places, points):
    """Corners of the simplex that holds a color of four codes, and their weights: tuples of five uint64."""
    i = np.uint64(row)
    p, q, r, s = places[codes[i, 0]], places[codes[i, 1]], places[codes[i, 2]], places[codes[i, 3]]
    plane = points * points
    cube = plane * points
    first = (
        np.uint64(p & _CELL) * cube
        + np.uint64(q & _CELL) * plane
        + np.uint64(r & _CELL) * points
        + np.uint64(s & _CELL)
    )
    k0, k1 = (np.uint64(p) << _HIGH) | cube, (np.uint64(q) << _HIGH) | plane
    k2, k3 = (np.uint64(r) << _HIGH) | points, (np.uint64(s) << _HIGH) | np.uint64(1)
    # A sorting network of five comparisons, largest first: a fraction's axis comes along in its key.
    k0, k1 = max(k0, k1), min(k0, k1)
    k2, k3 = max(k2, k3), min(k2, k3)
    k0, k2 = max(k0, k2), min(k0, k2)
    k1, k3 = max(k1, k3), min(k1, k3)
    k1, k2 = max(k1, k2), min(k1, k2)
    f0, f1, f2, f3 = k0 >> _FRACTION, k1 >> _FRACTION, k2 >> _FRACTION, k3 >> _FRACTION
    second = first + (k0 & _STEP)
    third = second + (k1 & _STEP)
    fourth = third + (k2 & _STEP)
    return (first, second, third, fourth, fourth + (k3 & _STEP)), (_ONE - f0, f0 - f1, f1 - f2, f2 - f3, f3)


def inks_from_four(first, last, codes, places, points, nodes, caps, more_caps, total, inks, written):
    """To written (n, inks) of up to eight inks; nodes (points**4, 4) or, of more than four, (points**4, 8)."""
    pixels, cells, out = carray(codes, (last, 4)), carray(places, (65536,)), carray(written, (last, inks))
    address, across, most = address_of(nodes), np.uint64(points), np.uint64(total)
    few, more = np.uint64(caps), np.uint64(more_caps)
    for row in range(first, last):
        corners, weights = _simplex(pixels, row, cells, across)
        write_inks(out, row, inks, address, corners, weights, few, more, most)


def values_from_four(first, last, codes, places, points, nodes, across_values, values):
    """Through floating-point nodes (points**4, across_values) float32, to values (n, across_values) float32."""
    pixels, cells, across = carray(codes, (last, 4)), carray(places, (65536,)), np.uint64(points)
    grid = carray(nodes, (points**4, across_values))
    out = carray(values, (last, across_values))
    for row in range(first, last):
        (a, b, c, d, e), (w0, w1, w2, w3, w4) = _simplex(pixels, row, cells, across)
        i = np.uint64(row)
        v0, v1, v2, v3, v4 = np.int64(w0), np.int64(w1), np.int64(w2), np.int64(w3), np.int64(w4)
        for each in range(across_values):
            k = np.uint64(each)
            total = grid[a, k] * v0 + grid[b, k] * v1 + grid[c, k] * v2 + grid[d, k] * v3 + grid[e, k] * v4
            out[i, k] = total * (1.0 / _ONE15)


def mark_nodes_of_four(first, last, codes, places, points, used):
    """Set used (points**4,) uint8 to 1 where the interpolation of the pixels will look."""
    pixels, cells, across = carray(codes, (last, 4)), carray(places, (65536,)), np.uint64(points)
    marked = carray(used, (points**4,))
    for row in range(first, last):
        corners, _weights = _simplex(pixels, row, cells, across)
        for corner in corners:
            marked[corner] = 1
