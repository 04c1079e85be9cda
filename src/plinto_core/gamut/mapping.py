"""Perceptual and saturation mapping: everything moves a little, so that relations are kept.

Lightness is brought to the range between white and black beforehand (black point compensation); here chroma is
compressed along constant hue towards what the condition reaches, and lightness leans towards the lightness at
which that hue is strongest in print. What still lies outside afterwards is brought in by the inverse.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.computed_once import computed_once
from plinto_core.gamut.boundary import HUES_DEG, Boundary

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Style:
    """`knee`: share of the reachable chroma left untouched; `lean`: how far lightness follows the cusp;
    `boost`: how much chroma may grow where the print reaches further than the source."""

    knee: float
    lean: float
    boost: float


PERCEPTUAL = Style(knee=0.55, lean=0.45, boost=1.0)
SATURATION = Style(knee=0.85, lean=0.75, boost=1.2)


@dataclass(frozen=True)
class GamutMapping:
    """From a source's gamut to a condition's, both in media-relative Lab after black point compensation."""

    source: Boundary
    target: Boundary
    style: Style

    @computed_once
    def _lean(self) -> tuple[Array, Array]:
        """By hue: L* by which the cusp moves, and the source's largest chroma."""
        shift = self.target.cusp_lightness() - self.source.cusp_lightness()
        return np.asarray(shift * self.style.lean), self.source.chroma.max(axis=0)

    def apply(self, lab: ArrayLike) -> Array:
        """Lab (..., 3) to Lab of the same hue, compressed. Neutrals stay as they are."""
        lch = lab_to_lch(lab)
        lightness, chroma, hue = lch[..., 0], lch[..., 1], lch[..., 2]
        shift, furthest = self._lean
        circle = np.append(HUES_DEG, 360.0)
        at_hue = np.interp(hue, circle, np.append(shift, shift[0]))
        reach = np.interp(hue, circle, np.append(furthest, furthest[0]))
        share = np.clip(chroma / np.maximum(reach, 1), 0, 1)
        leaned = np.clip(lightness + at_hue * share**2, 0, 100)
        wide = np.maximum(self.source.chroma_at(lightness, hue), chroma)
        narrow = np.maximum(self.target.chroma_at(leaned, hue), 1.0)
        moved = _compress(chroma, wide, narrow, self.style.knee)
        if self.style.boost > 1:
            grow = np.clip(narrow / np.maximum(wide, 1), 1, self.style.boost)
            moved = np.where(narrow > wide, chroma * grow, moved)
        return lch_to_lab(np.stack([leaned, moved, hue], axis=-1))


def _compress(chroma: Array, wide: Array, narrow: Array, knee: float) -> Array:
    """Chroma 0…wide to 0…narrow: untouched up to the knee, slope continuous there, `wide` lands on `narrow`."""
    bend = knee * np.minimum(narrow, wide)
    excess, room = np.maximum(wide - bend, 1e-6), np.maximum(narrow - bend, 1e-6)
    x = np.clip((chroma - bend) / excess, 0, 1)
    s = np.maximum(excess / room - 1, 0)
    compressed = bend + room * x * (1 + s) / (1 + s * x)
    return np.where((narrow >= wide) | (chroma <= bend), chroma, compressed)
