"""Coordinates in which a line of one hue is straight for the eye: L*, and two opponent axes like a* and b*.

CIELAB's lines of constant hue angle bend, most of all in blue: a saturated blue that loses chroma along them turns
violet. The usual alternatives each have straight lines where the others see bends. Measured as the mean hue error of
2,400 saturated colors of sRGB, opRGB and ROMM that lose 30 % and 60 % of their chroma at constant L*, in IPT, Oklab and
CIECAM16: along CIELAB 4.0, 4.5 and 2.9°; along IPT 0, 1.7 and 2.4°; along Oklab 1.9, 0.1 and 2.8°, with 7.0° in one
30° sector. The axes used here are of Oklab's form (Ottosson 2020: a matrix, a power, a matrix) with numbers fitted to
the mean over all three: 1.2, 1.3 and 1.5°, and nowhere above 3.9°. Lightness stays L*, and the axes are scaled to be a*
and b* near gray at every lightness, so that a distance here means what it means in Lab.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.cores import on_its_cores

Array = NDArray[np.float64]


def lab_to_straight(lab: ArrayLike) -> Array:
    """Lab (..., 3), D50, to L* and the two straight axes (..., 3).

    >>> np.abs(lab_to_straight([50.0, 0, 0])).round(6).tolist()
    [50.0, 0.0, 0.0]
    """
    from plinto_core.colorimetry.straight_kernels import straighten_rows

    lab = np.ascontiguousarray(lab, np.float64)
    out = np.empty_like(lab)
    rows = lab.reshape(-1, 3)
    on_its_cores(straighten_rows, len(rows), rows, out.reshape(-1, 3))
    return out


def straight_to_lab(straight: ArrayLike) -> Array:
    """L* and straight axes (..., 3) to Lab (..., 3), D50: the inverse of `lab_to_straight` for colors that can be seen.

    >>> straight_to_lab(lab_to_straight([30.0, 68.0, -112.0])).round(4).tolist()
    [30.0, 68.0, -112.0]
    """
    from plinto_core.colorimetry.straight_kernels import bend_rows

    straight = np.ascontiguousarray(straight, np.float64)
    out = np.empty_like(straight)
    rows = straight.reshape(-1, 3)
    on_its_cores(bend_rows, len(rows), rows, out.reshape(-1, 3))
    return out
