"""What the data of a condition said when its profile was built, as the API tells it."""

from typing import Any, Self

from ninja import Field, Schema

from plinto_core.press.fit import Tried


class WrongPatch(Schema):
    """A patch that is not what the others say: its inks in percent, and ΔE00 to what they do say."""

    inks_percent: list[float]
    delta_e: float


class Darkest(Schema):
    """L* of the darkest neutral with so much ink."""

    total_percent: float
    lightness: float


class ConditionReport(Schema):
    """What characterizing said; all is empty of a profile that came finished, and most where numbers were given.

    `gain_50` is in percent points, `ramps` rows of dot and tone value as fractions; `stops_at` the largest percent of each
    ink without a solid.
    """

    title: str = ""
    patches: int = 0
    gain_50: dict[str, float] = Field({})
    ramps: dict[str, list[list[float]]] = Field({})
    substrate_lab: list[float] = Field([])
    solids_lab: dict[str, list[float]] = Field({})
    held_out_mean: float | None = None
    held_out_p95: float | None = None
    smoothing: float | None = None
    tried: list[Tried] = Field([])
    wrong_patches: list[WrongPatch] = Field([])
    darkest: list[Darkest] = Field([])
    notes: list[str] = Field([])
    most_ink_percent: float | None = None
    stops_at: dict[str, float] = Field({})

    @classmethod
    def of(cls, stored: dict[str, Any]) -> Self:
        """A stored report. Those of older conditions list what was tried as pairs; only what names itself is told."""
        tried = [each for each in stored.get("tried", []) if "smoothing" in each]
        darkest = [
            {"total_percent": total, "lightness": light} for total, light in stored.get("total_by_lightness", [])
        ]
        return cls.model_validate(
            stored | {"tried": tried, "darkest": darkest, "stops_at": dict(stored.get("stops_at", []))}
        )
