"""What is done to each plate."""

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Literal

from plinto_core.errors import RecipeError
from plinto_core.recipe.curve import LEAST_STEP, ToneCurve


@dataclass(frozen=True)
class InkPlate:
    """Settings of one plate, in percent of dot where they say so.

    In this order: `curve`; `gain`, pairs of (dot on the plate, dot that this press makes of it) beyond what the
    condition's data knows, which is compensated; `bump_percent` lifts the lightest dots to at least that and
    joins the straight line smoothly; dots under `smallest_percent` are raised to it or cut to nothing; dots above
    `shadow_percent` are opened to it, solids stay solid.
    """

    ink: str
    curve: ToneCurve = ToneCurve()
    gain: tuple[tuple[float, float], ...] = ()
    bump_percent: float = 0.0
    smallest: Literal["keep", "raise", "cut"] = "keep"
    smallest_percent: float = 0.0
    shadow_percent: float = 100.0

    def __post_init__(self) -> None:
        if self.smallest not in ("keep", "raise", "cut"):
            raise RecipeError(f"'{self.smallest}' is no way to treat small dots; choose keep, raise or cut.")
        if not (
            0 <= self.bump_percent <= 20 and 0 <= self.smallest_percent <= 20 and 60 <= self.shadow_percent <= 100
        ):
            raise RecipeError(
                f"Plate {self.ink}: bump and smallest dot are 0 to 20 %, shadows are opened to 60 to 100 %."
            )
        x, y = [a for a, _ in self.gain], [b for _, b in self.gain]
        least = 100 * LEAST_STEP
        rising = all(b - a >= least for a, b in pairwise(x)) and all(a < b for a, b in pairwise(y))
        if self.gain and not (len(self.gain) >= 2 and rising and all(0 <= v <= 100 for v in (*x, *y))):
            raise RecipeError(
                f"Plate {self.ink}: a gain table needs two or more rows of percentages that rise in both columns, "
                f"the first by at least {least:.4f}."
            )

    @property
    def is_nothing(self) -> bool:
        """Whether it changes nothing."""
        return (
            self.curve.is_straight and not self.gain and not self.bump_percent and self.shadow_percent == 100
            and (self.smallest == "keep" or not self.smallest_percent)
        )  # fmt: skip


@dataclass(frozen=True)
class PlateStation:
    """Settings of the plates that have any."""

    plates: tuple[InkPlate, ...] = field(default=())

    def __post_init__(self) -> None:
        if len({plate.ink for plate in self.plates}) < len(self.plates):
            raise RecipeError("Each plate is set once.")

    @property
    def is_nothing(self) -> bool:
        """Whether it changes nothing."""
        return all(plate.is_nothing for plate in self.plates)

    def holding(self, inks: Iterable[str], smallest: Literal["raise", "cut"], percent: float) -> "PlateStation":
        """The same with a press's smallest dot on the plates of these inks, as long as they have no larger one of their
        own. Nothing changes for 0 percent."""
        if not percent:
            return self
        set_already = {plate.ink: plate for plate in self.plates}
        held = dict(set_already)
        for ink in inks:
            plate = set_already.get(ink, InkPlate(ink))
            if plate.smallest == "keep" or plate.smallest_percent < percent:
                held[ink] = replace(plate, smallest=smallest, smallest_percent=percent)
        return PlateStation(tuple(held.values()))
