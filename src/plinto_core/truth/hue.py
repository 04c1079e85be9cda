"""Hue errors in three appearance spaces that had no part in making the colors: IPT, Oklab and CIECAM16.

Ebner and Fairchild 1998 (IPT), Ottosson 2020 (Oklab), CIE 248:2022 (CAM16); all as `colour-science` computes them.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.colorimetry.adaptation import bradford
from plinto_core.colorimetry.lab import lab_to_xyz

Array = NDArray[np.float64]

SPACES = ("IPT", "Oklab", "CAM16")
SECTORS = 12
_D65 = np.array([0.95047, 1.0, 1.08883])
#: Oklab chroma below which a color is too gray to have a hue error worth the name.
_GRAY = 0.04


def hues_deg(lab: ArrayLike) -> Array:
    """Hue angles (n, 3) in degrees, in the order of `SPACES`, of media-relative Lab (n, 3), D50."""
    import colour

    xyz = np.maximum(lab_to_xyz(lab), 0) @ np.linalg.inv(bradford(_D65)).T
    ipt, oklab = colour.XYZ_to_IPT(xyz), colour.XYZ_to_Oklab(xyz)
    # An average surround, a fifth of 64 cd/m² of white (CIE 248:2022, example of a viewing booth).
    cam = colour.XYZ_to_CAM16(xyz * 100, _D65 * 100, 64 / np.pi * 0.2, 20)
    angles = [np.degrees(np.arctan2(v[..., 2], v[..., 1])) % 360 for v in (ipt, oklab)]
    return np.stack([*angles, np.asarray(cam.h)], axis=-1)


def chromas(lab: ArrayLike) -> Array:
    """Oklab chroma (n,) of media-relative Lab (n, 3)."""
    import colour

    oklab = colour.XYZ_to_Oklab(np.maximum(lab_to_xyz(lab), 0) @ np.linalg.inv(bradford(_D65)).T)
    return np.asarray(np.hypot(oklab[..., 1], oklab[..., 2]))


def sector_means(wanted: Array, printed: Array) -> Array:
    """Mean absolute hue error in degrees (12 sectors of 30° of the wanted hue, 3 spaces); NaN where no color fell."""
    told = (chromas(wanted) > _GRAY) & (chromas(printed) > _GRAY / 2)
    before, after = hues_deg(wanted[told]), hues_deg(printed[told])
    error = np.abs((after - before + 180) % 360 - 180)
    means = np.full((SECTORS, 3), np.nan)
    for space in range(3):
        sector = (before[:, space] // (360 / SECTORS)).astype(int)
        for at in range(SECTORS):
            if (sector == at).any():
                means[at, space] = error[sector == at, space].mean()
    return means
