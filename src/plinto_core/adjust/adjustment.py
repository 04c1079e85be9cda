"""What an adjustment does to the artwork's numbers: curves on its channels, then lightness, chroma and hues.

It stays in the artwork's own space: what an adjustment makes is again artwork of that profile, and no number of it
can say more than the profile can.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.adjust.curves import apply_curve
from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.errors import IccError, RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.pipeline.space import space_of
from plinto_core.recipe.adjustment import Adjustment

Array = NDArray[np.float64]

#: Hue moves fade in with chroma, so that grays have no hue to be moved.
_GRAY_CHROMA = 8.0


@dataclass(frozen=True)
class Adjust:
    """The station: device values in, adjusted device values of the same profile out."""

    adjustment: Adjustment
    profile: Profile
    name: str = "adjust"

    def __post_init__(self) -> None:
        space = space_of(self.profile)
        known = space.channels
        unknown = sorted({each.channel for each in self.adjustment.channels} - set(known))
        if unknown:
            raise RecipeError(f"The artwork has no channel {', '.join(unknown)}; it has {', '.join(known)}.")
        if self.adjustment.moves_lab and space.kind != "rgb":
            raise RecipeError(
                f"Lightness, chroma and hues are adjusted on RGB artwork, and '{self.profile.name}' describes "
                f"{', '.join(known)}: use curves here or at Plate."
            )

    def apply(self, values: ArrayLike) -> Array:
        """Device values (..., channels) 0…1 to the same. Raises `RecipeError` where the profile has no way back."""
        device = np.asarray(values, np.float64)
        given = self.adjustment
        if given.is_nothing:
            return device
        device = apply_curve(given.master, device)
        for index, channel in enumerate(space_of(self.profile).channels):
            for each in given.channels:
                if each.channel == channel:
                    device = device.copy()
                    device[..., index] = apply_curve(each.curve, device[..., index])
        return self._in_lab(device) if given.moves_lab else device

    def _in_lab(self, device: Array) -> Array:
        lab = move_lab(self.adjustment, cmm.to_lab(self.profile, device))
        try:
            return np.clip(cmm.from_lab(self.profile, lab), 0, 1)
        except IccError as error:
            raise RecipeError(
                f"'{self.profile.name}' only leads from its numbers to colors, not back, so lightness, chroma and hue "
                "cannot be adjusted under it: convert the artwork to a working space at Source, or use the curves."
            ) from error


def hue_weight(lab: ArrayLike, center_deg: float, width_deg: float) -> Array:
    """How much (...) of a hue move around `center_deg`, `width_deg` wide in all, reaches Lab (..., 3): 0 to nearly 1."""
    lch = lab_to_lch(lab)
    return _near_hue(lch[..., 1], lch[..., 2], center_deg, width_deg)


def _near_hue(chroma: Array, hue: Array, center_deg: float, width_deg: float) -> Array:
    away = np.abs((hue - center_deg + 180) % 360 - 180) / (width_deg / 2)
    near = np.where(away < 1, 0.5 + 0.5 * np.cos(np.pi * np.minimum(away, 1)), 0.0)
    return np.asarray(near * chroma / (chroma + _GRAY_CHROMA))


def move_lab(given: Adjustment, lab: ArrayLike) -> Array:
    """The lightness curve, hue moves and chroma of an adjustment on Lab (..., 3)."""
    lch = lab_to_lch(lab)
    lightness = apply_curve(given.lightness, lch[..., 0] / 100) * 100
    chroma, hue = lch[..., 1], lch[..., 2]
    turned, lighter, stronger = hue.copy(), np.zeros_like(hue), np.full_like(hue, given.chroma_percent / 100)
    for move in given.hues:
        near = _near_hue(chroma, hue, move.center_deg, move.width_deg)
        turned += near * move.shift_deg
        lighter += near * move.lightness
        stronger += near * move.chroma_percent / 100
    moved = [np.clip(lightness + lighter, 0, 100), chroma * np.maximum(1 + stronger, 0), turned]
    return lch_to_lab(np.stack(moved, axis=-1))
