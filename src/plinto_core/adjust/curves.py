"""A tone curve through points, smooth and without overshoot."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import PchipInterpolator

from plinto_core.errors import RecipeError

Array = NDArray[np.float64]
Points = tuple[tuple[float, float], ...]

STRAIGHT: Points = ((0.0, 0.0), (1.0, 1.0))
MOST_POINTS = 32


@dataclass(frozen=True)
class ToneCurve:
    """Points (x, y), both 0…1, x rising; before the first and after the last the curve stays level."""

    points: Points = STRAIGHT

    def __post_init__(self) -> None:
        across = [x for x, _ in self.points]
        inside = all(0 <= value <= 1 for point in self.points for value in point)
        rising = all(a < b for a, b in pairwise(across))
        if not (2 <= len(self.points) <= MOST_POINTS and inside and rising):
            raise RecipeError(
                f"A curve needs 2 to {MOST_POINTS} points from 0 to 1, each further right than the one before; "
                f"these are {self.points}."
            )

    @property
    def is_straight(self) -> bool:
        """Whether it changes nothing."""
        return self.points[0] == (0.0, 0.0) and self.points[-1] == (1.0, 1.0) and all(x == y for x, y in self.points)

    def apply(self, values: ArrayLike) -> Array:
        """Values 0…1 of any shape through the curve (monotone cubic, Fritsch and Carlson 1980).

        >>> float(ToneCurve(((0, 0), (0.5, 0.7), (1, 1))).apply(0.5))
        0.7
        """
        if self.is_straight:
            return np.asarray(values, np.float64)
        x, y = np.array(self.points).T
        held = np.clip(np.asarray(values, np.float64), x[0], x[-1])
        return np.asarray(np.clip(PchipInterpolator(x, y)(held), 0, 1))
