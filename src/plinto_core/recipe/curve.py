"""A tone curve: points, and what lies between them is for `adjust.curves` to say."""

from dataclasses import dataclass
from itertools import pairwise

from plinto_core.errors import RecipeError

Points = tuple[tuple[float, float], ...]

STRAIGHT: Points = ((0.0, 0.0), (1.0, 1.0))
MOST_POINTS = 32
# One code of 16 bits; of points nearer than that the slope between them has no number at last.
LEAST_STEP = 1 / 65535


@dataclass(frozen=True)
class ToneCurve:
    """Points (x, y), both 0…1, each x at least a code of 16 bits above the one before.

    Before the first and after the last the curve stays level.
    """

    points: Points = STRAIGHT

    def __post_init__(self) -> None:
        across = [x for x, _ in self.points]
        inside = all(0 <= value <= 1 for point in self.points for value in point)
        rising = all(b - a >= LEAST_STEP * (1 - 1e-6) for a, b in pairwise(across))
        if not (2 <= len(self.points) <= MOST_POINTS and inside and rising):
            raise RecipeError(
                f"A curve needs 2 to {MOST_POINTS} points from 0 to 1, each further right than the one before by at "
                f"least {LEAST_STEP:.6f}; these are {self.points}."
            )

    @property
    def is_straight(self) -> bool:
        """Whether it changes nothing."""
        return self.points[0] == (0.0, 0.0) and self.points[-1] == (1.0, 1.0) and all(x == y for x, y in self.points)
