"""Values through a tone curve, smooth and without overshoot."""

from collections.abc import Callable

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
    x, y = np.array(curve.points).T
    held = np.clip(np.asarray(values, np.float64), x[0], x[-1])
    return np.asarray(np.clip(smooth_through(x, y)(held), 0, 1))


def smooth_through(x: Array, y: Array) -> Callable[[Array], Array]:
    """What lies between points of x (rising) and y, both (points,) and 0…1: monotone where the points are.

    Heights are taken to a thousandth of a 16-bit code: of two that differ by 1e-310 the slope's inverse is no number.
    """
    from scipy.interpolate import PchipInterpolator

    made: Callable[[Array], Array] = PchipInterpolator(x, np.round(y, 8))
    return made
