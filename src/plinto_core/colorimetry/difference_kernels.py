"""ΔE00 pair by pair, compiled: it runs over whole pictures."""

import math

from numba import njit, prange

_POW25_7 = 25.0**7


@njit(cache=True, nogil=True, inline="never")
def ciede2000(L1, a1, b1, L2, a2, b2):
    """CIEDE2000 of two Lab colors, kL = kC = kH = 1 (CIE 142-2001; notation of Sharma et al. 2005)."""
    mean_c7 = ((math.hypot(a1, b1) + math.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - math.sqrt(mean_c7 / (mean_c7 + _POW25_7)))
    a1 = (1 + g) * a1
    a2 = (1 + g) * a2
    c1 = math.hypot(a1, b1)
    c2 = math.hypot(a2, b2)
    h1 = math.atan2(b1, a1)
    h2 = math.atan2(b2, a2)
    if h1 < 0:
        h1 += 2 * math.pi
    if h2 < 0:
        h2 += 2 * math.pi
    dh = h2 - h1
    h_mean = (h1 + h2) / 2
    if c1 * c2 == 0:
        dh = 0.0
        h_mean = h1 + h2
    elif abs(dh) > math.pi:
        dh -= math.copysign(2 * math.pi, dh)
        h_mean += math.pi if h1 + h2 < 2 * math.pi else -math.pi
    dL = L2 - L1
    dC = c2 - c1
    dH = 2 * math.sqrt(c1 * c2) * math.sin(dh / 2)
    l50 = ((L1 + L2) / 2 - 50) ** 2
    c_mean = (c1 + c2) / 2
    t = (
        1
        - 0.17 * math.cos(h_mean - math.pi / 6)
        + 0.24 * math.cos(2 * h_mean)
        + 0.32 * math.cos(3 * h_mean + math.pi / 30)
        - 0.20 * math.cos(4 * h_mean - math.pi * 63 / 180)
    )
    sl = 1 + 0.015 * l50 / math.sqrt(20 + l50)
    sc = 1 + 0.045 * c_mean
    sh = 1 + 0.015 * c_mean * t
    c7 = c_mean**7
    turn = math.radians(60) * math.exp(-(((math.degrees(h_mean) - 275) / 25) ** 2))
    rt = -2 * math.sqrt(c7 / (c7 + _POW25_7)) * math.sin(turn)
    q = (dL / sl) ** 2 + (dC / sc) ** 2 + (dH / sh) ** 2 + rt * (dC / sc) * (dH / sh)
    return math.sqrt(max(q, 0.0))


@njit(cache=True, nogil=True, parallel=True)
def ciede2000_rows(first, second, out):
    """ΔE00 of the rows of two (n, 3) arrays into out (n,)."""
    for i in prange(first.shape[0]):
        out[i] = ciede2000(first[i, 0], first[i, 1], first[i, 2], second[i, 0], second[i, 1], second[i, 2])
