"""Regions: parts of the artwork by place, by color or by both, as numbers, so that any resolution renders them alike."""

from dataclasses import dataclass
from typing import Literal

from plinto_core.errors import RecipeError
from plinto_core.recipe.adjustment import Adjustment

MOST_REGIONS = 12
MOST_CORNERS = 400


@dataclass(frozen=True)
class ColorRange:
    """Colors within `radius` ΔE*ab of a source color (media-relative Lab); `softness` 0…1 of it fades out."""

    lab: tuple[float, float, float]
    radius: float = 20.0
    softness: float = 0.5

    def __post_init__(self) -> None:
        if not (0 < self.radius <= 200 and 0 <= self.softness <= 1):
            raise RecipeError("A color range has a radius of 0 to 200 ΔE and a softness of 0 to 1.")


@dataclass(frozen=True)
class Region:
    """Where (`corners`, fractions of width and height; none: everywhere; `color`), and what is done there.

    `softness` is the width of the edge in fractions of the longer side. `black` 'none' separates the region
    without black, 'only' keeps black to the regions that say so. Later regions lie above earlier ones.
    """

    name: str
    corners: tuple[tuple[float, float], ...] = ()
    softness: float = 0.0
    color: ColorRange | None = None
    inverted: bool = False
    adjustment: Adjustment = Adjustment()
    black: Literal["as set", "none", "only"] = "as set"

    def __post_init__(self) -> None:
        if not 1 <= len(self.name) <= 60:
            raise RecipeError("A region needs a name of 1 to 60 letters.")
        if self.corners and not 3 <= len(self.corners) <= MOST_CORNERS:
            raise RecipeError(f"'{self.name}' has {len(self.corners)} corners; a region needs 3 to {MOST_CORNERS}.")
        if not self.corners and self.color is None:
            raise RecipeError(f"'{self.name}' has neither an outline nor a color; draw one or pick one.")
        if not 0 <= self.softness <= 0.5 or any(not -1 <= v <= 2 for corner in self.corners for v in corner):
            raise RecipeError(f"The outline of '{self.name}' lies outside the artwork, or its edge is too soft.")
        if self.black not in ("as set", "none", "only"):
            raise RecipeError(f"Black '{self.black}' is not known; choose as set, none or only.")
