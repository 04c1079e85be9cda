"""Pictures of three channels through a grid: tetrahedral interpolation, compiled.

The sums are exact (see `lanes`), rounding comes last; where it would lift a pixel over the total, that pixel is rounded
down instead. All node sums hold the total, a weighted mean of them does, and rounding down too.

Every kernel takes `first` and `last`, its rows; `rgb`, pixels (n, 3); `places` (256,) or (65536,) uint32, see
`spread.places_by_code`; and `points`, how many nodes stand along a channel. Every index is unsigned: a signed one is looked
at for being negative, at each of a dozen accesses a pixel.
"""

import numpy as np
from numba import carray, njit

from plinto_core.chain.lanes import weighted_codes

_ONE15 = 1 << 15
_ONE = np.uint64(_ONE15)
_CELL = np.uint32(0xFFFF)
_HIGH = np.uint64(32)
_FRACTION = np.uint64(48)
_STEP = np.uint64(0xFFFFFFFF)
_CODE = np.uint64(0xFFFF)
_TWO_CODES = np.uint64(0x0000FFFF0000FFFF)


@njit(nogil=True, inline="always")
def _sorted_keys(x, y, z):
    """Three keys, largest first, without a branch that a processor could guess wrong."""
    high, low = max(x, y), min(x, y)
    middle = min(high, z)
    return max(high, z), max(low, middle), min(low, middle)


@njit(nogil=True, inline="always")
def _tetrahedron(rgb, row, places, across):
    """Corners of the tetrahedron that holds a color, and their weights: tuples of four uint64."""
    i = np.uint64(row)
    red, green, blue = places[rgb[i, 0]], places[rgb[i, 1]], places[rgb[i, 2]]
    plane = across * across
    first = np.uint64(red & _CELL) * plane + np.uint64(green & _CELL) * across + np.uint64(blue & _CELL)
    # A key holds a fraction above and a node offset below, so that sorting fractions brings their axes along.
    k1, k2, k3 = _sorted_keys(
        (np.uint64(red) << _HIGH) | plane,
        (np.uint64(green) << _HIGH) | across,
        (np.uint64(blue) << _HIGH) | np.uint64(1),
    )
    f1, f2, f3 = k1 >> _FRACTION, k2 >> _FRACTION, k3 >> _FRACTION
    second = first + (k1 & _STEP)
    corners = first, second, second + (k2 & _STEP), first + plane + across + np.uint64(1)
    return corners, (_ONE - f1, f1 - f2, f2 - f3, f3)


@njit(nogil=True, inline="always")
def sum_of_codes(word):
    """Sum of the four codes of 16 bits in a word."""
    pairs = (word & _TWO_CODES) + ((word >> np.uint64(16)) & _TWO_CODES)
    return (pairs & _STEP) + (pairs >> _HIGH)


@njit(nogil=True, inline="always")
def four_of_8_bits(word):
    """Four codes of up to 255, 16 bits apart in a word, 8 bits apart."""
    word |= word >> np.uint64(8)
    return np.uint32((word & _CODE) | ((word >> np.uint64(16)) & np.uint64(0xFFFF0000)))


@njit(nogil=True, inline="always")
def address_of(nodes):
    """Where what a pointer points to begins in memory."""
    return np.uint64(carray(nodes, (1,)).ctypes.data)


@njit(nogil=True, inline="always")
def write_inks(out, row, inks, address, corners, weights, caps, more_caps, most):
    """Up to eight codes of a color to a row of out (n, inks); nodes at `address` have four values, of more than four inks
    eight."""
    i = np.uint64(row)
    row_bytes = np.uint64(16 if inks > 4 else 8)
    low, low_down = weighted_codes(out, address, row_bytes, corners, weights, caps)
    high, high_down = np.uint64(0), np.uint64(0)
    if inks > 4:
        high, high_down = weighted_codes(out, address + np.uint64(8), row_bytes, corners, weights, more_caps)
    if sum_of_codes(low) + sum_of_codes(high) > most:
        low, high = low_down, high_down
    for k in range(min(inks, 4)):
        out[i, np.uint64(k)] = (low >> np.uint64(16 * k)) & _CODE
    for k in range(4, inks):
        out[i, np.uint64(k)] = (high >> np.uint64(16 * (k - 4))) & _CODE


def four_inks(first, last, rgb, places, points, nodes, caps, total, packed):
    """To packed (n,) uint32 or uint64: the four codes of 8 or 16 bits of a pixel in one word, first ink lowest.

    nodes (points**3, 4) int16: values less 2**15; caps: the largest code of each ink, four of 16 bits in a word; total: the
    largest sum of codes.
    """
    pixels, cells, out = carray(rgb, (last, 3)), carray(places, (65536,)), carray(packed, (last,))
    address, largest, most, across = address_of(nodes), np.uint64(caps), np.uint64(total), np.uint64(points)
    for row in range(first, last):
        corners, weights = _tetrahedron(pixels, row, cells, across)
        codes, down = weighted_codes(out, address, np.uint64(8), corners, weights, largest)
        if sum_of_codes(codes) > most:
            codes = down
        out[np.uint64(row)] = four_of_8_bits(codes) if out.itemsize == 4 else codes


def any_inks(first, last, rgb, places, points, nodes, caps, more_caps, total, inks, codes):
    """As `four_inks`, to codes (n, inks) of up to eight inks; nodes (points**3, 4), of more than four inks 8."""
    pixels, cells, out = carray(rgb, (last, 3)), carray(places, (65536,)), carray(codes, (last, inks))
    address, across, most = address_of(nodes), np.uint64(points), np.uint64(total)
    few, more = np.uint64(caps), np.uint64(more_caps)
    for row in range(first, last):
        corners, weights = _tetrahedron(pixels, row, cells, across)
        write_inks(out, row, inks, address, corners, weights, few, more, most)


def values_at(first, last, rgb, places, points, nodes, across_values, values):
    """Through floating-point nodes (points**3, across_values) float32, to values (n, across_values) float32."""
    pixels, cells, across = carray(rgb, (last, 3)), carray(places, (65536,)), np.uint64(points)
    grid = carray(nodes, (points * points * points, across_values))
    out = carray(values, (last, across_values))
    for row in range(first, last):
        (a, b, c, d), (w0, w1, w2, w3) = _tetrahedron(pixels, row, cells, across)
        i = np.uint64(row)
        v0, v1, v2, v3 = np.int64(w0), np.int64(w1), np.int64(w2), np.int64(w3)
        for each in range(across_values):
            k = np.uint64(each)
            out[i, k] = (grid[a, k] * v0 + grid[b, k] * v1 + grid[c, k] * v2 + grid[d, k] * v3) * (1.0 / _ONE15)


def mark_nodes(first, last, rgb, places, points, used):
    """Set used (points**3,) uint8 to 1 where the interpolation of the pixels will look."""
    pixels, cells, across = carray(rgb, (last, 3)), carray(places, (65536,)), np.uint64(points)
    marked = carray(used, (points * points * points,))
    for row in range(first, last):
        (a, b, c, d), _weights = _tetrahedron(pixels, row, cells, across)
        marked[a] = 1
        marked[b] = 1
        marked[c] = 1
        marked[d] = 1
