"""Plain loops over colors of 8 bit that were met before; compiled."""

import numpy as np
from numba import carray, njit

#: Colors of three channels.
_COLORS = 1 << 24


@njit(nogil=True, inline="always")
def _color(pixels, row):
    i = np.uint64(row)
    return (
        (np.uint32(pixels[i, 0]) << np.uint32(16))
        | (np.uint32(pixels[i, 1]) << np.uint32(8))
        | np.uint32(pixels[i, 2])
    )


def unknown(first, last, flat, known, found, count):
    """Mark the colors of flat (n, 3) uint8 as known (16.8 million,) uint8, list in found those that were not, and say in
    count (1,) how many these are. In order."""
    pixels, met = carray(flat, (last, 3)), carray(known, (_COLORS,))
    listed, told = carray(found, (last,)), carray(count, (1,))
    new = 0
    for row in range(first, last):
        color = _color(pixels, row)
        if not met[color]:
            met[color] = 1
            listed[new] = color
            new += 1
    told[0] = new


def gathered(first, last, flat, table, words):
    """What the colors of flat (n, 3) uint8 became, one whole number a color: table (16.8 million,) into words (n,)."""
    pixels, became, out = carray(flat, (last, 3)), carray(table, (_COLORS,)), carray(words, (last,))
    for row in range(first, last):
        out[np.uint64(row)] = became[_color(pixels, row)]


def gathered_inks(first, last, flat, table, inks, codes):
    """As `gathered`, ink by ink: table (16.8 million, inks) into codes (n, inks)."""
    pixels, became, out = carray(flat, (last, 3)), carray(table, (_COLORS, inks)), carray(codes, (last, inks))
    for row in range(first, last):
        color = _color(pixels, row)
        for ink in range(inks):
            out[np.uint64(row), np.uint64(ink)] = became[color, np.uint64(ink)]


# Four channels make too many colors for a place of its own each: a color, as a number of 32 bit, lies at the first free
# slot from where it hashes to (Knuth, The Art of Computer Programming 3, 6.4).
_GOLDEN, _LOW = np.uint64(2654435769), np.uint64(0xFFFFFFFF)


@njit(nogil=True, inline="always")
def _slot(color, colors, taken, shift):
    """Where a color lies, or the free slot where it belongs; there is always one free."""
    at = ((np.uint64(color) * _GOLDEN) & _LOW) >> np.uint64(shift)
    mask = np.uint64(len(colors) - 1)
    while taken[at] and colors[at] != color:
        at = (at + np.uint64(1)) & mask
    return at


def unknown_slots(first, last, flat, colors, taken, slots, shift, room, found, count):
    """Take a slot of colors and taken (slots,) uint32 and uint8 for each color of flat (n,) uint32 that has none, list in
    found those slots, and say in count (1,) how many these are, −1 where `room` ends. In order."""
    words, held, used = carray(flat, (last,)), carray(colors, (slots,)), carray(taken, (slots,))
    listed, told = carray(found, (room,)), carray(count, (1,))
    new = 0
    for row in range(first, last):
        at = _slot(words[np.uint64(row)], held, used, shift)
        if not used[at]:
            if new == room:
                new = -1
                break
            used[at] = 1
            held[at] = words[np.uint64(row)]
            listed[new] = at
            new += 1
    told[0] = new


def gathered_slots(first, last, flat, colors, taken, slots, shift, table, inks, codes):
    """What the colors of flat (n,), all of them known, became: table (slots, inks) into codes (n, inks)."""
    words, held, used = carray(flat, (last,)), carray(colors, (slots,)), carray(taken, (slots,))
    became, out = carray(table, (slots, inks)), carray(codes, (last, inks))
    for row in range(first, last):
        at = _slot(words[np.uint64(row)], held, used, shift)
        for ink in range(inks):
            out[np.uint64(row), np.uint64(ink)] = became[at, np.uint64(ink)]
