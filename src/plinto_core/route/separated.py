"""A condition's own separation as a step of a route: inks by Plinto's inverse, within its limits and with its black."""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain, compile_recipe
from plinto_core.chain.library import Condition
from plinto_core.chain.link import held_for_others
from plinto_core.errors import PipelineError
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.recipe import AimStation, InkStation, Intent, Recipe

Array = NDArray[np.float64]


@dataclass(frozen=True)
class OwnSeparation:
    """A printing condition and how its inks are to be set; `ink` is taken as rebuilt, whatever it says.

    Raises `PipelineError` for printers driven by RGB.
    """

    condition: Condition
    ink: InkStation = field(default_factory=InkStation)

    def __post_init__(self) -> None:
        if driven_by_rgb(self.condition.model.inks):
            raise PipelineError(
                f"'{self.condition.profile.name}' is driven by RGB, so its inks are its own affair: take its tables."
            )

    def line_from(self, source: Profile | None, intent: Intent, bpc: bool) -> Chain:
        """The line from a source's device values to the inks.

        Where colors come as Lab (`source` None), perceptual and saturation compress them as if they came from ROMM, whose
        gamut holds nearly all that is ever asked for, and black begins at L* 0.
        """
        recipe = Recipe(aim=AimStation(intent, bpc), ink=replace(self.ink, method="rebuilt"))
        return compile_recipe(recipe, self.condition, source or rgb_profile("ROMM"))

    def inks(self, source: Profile | None, values: Array, intent: Intent, bpc: bool) -> Array:
        """Inks 0…1 (n, inks) for device values 0…1 (n, channels) of `source`, or for Lab (n, 3) where that is None."""
        line = self.line_from(source, intent, bpc)
        if source is not None:
            return line.inks(values)
        for stage in line.pipeline.stages[[each.name for each in line.pipeline.stages].index("source") + 1 :]:
            values = stage.apply(values)
        return values

    def held(self, values: Array) -> Array:
        """Ink values (n, inks) with the room below the limits that other software needs."""
        return held_for_others(values, *self.line_from(None, "relative", True).bounds)
