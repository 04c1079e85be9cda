"""Settings and results of a characterization's steps, as the API tells and takes them; stored as plain values."""

from typing import Annotated, Any

from ninja import Field, Schema
from pydantic import BeforeValidator

from plinto_core.colorimetry.spectra import Illuminant
from plinto_core.profiling.build_profile import PerceptualStyle
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits


class StepSettings(Schema):
    """What was decided at a step; each step has its own, the others are None or empty.

    `crossings` of light and dark inks are start, stop and hold as fractions of the tone of both; `caps` are the most of
    each ink in percent; `gain_percent` the dot gain that curves aim at, None for even steps of color.
    """

    panel: str | None = Field(None, max_length=200)
    ambient_percent: float | None = None
    crossings: dict[str, list[float]] = Field({}, max_length=15)
    caps: dict[str, float] = Field({}, max_length=15)
    gain_percent: float | None = None
    total_percent: float | None = None
    patches: int | None = None
    name: str | None = Field(None, max_length=400)
    style: PerceptualStyle | None = None
    light: Illuminant | None = None
    smoothing: float | None = None

    def plain(self) -> dict[str, Any]:
        """What was decided, and nothing of the rest."""
        return self.model_dump(mode="json", exclude_defaults=True)


class BuildRequest(Schema):
    """What a profile is to be; what is left open is as usual, and as the staircase says.

    `light` is what prints are viewed under, for charts with spectra; `smoothing` how much the fit evens
    out (1e-8: every patch as it was measured), None as patches that are kept back say.
    """

    name: str | None = Field(None, max_length=100)
    style: PerceptualStyle | None = None
    limits: InkLimits | None = None
    black: BlackPolicy | None = None
    light: Illuminant = "D50"
    smoothing: float | None = Field(None, ge=1e-9, le=1e-2)

    def plain(self) -> dict[str, Any]:
        """What was asked for, and nothing of the rest."""
        return self.model_dump(mode="json", exclude_none=True, exclude={"light", "smoothing"})


class RampStep(Schema):
    """A dot of a measured ramp, in percent: its density above the paper, and L*."""

    dot_percent: float
    density: float
    lightness: float


class Stair(Schema):
    """A patch of the staircase: total ink in percent, L* and C*."""

    total_percent: float
    lightness: float
    chroma: float


def _rows(schema: type[Schema]) -> BeforeValidator:
    """Rows are stored as lists of numbers, in the order of the fields."""
    names = list(schema.model_fields)

    def named(rows: list[Any]) -> list[Any]:
        return [dict(zip(names, row, strict=True)) if isinstance(row, list) else row for row in rows]

    return BeforeValidator(named)


class DriveCurve(Schema):
    """Dots (fractions, at even steps of what is asked for) of an ink, and of its light ink where it has one."""

    ink: str
    dark: list[float]
    light_ink: str = ""
    light: list[float] = Field([])


class Curves(Schema):
    """The calibration that a step came to."""

    curves: list[DriveCurve]


class StepResult(Schema):
    """What came of a step; each step has its own, the others are None or empty. `panels` are percent of the gamut."""

    panels: dict[str, float | None] = Field({})
    calibration: Curves | None = None
    ramps: dict[str, Annotated[list[RampStep], _rows(RampStep)]] = Field({})
    caps: dict[str, float] = Field({})
    bulges: dict[str, float] = Field({})
    advice: list[str] = Field([])
    steps: Annotated[list[Stair], _rows(Stair)] = Field([])
    enough_percent: float | None = None
    patches: int | None = None
    substrate_lab: list[float] = Field([])
    slug: str = ""
