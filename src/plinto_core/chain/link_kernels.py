"""Pictures through a link: tetrahedral interpolation in integers, two inks to a 64-bit word, compiled.

Weights sum to 2**15 and node values are 16 bit, so a lane of 32 bits holds the exact weighted sum of one ink
and one multiplication serves two. Rounding comes last; where it would lift a pixel over the total, that pixel
is rounded down instead. All node sums hold the total, a weighted mean of them does, and rounding down too.
"""

import numpy as np
from numba import njit, prange

_LANE = np.uint64(0xFFFFFFFF)
_SHIFT = np.uint64(32)
_ONE15 = 1 << 15
_ONE = np.uint64(_ONE15)
_CELL = np.uint64(15)

#: A key holds a fraction above and a node offset below, so that sorting fractions brings their axes along.
_OFFSET_BITS = np.uint64(24)
_OFFSET_MASK = np.uint64((1 << 24) - 1)
_BLOCKS = 256

# Every index is unsigned: a signed one is looked at for being negative, at each of a dozen accesses a pixel, which takes
# half of the time.


@njit(cache=True, nogil=True, inline="always")
def _axis(code, places, last, step):
    """Cell offset along one axis, and the key of the fraction inside the cell. `places`: 15-bit cells, by code."""
    place = np.uint64(places[code])
    cell = min(place >> _CELL, last)
    return cell * step, ((place - (cell << _CELL)) << _OFFSET_BITS) | step


@njit(cache=True, nogil=True, inline="always")
def _sorted_keys(x, y, z):
    """Three keys, largest first, without a branch that a processor could guess wrong."""
    high, low = max(x, y), min(x, y)
    middle = min(high, z)
    return max(high, z), max(low, middle), min(low, middle)


@njit(cache=True, nogil=True, inline="always")
def _tetrahedron(red, green, blue, places, points):
    """First node of the cell that holds a color, offsets of the other three corners, and the four weights; all uint64."""
    across = np.uint64(points)
    step = across * across
    last = np.uint64(points - 2)
    ax, kx = _axis(red, places, last, step)
    ay, ky = _axis(green, places, last, across)
    az, kz = _axis(blue, places, last, np.uint64(1))
    k1, k2, k3 = _sorted_keys(kx, ky, kz)
    f1, f2, f3 = k1 >> _OFFSET_BITS, k2 >> _OFFSET_BITS, k3 >> _OFFSET_BITS
    b = k1 & _OFFSET_MASK
    far = step + across + np.uint64(1)
    return ax + ay + az, b, b + (k2 & _OFFSET_MASK), far, _ONE - f1, f1 - f2, f2 - f3, f3


@njit(cache=True, nogil=True, parallel=True)
def four_inks(rgb, places, points, words, caps, total, unit, packed):
    """Pixels rgb (n, 3) to packed (n,): the four codes of a pixel in one word of 32 or 64 bits, first ink lowest.

    places (256,) or (65536,) uint32: 15-bit cells from the first node, by input code; words (points**3, 2) uint64: two
    inks a word;
    caps (4,) and total: the largest codes allowed; unit: lane value of one output code, and the multiplier and
    shift that divide by it.
    """
    count = rgb.shape[0]
    bits = np.uint64(packed.itemsize * 2)
    half = unit[0] >> np.uint64(1)
    times, shift = unit[1], unit[2]
    cap0, cap1, cap2, cap3 = caps[0], caps[1], caps[2], caps[3]
    for block in prange(_BLOCKS):
        for row in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            i = np.uint64(row)
            a, b, c, far, w0, w1, w2, w3 = _tetrahedron(rgb[i, 0], rgb[i, 1], rgb[i, 2], places, points)
            first = words[a, 0] * w0 + words[a + b, 0] * w1 + words[a + c, 0] * w2 + words[a + far, 0] * w3
            second = words[a, 1] * w0 + words[a + b, 1] * w1 + words[a + c, 1] * w2 + words[a + far, 1] * w3
            i0 = first & _LANE
            i1 = first >> _SHIFT
            i2 = second & _LANE
            i3 = second >> _SHIFT
            o0 = min(((i0 + half) * times) >> shift, cap0)
            o1 = min(((i1 + half) * times) >> shift, cap1)
            o2 = min(((i2 + half) * times) >> shift, cap2)
            o3 = min(((i3 + half) * times) >> shift, cap3)
            if o0 + o1 + o2 + o3 > total:
                o0 = (i0 * times) >> shift
                o1 = (i1 * times) >> shift
                o2 = (i2 * times) >> shift
                o3 = (i3 * times) >> shift
            packed[i] = o0 | (o1 << bits) | (o2 << (bits + bits)) | (o3 << (bits + bits + bits))


@njit(cache=True, nogil=True, parallel=True)
def any_inks(rgb, places, points, words, caps, total, unit, out):
    """As `four_inks` for any number of inks; words (points**3, (inks + 1) // 2)."""
    half = unit[0] >> np.uint64(1)
    times, shift = unit[1], unit[2]
    inks = out.shape[1]
    count = rgb.shape[0]
    for block in prange(_BLOCKS):
        lanes = np.empty(inks + 1, np.uint64)
        for row in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            i = np.uint64(row)
            a, b, c, far, w0, w1, w2, w3 = _tetrahedron(rgb[i, 0], rgb[i, 1], rgb[i, 2], places, points)
            used = np.uint64(0)
            for k in range(words.shape[1]):
                pair = words[a, k] * w0 + words[a + b, k] * w1 + words[a + c, k] * w2 + words[a + far, k] * w3
                lanes[2 * k] = pair & _LANE
                lanes[2 * k + 1] = pair >> _SHIFT
            for k in range(inks):
                code = min(((lanes[k] + half) * times) >> shift, caps[k])
                out[i, k] = code
                used += code
            if used > total:
                for k in range(inks):
                    out[i, k] = (lanes[k] * times) >> shift


@njit(cache=True, nogil=True, parallel=True)
def values_at(rgb, places, points, nodes, out):
    """Pixels rgb (n, 3) through floating-point nodes (points**3, m), to out (n, m) float32."""
    m = nodes.shape[1]
    count = rgb.shape[0]
    for block in prange(_BLOCKS):
        for row in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            i = np.uint64(row)
            a, b, c, far, w0, w1, w2, w3 = _tetrahedron(rgb[i, 0], rgb[i, 1], rgb[i, 2], places, points)
            v0, v1, v2, v3 = np.int64(w0), np.int64(w1), np.int64(w2), np.int64(w3)
            for k in range(m):
                out[i, k] = (
                    nodes[a, k] * v0 + nodes[a + b, k] * v1 + nodes[a + c, k] * v2 + nodes[a + far, k] * v3
                ) * (1.0 / _ONE15)


@njit(cache=True, nogil=True, parallel=True)
def mark_nodes(rgb, places, points, used):
    """Set used (points**3,) where the interpolation of pixels rgb (n, 3) will look."""
    count = rgb.shape[0]
    for block in prange(_BLOCKS):
        for row in range(block * count // _BLOCKS, (block + 1) * count // _BLOCKS):
            i = np.uint64(row)
            a, b, c, far, _w0, _w1, _w2, _w3 = _tetrahedron(rgb[i, 0], rgb[i, 1], rgb[i, 2], places, points)
            used[a] = True
            used[a + b] = True
            used[a + c] = True
            used[a + far] = True
