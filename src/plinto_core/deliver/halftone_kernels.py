"""Dots: tones against a threshold that is laid out along a rotated screen, compiled."""

import math

from numba import njit, prange

TABLE = 256


@njit(cache=True, nogil=True, inline="always")
def _threshold(table, x, y, cos, sin):
    """Threshold 0…65534 at a film pixel; cos and sin are of the angle, times cells a pixel."""
    # Off the cell's center, and by another way along than across: where a cell is a whole number of pixels wide and stands
    # straight, up to eight of them would lie alike, and a dot would grow by all of them at once.
    x += 0.25
    y += 0.3
    u = x * cos + y * sin
    v = y * cos - x * sin
    u -= math.floor(u)
    v -= math.floor(v)
    return table[int(u * TABLE), int(v * TABLE)]


@njit(cache=True, nogil=True, inline="always")
def _sample(tones, x, y):
    """Bilinear tone, 16 bit, of tones (h, w) uint16 at a point; edges repeat."""
    h, w = tones.shape
    fx = min(max(x - 0.5, 0.0), w - 1.0)
    fy = min(max(y - 0.5, 0.0), h - 1.0)
    x0 = min(int(fx), max(w - 2, 0))
    y0 = min(int(fy), max(h - 2, 0))
    x1 = min(x0 + 1, w - 1)
    y1 = min(y0 + 1, h - 1)
    vx = fx - x0
    vy = fy - y0
    above = tones[y0, x0] * (1 - vx) + tones[y0, x1] * vx
    below = tones[y1, x0] * (1 - vx) + tones[y1, x1] * vx
    return above * (1 - vy) + below * vy


@njit(cache=True, nogil=True, parallel=True)
def enlarge_rows(tones, first_row, top, scale, out):
    """Film rows out (rows, w) uint16: bilinear tones from plate rows tones (h, w0) uint16.

    `tones` starts at plate row `first_row`; the film's row `top` is the first of out; `scale` is film pixels for a
    plate pixel.
    """
    for row in prange(out.shape[0]):
        y = (top + row + 0.5) / scale - first_row
        for column in range(out.shape[1]):
            out[row, column] = int(_sample(tones, (column + 0.5) / scale, y) + 0.5)


@njit(cache=True, nogil=True, parallel=True)
def dots(tones, left, top, cos, sin, table, out):
    """1 where film tones (h, w) uint16 beat the threshold, into out (h, w) uint8; (left, top): place on the film."""
    for row in prange(tones.shape[0]):
        for column in range(tones.shape[1]):
            out[row, column] = tones[row, column] > _threshold(table, column + left, row + top, cos, sin)


@njit(cache=True, nogil=True, parallel=True)
def dots_on_screen(codes, top_code, xs, ys, scale, screens, table, primaries, out):
    """What film dots look like on a screen: mean color of two by two points a screen pixel, out (h, w, 3) float32.

    codes (h, w, inks) at every screen pixel; xs (w,), ys (h,) its place on the artwork; scale: film pixels an
    artwork pixel; screens (inks, 2): cos and sin times cells a film pixel; primaries (2**inks, 3): color of each
    overprint of solids, the first ink the lowest bit.
    """
    inks = codes.shape[2]
    half_x = (xs[1] - xs[0]) / 4 if xs.shape[0] > 1 else 0.0
    half_y = (ys[1] - ys[0]) / 4 if ys.shape[0] > 1 else 0.0
    for row in prange(codes.shape[0]):
        for column in range(codes.shape[1]):
            for c in range(3):
                out[row, column, c] = 0.0
            for sub in range(4):
                x = math.floor((xs[column] + (half_x if sub & 1 else -half_x)) * scale)
                y = math.floor((ys[row] + (half_y if sub & 2 else -half_y)) * scale)
                which = 0
                for k in range(inks):
                    tone = codes[row, column, k] * 65535 // top_code
                    if tone > _threshold(table, x, y, screens[k, 0], screens[k, 1]):
                        which |= 1 << k
                for c in range(3):
                    out[row, column, c] += primaries[which, c] * 0.25


@njit(cache=True, nogil=True, parallel=True)
def mean_of_dots(codes, top_code, primaries, out):
    """Mean color (h, w, 3) of dots of codes (h, w, inks) that lie by chance on one another (Demichel 1924), from the
    primaries (2**inks, 3) of `dots_on_screen`."""
    inks = codes.shape[2]
    for row in prange(codes.shape[0]):
        for column in range(codes.shape[1]):
            for c in range(3):
                out[row, column, c] = 0.0
            for which in range(1 << inks):
                weight = 1.0
                for k in range(inks):
                    tone = codes[row, column, k] / top_code
                    weight *= tone if (which >> k) & 1 else 1.0 - tone
                if weight > 0.0:
                    for c in range(3):
                        out[row, column, c] += weight * primaries[which, c]
