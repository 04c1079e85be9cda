"""Lab to coordinates whose planes of one hue are straight for the eye, with their slopes, and back, compiled.

See `straight` for what the numbers are and where they come from.
"""

import math

import numpy as np
from numba import njit, prange

#: Cone-like responses from XYZ over the white's XYZ (D50); rows sum to 1, so that white is 1, 1, 1.
_N = (
    (0.66798, 0.462137, -0.130117),
    (-0.084806, 1.085427, -0.000621),
    (0.032785, -0.122233, 1.089448),
)
_EXPONENT = 0.6279
#: Keeps the slope finite at black.
_TOE = 0.004
_TOE_LIFT = _TOE**_EXPONENT
#: Compressed responses to the two opponent axes, scaled so that near gray they are a* and b*; rows sum to 0.
_G = ((351.174, -392.892, 41.718), (15.153, 81.853, -97.006))
_INVERSE_N = np.linalg.inv(np.array(_N))
#: Response to Y, of the inverse.
_Y_ROW = (_INVERSE_N[1, 0], _INVERSE_N[1, 1], _INVERSE_N[1, 2])
#: The first column is what all three responses rising alike adds: one; the other two give the opponent axes.
_BACK = np.linalg.inv(np.array([(1.0, 1.0, 1.0), *_G]))
_X_ROW = (_INVERSE_N[0, 0], _INVERSE_N[0, 1], _INVERSE_N[0, 2])
_Z_ROW = (_INVERSE_N[2, 0], _INVERSE_N[2, 1], _INVERSE_N[2, 2])
_B = tuple((_BACK[k, 1], _BACK[k, 2]) for k in range(3))


@njit(cache=True, nogil=True, inline="always")
def _from_f(f):
    """Ratio to white, and its slope, from Lab's f (CIE 15:2018, 8.2.1)."""
    if f > 6.0 / 29.0:
        return f * f * f, 3.0 * f * f
    return (116.0 * f - 16.0) * 27.0 / 24389.0, 116.0 * 27.0 / 24389.0


@njit(cache=True, nogil=True, inline="always")
def _to_f(ratio):
    if ratio > 216.0 / 24389.0:
        return ratio ** (1.0 / 3.0)
    return (24389.0 / 27.0 * ratio + 16.0) / 116.0


@njit(cache=True, nogil=True, inline="always")
def _compress(response):
    """Compressed response and its slope, odd around 0."""
    size = abs(response) + _TOE
    power = size**_EXPONENT
    return math.copysign(power - _TOE_LIFT, response), _EXPONENT * power / size


@njit(cache=True, nogil=True, inline="always")
def _expand(value):
    size = abs(value) + _TOE_LIFT
    power = size ** (1.0 / _EXPONENT)
    return math.copysign(power - _TOE, value), power / size / _EXPONENT


@njit(cache=True, nogil=True)
def straighten(lab, out, slopes):
    """Lab (3,) to L*, and the two straight opponent axes, in out (3,); slopes (3, 3) of these by L*, a*, b*."""
    fy = (lab[0] + 16.0) / 116.0
    y, dy = _from_f(fy)
    x, dx = _from_f(fy + lab[1] / 500.0)
    z, dz = _from_f(fy - lab[2] / 200.0)
    # The scale by which the axes follow a* and b* at every lightness.
    base = max(y, 0.0) + _TOE
    scale = base ** (1.0 / 3.0 - _EXPONENT)
    scale_l = (1.0 / 3.0 - _EXPONENT) / base * dy / 116.0
    out[0] = lab[0]
    slopes[0, 0] = 1.0
    slopes[0, 1] = 0.0
    slopes[0, 2] = 0.0
    for axis in range(2):
        out[1 + axis] = 0.0
        for k in range(3):
            slopes[1 + axis, k] = 0.0
    for cone in range(3):
        n = _N[cone]
        v, dv = _compress(n[0] * x + n[1] * y + n[2] * z)
        by_x = n[0] * dx * dv
        by_z = n[2] * dz * dv
        by_f = by_x + n[1] * dy * dv + by_z
        for axis in range(2):
            g = _G[axis][cone] * scale
            out[1 + axis] += g * v
            slopes[1 + axis, 0] += g * by_f / 116.0
            slopes[1 + axis, 1] += g * by_x / 500.0
            slopes[1 + axis, 2] -= g * by_z / 200.0
    for axis in range(2):
        slopes[1 + axis, 0] += out[1 + axis] * scale_l


@njit(cache=True, nogil=True)
def bend(straight, out):
    """The inverse of `straighten`, without slopes: Newton's steps on the one unknown, how bright the responses are."""
    fy = (straight[0] + 16.0) / 116.0
    y, _ = _from_f(fy)
    base = max(y, 0.0) + _TOE
    scale = base ** (_EXPONENT - 1.0 / 3.0)
    p = straight[1] * scale
    t = straight[2] * scale
    bright, _ = _compress(y)
    x_now = y
    z_now = y
    for _round in range(40):
        x_now = 0.0
        y_now = 0.0
        z_now = 0.0
        slope = 0.0
        for cone in range(3):
            response, d = _expand(bright + _B[cone][0] * p + _B[cone][1] * t)
            x_now += _X_ROW[cone] * response
            y_now += _Y_ROW[cone] * response
            z_now += _Z_ROW[cone] * response
            slope += _Y_ROW[cone] * d
        miss = y - y_now
        if abs(miss) < 1e-12:
            break
        bright += min(max(miss / max(slope, 1e-4), -0.25), 0.25)
    out[0] = straight[0]
    out[1] = 500.0 * (_to_f(x_now) - fy)
    out[2] = 200.0 * (fy - _to_f(z_now))


@njit(cache=True, nogil=True, parallel=True)
def straighten_rows(lab, out):
    """Rows of Lab (n, 3) to rows of straight coordinates (n, 3)."""
    blocks = 16
    n = lab.shape[0]
    slopes = np.empty((blocks, 3, 3))
    for block in prange(blocks):
        for i in range(block * n // blocks, (block + 1) * n // blocks):
            straighten(lab[i], out[i], slopes[block])


@njit(cache=True, nogil=True, parallel=True)
def bend_rows(straight, out):
    """Rows of straight coordinates (n, 3) to rows of Lab (n, 3)."""
    for i in prange(straight.shape[0]):
        bend(straight[i], out[i])
