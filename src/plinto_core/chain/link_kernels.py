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


@njit(cache=True, nogil=True, inline="always")
def _corners(x, y, z, step_x, step_y, step_z):
    """Second and third corner offset and the four weights of the tetrahedron that holds (x, y, z)."""
    if x >= y:
        if y >= z:
            return step_x, step_x + step_y, _ONE15 - x, x - y, y - z, z
        if x >= z:
            return step_x, step_x + step_z, _ONE15 - x, x - z, z - y, y
        return step_z, step_z + step_x, _ONE15 - z, z - x, x - y, y
    if x >= z:
        return step_y, step_y + step_x, _ONE15 - y, y - x, x - z, z
    if y >= z:
        return step_y, step_y + step_z, _ONE15 - y, y - z, z - x, x
    return step_z, step_z + step_y, _ONE15 - z, z - y, y - x, x


@njit(cache=True, nogil=True, parallel=True)
def four_inks(rgb, positions, points, words, caps, total, unit, out):
    """Pixels rgb (n, 3) to out (n, 4).

    positions (codes,): grid position of an input code in 15-bit fixed point; words (points**3, 2) uint64:
    two inks a word; caps (4,) and total: the largest codes allowed; unit (lane value of one output code,
    multiplier, shift): a lane is divided by the first by multiplying and shifting.
    """
    step_x = points * points
    step_y = points
    last = points - 2
    half = unit[0] >> np.uint64(1)
    times, shift = unit[1], unit[2]
    far = step_x + step_y + 1
    blocks = 256
    count = rgb.shape[0]
    cap0, cap1, cap2, cap3 = caps[0], caps[1], caps[2], caps[3]
    for block in prange(blocks):
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            px = positions[rgb[i, 0]]
            py = positions[rgb[i, 1]]
            pz = positions[rgb[i, 2]]
            cx = min(px >> 15, last)
            cy = min(py >> 15, last)
            cz = min(pz >> 15, last)
            b, c, w0, w1, w2, w3 = _corners(px - (cx << 15), py - (cy << 15), pz - (cz << 15), step_x, step_y, 1)
            a = cx * step_x + cy * step_y + cz
            u0, u1, u2, u3 = np.uint64(w0), np.uint64(w1), np.uint64(w2), np.uint64(w3)
            first = words[a, 0] * u0 + words[a + b, 0] * u1 + words[a + c, 0] * u2 + words[a + far, 0] * u3
            second = words[a, 1] * u0 + words[a + b, 1] * u1 + words[a + c, 1] * u2 + words[a + far, 1] * u3
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
            out[i, 0] = o0
            out[i, 1] = o1
            out[i, 2] = o2
            out[i, 3] = o3


@njit(cache=True, nogil=True, parallel=True)
def any_inks(rgb, positions, points, words, caps, total, unit, out):
    """As `four_inks` for any number of inks; words (points**3, (inks + 1) // 2)."""
    step_x = points * points
    step_y = points
    last = points - 2
    half = unit[0] >> np.uint64(1)
    times, shift = unit[1], unit[2]
    far = step_x + step_y + 1
    inks = out.shape[1]
    blocks = 256
    count = rgb.shape[0]
    for block in prange(blocks):
        lanes = np.empty(inks + 1, np.uint64)
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            px = positions[rgb[i, 0]]
            py = positions[rgb[i, 1]]
            pz = positions[rgb[i, 2]]
            cx = min(px >> 15, last)
            cy = min(py >> 15, last)
            cz = min(pz >> 15, last)
            b, c, w0, w1, w2, w3 = _corners(px - (cx << 15), py - (cy << 15), pz - (cz << 15), step_x, step_y, 1)
            a = cx * step_x + cy * step_y + cz
            used = np.uint64(0)
            for k in range(words.shape[1]):
                pair = (
                    words[a, k] * np.uint64(w0)
                    + words[a + b, k] * np.uint64(w1)
                    + words[a + c, k] * np.uint64(w2)
                    + words[a + far, k] * np.uint64(w3)
                )
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
def values_at(rgb, positions, points, nodes, out):
    """Pixels rgb (n, 3) through floating-point nodes (points**3, m), to out (n, m) float32."""
    step_x = points * points
    last = points - 2
    far = step_x + points + 1
    m = nodes.shape[1]
    blocks = 256
    count = rgb.shape[0]
    for block in prange(blocks):
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            px = positions[rgb[i, 0]]
            py = positions[rgb[i, 1]]
            pz = positions[rgb[i, 2]]
            cx = min(px >> 15, last)
            cy = min(py >> 15, last)
            cz = min(pz >> 15, last)
            b, c, w0, w1, w2, w3 = _corners(px - (cx << 15), py - (cy << 15), pz - (cz << 15), step_x, points, 1)
            a = cx * step_x + cy * points + cz
            for k in range(m):
                out[i, k] = (
                    nodes[a, k] * w0 + nodes[a + b, k] * w1 + nodes[a + c, k] * w2 + nodes[a + far, k] * w3
                ) * (1.0 / _ONE15)
