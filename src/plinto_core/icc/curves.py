"""What the curves of a profile make of values."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.icc.values import AnyCurve, Curve

Array = NDArray[np.float64]


def along(curve: AnyCurve, values: Array) -> Array:
    """Output of a curve at inputs 0…1 (n,), in the same shape (ICC.1:2022, 10.6 and 10.18).

    Always numbers: made-up parameters, which come to infinity or to nothing, give the largest number, or 0.
    """
    with np.errstate(all="ignore"):
        return np.nan_to_num(_along(curve, values))


def _along(curve: AnyCurve, values: Array) -> Array:
    if isinstance(curve, Curve):
        if len(curve.values) > 1:
            return np.asarray(np.interp(values, np.linspace(0, 1, len(curve.values)), curve.values))
        return np.asarray(values ** (curve.values[0] if len(curve.values) else 1.0))
    g, a, b, c, d, e, f = (*curve.parameters, *[0.0] * 7)[:7]
    if curve.kind == 0:
        return np.asarray(values**g)
    power = np.maximum(a * values + b, 0) ** g
    if curve.kind in (1, 2):
        begins = -b / a if a else np.inf
        # The second has a summand everywhere, the first none.
        return np.where(begins <= values, power, 0.0) + (c if curve.kind == 2 else 0.0)
    return np.where(d <= values, power + e, c * values + f)
