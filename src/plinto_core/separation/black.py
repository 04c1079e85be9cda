"""Black generation: how much of a color's gray component black replaces."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.errors import RecipeError

Array = NDArray[np.float64]


@dataclass(frozen=True)
class BlackPolicy:
    """Amount, start and maximum in percent; shape is the exponent of the rise after the start.

    The gray component of a color is the most black that can be in it without changing it. `amount` percent of
    it is replaced, from `start` on, and more towards the deepest shadows; never above `maximum`. Black beyond
    that wish is only used where a color or an ink limit cannot do without.
    """

    amount_percent: float = 55.0
    start_percent: float = 15.0
    maximum_percent: float = 95.0
    shape: float = 1.3

    def __post_init__(self) -> None:
        for name in ("amount_percent", "start_percent", "maximum_percent"):
            value = getattr(self, name)
            if not 0 <= value <= 100:
                raise RecipeError(f"Black {name.split('_')[0]} is {value:g} %; choose 0 to 100 %.")
        if not 0.5 <= self.shape <= 4:
            raise RecipeError(f"Black shape is {self.shape:g}; choose 0.5 (early) to 4 (late).")

    def target(self, gray_component: ArrayLike, depth: ArrayLike, ceiling: float = 1.0) -> Array:
        """Black wanted, 0…1.

        `gray_component` 0…1 is the largest black that still gives the color; `depth` 0…1 says how far the
        color lies on the way from what solid black alone can do to the darkest the press can do; `ceiling`
        is the most black there is room for at that darkest point. All of one shape.
        """
        gray = np.clip(gray_component, 0, 1)
        start = self.start_percent / 100
        amount = self.amount_percent / 100
        # A rounded corner at the start, 6 % wide, so that the ink comes in without a visible edge.
        x = gray - start
        rise = np.where(np.abs(x) < _CORNER, (x + _CORNER) ** 2 / (4 * _CORNER), np.maximum(x, 0))
        rise = np.clip(rise / max(1 - start, _CORNER), 0, 1) if start > 0 else gray
        fade_in = min(1.0, amount / 0.1)
        share = amount + (1 - amount) * fade_in * np.asarray(depth)
        return _soft_minimum(rise**self.shape * share, min(ceiling, self.maximum_percent / 100))


_CORNER = 0.06


def _soft_minimum(values: Array, ceiling: float, width: float = 0.05) -> Array:
    """min(values, ceiling) with a rounded corner `width` wide below the ceiling."""
    excess = np.clip((values - ceiling + width) / (2 * width), 0, 1)
    return np.asarray(np.clip(np.minimum(values, ceiling + width) - width * excess**2, 0, ceiling))


def usual_black(inks: tuple[str, ...]) -> BlackPolicy:
    """The black to start from: none where there is no black ink, all of it where there is no other."""
    if "K" not in inks:
        return BLACK_KINDS["none"]
    return BLACK_KINDS["full" if len(inks) == 1 else "gcr"]


#: The trade's kinds as values of the four settings.
BLACK_KINDS = {
    "none": BlackPolicy(0, 0, 0, 1.0),
    "skeleton": BlackPolicy(35, 50, 85, 1.6),
    "gcr": BlackPolicy(55, 15, 95, 1.3),
    "ucr": BlackPolicy(90, 62, 95, 1.2),
    "full": BlackPolicy(100, 0, 100, 1.0),
}
