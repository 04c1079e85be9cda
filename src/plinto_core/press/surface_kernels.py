"""Cubic radial functions of many centers, summed at many places, compiled."""

import math

import numpy as np
from numba import njit, prange


# What is summed may be summed in any order: only so are eight centers taken at a time.
@njit(cache=True, nogil=True, parallel=True, fastmath={"reassoc", "nsz", "contract"})
def add_cubes(values, centers, weights, out):
    """Add to `out` (k, 3), at `values` (k, inks), the `weights` (3, n) times the cubes of the distances to `centers`
    (inks, n)."""
    count, inks = values.shape
    n = centers.shape[1]
    blocks = 64
    for block in prange(blocks):
        square = np.empty(n)
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            square[:] = 0.0
            for k in range(inks):
                x = values[i, k]
                for j in range(n):
                    apart = x - centers[k, j]
                    square[j] += apart * apart
            a = b = c = 0.0
            for j in range(n):
                cube = square[j] * math.sqrt(square[j])
                a += weights[0, j] * cube
                b += weights[1, j] * cube
                c += weights[2, j] * cube
            out[i, 0] += a
            out[i, 1] += b
            out[i, 2] += c
