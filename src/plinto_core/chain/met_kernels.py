"""Plain loops over colors of 8 bit that were met before; compiled."""

import numpy as np
from numba import njit, prange


@njit(cache=True, nogil=True)
def unknown(flat, known, found):
    """Mark the colors of flat (n, 3) uint8 as known (16.8 million) and list those that were not; how many there are."""
    count = 0
    for row in range(flat.shape[0]):
        color = (np.uint32(flat[row, 0]) << 16) | (np.uint32(flat[row, 1]) << 8) | np.uint32(flat[row, 2])
        if not known[color]:
            known[color] = True
            found[count] = color
            count += 1
    return count


@njit(cache=True, nogil=True, parallel=True)
def gathered(flat, table, out):
    """What the colors of flat (n, 3) uint8 became, one whole number a color: table (16.8 million,) into out (n,)."""
    for row in prange(flat.shape[0]):
        color = (np.uint32(flat[row, 0]) << 16) | (np.uint32(flat[row, 1]) << 8) | np.uint32(flat[row, 2])
        out[row] = table[color]


@njit(cache=True, nogil=True, parallel=True)
def gathered_inks(flat, table, out):
    """As `gathered`, ink by ink: table (16.8 million, inks) into out (n, inks)."""
    for row in prange(flat.shape[0]):
        color = (np.uint32(flat[row, 0]) << 16) | (np.uint32(flat[row, 1]) << 8) | np.uint32(flat[row, 2])
        for ink in range(out.shape[1]):
            out[row, ink] = table[color, ink]
