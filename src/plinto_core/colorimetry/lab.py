"""CIE XYZ, L*a*b* and L*C*h (CIE 15:2018, 8.2.1), all float64 of shape (..., 3)."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]

#: The profile connection space's white (ICC.1:2022, 6.3.4.3), Y = 1.
D50_XYZ: Array = np.array([0.9642, 1.0, 0.8249])

_EPSILON = 216 / 24389
_KAPPA = 24389 / 27


def xyz_to_lab(xyz: ArrayLike, white_xyz: ArrayLike = D50_XYZ) -> Array:
    """XYZ (white's Y = 1) to L* 0…100, a*, b*.

    >>> xyz_to_lab([0.9642, 1.0, 0.8249]).round(3).tolist()
    [100.0, 0.0, 0.0]
    """
    ratio = np.asarray(xyz, np.float64) / np.asarray(white_xyz, np.float64)
    f = np.where(ratio > _EPSILON, np.cbrt(np.maximum(ratio, _EPSILON)), (_KAPPA * ratio + 16) / 116)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def lab_to_xyz(lab: ArrayLike, white_xyz: ArrayLike = D50_XYZ) -> Array:
    """L*a*b* to XYZ (white's Y = 1); the inverse of `xyz_to_lab`."""
    lab = np.asarray(lab, np.float64)
    fy = (lab[..., 0] + 16) / 116
    f = np.stack([fy + lab[..., 1] / 500, fy, fy - lab[..., 2] / 200], axis=-1)
    ratio = np.where(f > 6 / 29, f**3, (116 * f - 16) / _KAPPA)
    return np.asarray(ratio * np.asarray(white_xyz, np.float64))


def lab_to_lch(lab: ArrayLike) -> Array:
    """L*a*b* to L*, C*, h in degrees 0…360."""
    lab = np.asarray(lab, np.float64)
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    hue = np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360
    return np.stack([lab[..., 0], chroma, hue], axis=-1)


def lch_to_lab(lch: ArrayLike) -> Array:
    """L*, C*, h in degrees to L*a*b*."""
    lch = np.asarray(lch, np.float64)
    hue = np.radians(lch[..., 2])
    return np.stack([lch[..., 0], lch[..., 1] * np.cos(hue), lch[..., 1] * np.sin(hue)], axis=-1)
