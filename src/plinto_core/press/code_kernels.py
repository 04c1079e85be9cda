"""Pictures of four inks to colors, compiled."""

import numpy as np
from numba import carray

from plinto_core.press.square_lanes import between_nodes


def four_inks_to_colors(first, last, codes, top, points, nodes, colors):
    """Ink codes (n, 4), integers 0…top, to colors (n, 3) float32, or uint8, rounded; nodes (points**4, 4) float32, the
    fourth for nothing."""
    pixels, out = carray(codes, (last, 4)), carray(colors, (last, 3))
    address = np.uint64(carray(nodes, (1,)).ctypes.data)
    # Numbered without a sign: a signed index is looked at for being negative at each access.
    s2 = np.uint64(points)
    s1 = s2 * s2
    s0 = s1 * s2
    cells = points - 2
    scale = np.float32((points - 1) / top)
    for row in range(first, last):
        i = np.uint64(row)
        x0 = np.float32(pixels[i, 0]) * scale
        x1 = np.float32(pixels[i, 1]) * scale
        x2 = np.float32(pixels[i, 2]) * scale
        x3 = np.float32(pixels[i, 3]) * scale
        i0 = min(int(x0), cells)
        i1 = min(int(x1), cells)
        i2 = min(int(x2), cells)
        i3 = min(int(x3), cells)
        fractions = (x0 - np.float32(i0), x1 - np.float32(i1), x2 - np.float32(i2), x3 - np.float32(i3))
        a = np.uint64(i0) * s0 + np.uint64(i1) * s1 + np.uint64(i2) * s2 + np.uint64(i3)
        color = between_nodes(address, (a, a + s1, a + s0, a + s0 + s1), s2, fractions)
        if out.itemsize == 1:
            half = np.float32(0.5)
            out[i, 0], out[i, 1], out[i, 2] = color[0] + half, color[1] + half, color[2] + half
        else:
            out[i, 0], out[i, 1], out[i, 2] = color
