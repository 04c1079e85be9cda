"""Black generation as settings, and the trade's kinds of it."""

from dataclasses import dataclass

from plinto_core.errors import RecipeError


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


#: The trade's kinds as values of the four settings.
BLACK_PRESETS = {
    "none": BlackPolicy(0, 0, 0, 1.0),
    "skeleton": BlackPolicy(35, 50, 85, 1.6),
    "gcr": BlackPolicy(55, 15, 95, 1.3),
    "ucr": BlackPolicy(90, 62, 95, 1.2),
    "full": BlackPolicy(100, 0, 100, 1.0),
}


def usual_black(inks: tuple[str, ...]) -> BlackPolicy:
    """The black to start from: none where there is no black ink, all of it where there is no other."""
    if "K" not in inks:
        return BLACK_PRESETS["none"]
    return BLACK_PRESETS["full" if len(inks) == 1 else "gcr"]
