"""Values through a tone curve, smooth and without overshoot."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.recipe.curve import ToneCurve

Array = NDArray[np.float64]


def apply_curve(curve: ToneCurve, values: ArrayLike) -> Array:
    """Values 0…1 of any shape through the curve (monotone cubic, Fritsch and Carlson 1980).

    >>> float(apply_curve(ToneCurve(((0, 0), (0.5, 0.7), (1, 1))), 0.5))
    0.7
    """
    if curve.is_straight:
        return np.asarray(values, np.float64)
    from scipy.interpolate import PchipInterpolator

    x, y = np.array(curve.points).T
    held = np.clip(np.asarray(values, np.float64), x[0], x[-1])
    return np.asarray(np.clip(PchipInterpolator(x, y)(held), 0, 1))
