"""How far pixels lie inside a polygon, softened at its edge, compiled."""

import math

from numba import njit, prange


@njit(cache=True, nogil=True, inline="always")
def _smooth(t):
    t = min(max(t, 0.0), 1.0)
    return t * t * (3 - 2 * t)


@njit(cache=True, nogil=True)
def _signed_distance(x, y, corners):
    """Distance to the polygon's edge, positive inside (even-odd rule)."""
    nearest = 1e30
    inside = False
    count = corners.shape[0]
    for i in range(count):
        ax, ay = corners[i, 0], corners[i, 1]
        bx, by = corners[(i + 1) % count, 0], corners[(i + 1) % count, 1]
        dx, dy = bx - ax, by - ay
        length = dx * dx + dy * dy
        t = ((x - ax) * dx + (y - ay) * dy) / length if length > 0 else 0.0
        t = min(max(t, 0.0), 1.0)
        ex, ey = x - ax - t * dx, y - ay - t * dy
        nearest = min(nearest, ex * ex + ey * ey)
        if (ay > y) != (by > y) and x < dx * (y - ay) / dy + ax:
            inside = not inside
    distance = math.sqrt(nearest)
    return distance if inside else -distance


@njit(cache=True, nogil=True, parallel=True)
def polygon_weights(xs, ys, corners, softness, out):
    """Weights out (h, w) 0…1 for pixel centers xs (w,), ys (h,) and corners (n, 2), all in artwork pixels.

    `softness` is the width in pixels over which the weight rises, half of it to either side of the edge.
    """
    low_x, high_x = corners[:, 0].min() - softness, corners[:, 0].max() + softness
    low_y, high_y = corners[:, 1].min() - softness, corners[:, 1].max() + softness
    for row in prange(ys.shape[0]):
        y = ys[row]
        for column in range(xs.shape[0]):
            x = xs[column]
            if x < low_x or x > high_x or y < low_y or y > high_y:
                out[row, column] = 0.0
                continue
            distance = _signed_distance(x, y, corners)
            if softness > 0:
                out[row, column] = _smooth(0.5 + distance / softness)
            else:
                out[row, column] = 1.0 if distance >= 0 else 0.0


@njit(cache=True, nogil=True, parallel=True)
def color_weights(lab, center, radius, softness, out):
    """Multiply out (n,) by how near lab (n, 3) is to center (3,): 1 inside, 0 beyond `radius` (ΔE*ab)."""
    full = radius * (1 - softness)
    for i in prange(lab.shape[0]):
        distance = math.sqrt(
            (lab[i, 0] - center[0]) ** 2 + (lab[i, 1] - center[1]) ** 2 + (lab[i, 2] - center[2]) ** 2
        )
        if softness > 0:
            out[i] *= _smooth((radius - distance) / (radius - full))
        elif distance > radius:
            out[i] = 0.0
