"""Plain loops over pixels: reduction, coverage, marks; compiled."""

import math

import numpy as np
from numba import njit, prange


@njit(cache=True, nogil=True)
def halve(pixels, out):
    """Mean of 2×2 pixels (h, w, c) to (ceil(h/2), ceil(w/2), c); edges repeat."""
    h, w = pixels.shape[0], pixels.shape[1]
    for y in range(out.shape[0]):
        y0 = 2 * y
        y1 = min(y0 + 1, h - 1)
        for x in range(out.shape[1]):
            x0 = 2 * x
            x1 = min(x0 + 1, w - 1)
            for c in range(out.shape[2]):
                total = (
                    np.uint32(pixels[y0, x0, c])
                    + np.uint32(pixels[y0, x1, c])
                    + np.uint32(pixels[y1, x0, c])
                    + np.uint32(pixels[y1, x1, c])
                )
                out[y, x, c] = (total + np.uint32(2)) >> np.uint32(2)


@njit(cache=True, nogil=True, parallel=True)
def resample(pixels, left, top, step, out):
    """Bilinear samples of pixels (h, w, c) every `step` (0.5…2) pixels from (left, top), into out."""
    h, w = pixels.shape[0], pixels.shape[1]
    for y in prange(out.shape[0]):
        fy = min(max(top + (y + 0.5) * step - 0.5, 0.0), h - 1.0)
        y0 = min(int(fy), max(h - 2, 0))
        y1 = min(y0 + 1, h - 1)
        vy = np.float32(fy - y0)
        for x in range(out.shape[1]):
            fx = min(max(left + (x + 0.5) * step - 0.5, 0.0), w - 1.0)
            x0 = min(int(fx), max(w - 2, 0))
            x1 = min(x0 + 1, w - 1)
            vx = np.float32(fx - x0)
            for c in range(out.shape[2]):
                above = pixels[y0, x0, c] * (np.float32(1) - vx) + pixels[y0, x1, c] * vx
                below = pixels[y1, x0, c] * (np.float32(1) - vx) + pixels[y1, x1, c] * vx
                out[y, x, c] = above * (np.float32(1) - vy) + below * vy + np.float32(0.5)


@njit(cache=True, nogil=True, parallel=True)
def hatch(picture, field, threshold, reach, angle_rad, color, left, top):
    """Draw hatching over picture (h, w, 3) uint8 where field (h, w) exceeds threshold, in place.

    Lines widen from a hairline to half their distance while the field rises from threshold by `reach`. Each is
    drawn in `color` with an edge of the opposite lightness, so that it shows on any picture. (left, top) is the
    picture's corner in the artwork's screen coordinates: the pattern stays put while the view is dragged.
    """
    distance = 9.0
    nx, ny = math.cos(angle_rad), math.sin(angle_rad)
    light = 0.3 * color[0] + 0.6 * color[1] + 0.1 * color[2] > 127
    edge = np.uint8(0) if light else np.uint8(255)
    for y in prange(picture.shape[0]):
        for x in range(picture.shape[1]):
            excess = field[y, x] - threshold
            if excess > 0:
                width = 1.1 + 2.4 * min(excess / reach, 1.0)
                along = (x + left) * nx + (y + top) * ny
                phase = along - distance * math.floor(along / distance)
                if phase < width:
                    for c in range(3):
                        picture[y, x, c] = color[c]
                elif phase < width + 0.9:
                    for c in range(3):
                        picture[y, x, c] = (np.uint16(picture[y, x, c]) + edge) // 2
