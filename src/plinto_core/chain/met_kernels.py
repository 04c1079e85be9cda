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


# Four channels make too many colors for a place of its own each: a color, as a number of 32 bit, lies at the first free
# slot from where it hashes to (Knuth, The Art of Computer Programming 3, 6.4).
_GOLDEN, _LOW = np.uint64(2654435769), np.uint64(0xFFFFFFFF)


@njit(cache=True, nogil=True)
def _slot(color, colors, taken, shift):
    """Where a color lies, or the free slot where it belongs; there is always one free."""
    at = ((np.uint64(color) * _GOLDEN) & _LOW) >> np.uint64(shift)
    mask = np.uint64(len(colors) - 1)
    while taken[at] and colors[at] != color:
        at = (at + np.uint64(1)) & mask
    return at


@njit(cache=True, nogil=True)
def unknown_slots(flat, colors, taken, shift, room, found):
    """Take a slot for each color of flat (n,) uint32 that has none, and list those; how many, −1 where `room` ends."""
    count = 0
    for row in range(flat.shape[0]):
        at = _slot(flat[row], colors, taken, shift)
        if not taken[at]:
            if count == room:
                return -1
            taken[at] = True
            colors[at] = flat[row]
            found[count] = at
            count += 1
    return count


@njit(cache=True, nogil=True, parallel=True)
def gathered_slots(flat, colors, taken, shift, table, out):
    """What the colors of flat (n,), all of them known, became: table (slots, inks) into out (n, inks)."""
    for row in prange(flat.shape[0]):
        at = _slot(flat[row], colors, taken, shift)
        for ink in range(out.shape[1]):
            out[row, ink] = table[at, ink]
