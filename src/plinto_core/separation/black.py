"""Black generation: how much of a color's gray component black replaces."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.recipe.black import BlackPolicy

Array = NDArray[np.float64]


_CORNER = 0.06


def black_wanted(policy: BlackPolicy, gray_component: ArrayLike, depth: ArrayLike, ceiling: float = 1.0) -> Array:
    """Black wanted, 0…1.

    `gray_component` 0…1 is the largest black that still gives the color; `depth` 0…1 says how far the
    color lies on the way from what solid black alone can do to the darkest the press can do; `ceiling`
    is the most black there is room for at that darkest point. All of one shape.
    """
    gray = np.clip(gray_component, 0, 1)
    start = policy.start_percent / 100
    amount = policy.amount_percent / 100
    # A rounded corner at the start, 6 % wide, so that the ink comes in without a visible edge.
    x = gray - start
    rise = np.where(np.abs(x) < _CORNER, (x + _CORNER) ** 2 / (4 * _CORNER), np.maximum(x, 0))
    rise = np.clip(rise / max(1 - start, _CORNER), 0, 1) if start > 0 else gray
    fade_in = min(1.0, amount / 0.1)
    share = amount + (1 - amount) * fade_in * np.asarray(depth)
    return _soft_minimum(rise**policy.shape * share, min(ceiling, policy.maximum_percent / 100))


def _soft_minimum(values: Array, ceiling: float, width: float = 0.05) -> Array:
    """min(values, ceiling) with a rounded corner `width` wide below the ceiling."""
    excess = np.clip((values - ceiling + width) / (2 * width), 0, 1)
    return np.asarray(np.clip(np.minimum(values, ceiling + width) - width * excess**2, 0, ceiling))
