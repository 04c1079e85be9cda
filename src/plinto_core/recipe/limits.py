"""How much ink one spot takes."""

from dataclasses import dataclass

from plinto_core.errors import RecipeError


@dataclass(frozen=True)
class InkLimits:
    """Total ink in percent of one ink, and a limit for single inks by their letter."""

    total_percent: float
    per_ink_percent: tuple[tuple[str, float], ...] = ()

    def __post_init__(self) -> None:
        if not 50 <= self.total_percent <= 800:
            raise RecipeError(f"A total ink of {self.total_percent:g} % cannot print; choose 50 to 800 %.")
        for ink, limit in self.per_ink_percent:
            if not 0 <= limit <= 100:
                raise RecipeError(f"The limit of ink {ink} is {limit:g} %; choose 0 to 100 %.")

    def without(self, inks: tuple[str, ...]) -> "InkLimits":
        """The same limits with these inks taken away."""
        others = tuple(pair for pair in self.per_ink_percent if pair[0] not in inks)
        return InkLimits(self.total_percent, (*others, *((ink, 0.0) for ink in inks)))
