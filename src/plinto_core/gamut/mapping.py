"""Perceptual and saturation mapping: everything moves a little, so that relations are kept.

Lightness is brought to the range between white and black beforehand (black point compensation); here chroma is
compressed along constant hue, in straight coordinates, towards what the condition reaches. Lightness leans, the more the
more chroma a color has, by as much as clipping moves the source's most saturated color of that hue: one shift for a hue,
so that differences in lightness survive. What still lies outside afterwards is brought in by the inverse.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.ndimage import gaussian_filter, gaussian_filter1d

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.colorimetry.straight import lab_to_straight, straight_to_lab
from plinto_core.computed_once import computed_once
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary

Array = NDArray[np.float64]

#: How lightness leans with the share of a hue's largest chroma: softly at the neutrals, then nearly in proportion.
_LEANING = 1.1
#: By how many degrees of hue the leaning follows softly, and by how many steps of its table the reach does.
_SOFT_DEG, _SOFT_STEPS = 2.5, 0.4
#: A hue counts on what is reached so many degrees beside it: where the gamut is a thin sheet, as around yellow, clipping
#: turns a color by as much, and perceptual held it short (sRGB yellow 0.65 of the relative C* on one press).
_BESIDE_DEG = 2.5


@dataclass(frozen=True)
class ChromaCompression:
    """`knee`: share of the reachable chroma left untouched; `cusp_shift`: what chroma counts against lightness where the
    most saturated colors go, 1 as in clipping; `expansion`: how much chroma may grow where the print reaches further than
    the source; `reach`: which multiple of the reachable the source's strongest colors are sent to; `hue`: how firmly hue is
    held where a color is clipped in the end, 1 as in relative: a yellow that may turn by a quarter degree keeps all of
    its chroma."""

    knee: float
    cusp_shift: float
    expansion: float
    reach: float
    hue: float


PERCEPTUAL = ChromaCompression(knee=0.65, cusp_shift=1.0, expansion=1.0, reach=1.05, hue=1.0)
SATURATION = ChromaCompression(knee=0.9, cusp_shift=1.45, expansion=1.2, reach=2.0, hue=0.65)
STYLES = {"perceptual": PERCEPTUAL, "saturation": SATURATION}


def leaning(source: Boundary, clipped: Array) -> Array:
    """By how much L* (hues,) the most saturated colors of each hue move: the source's ridge to its `clipped` place
    (m, 3: straight coordinates)."""
    if not len(source.ridge):
        return np.zeros(len(HUES_DEG))
    shift = np.interp(HUES_DEG, source.ridge[:, 2], clipped[:, 0] - source.ridge[:, 0], period=360)
    return np.asarray(gaussian_filter1d(shift, _SOFT_DEG / HUES_DEG[1], mode="wrap"))


@dataclass(frozen=True)
class GamutMapping:
    """From a source's gamut to a condition's, both in straight coordinates after black point compensation.

    `shift` (hues,) is by how much L* the source's most saturated color of each hue moves.
    """

    source: Boundary
    target: Boundary
    style: ChromaCompression
    shift: Array

    @computed_once
    def _narrow(self) -> Boundary:
        """What is reached, or is a little beside in hue, its edges a little rounded: colors that run across an edge would
        show it as a break."""
        lightness, hue = np.meshgrid(LIGHTNESS, HUES_DEG, indexing="ij")
        turned = [self.target.chroma_at(lightness, (hue + turn) % 360) for turn in (-_BESIDE_DEG, 0, _BESIDE_DEG)]
        chroma = np.maximum.reduce(turned)
        return Boundary(gaussian_filter(chroma, _SOFT_STEPS, mode=("nearest", "wrap")), self.target.ridge)

    def apply(self, lab: ArrayLike) -> Array:
        """Lab (..., 3) to Lab of the same hue, compressed. Neutrals stay as they are."""
        lch = lab_to_lch(lab_to_straight(lab))
        lightness, chroma, hue = lch[..., 0], lch[..., 1], lch[..., 2]
        reach = np.full_like(chroma, 1.0)
        if len(self.source.ridge):
            reach = np.interp(hue, self.source.ridge[:, 2], self.source.ridge[:, 1], period=360)
        share = np.clip(chroma / np.maximum(reach, 1), 0, 1)
        at_hue = np.interp(hue, HUES_DEG, self.shift, period=360)
        leaned = np.clip(lightness + at_hue * share**_LEANING, 0, 100)
        wide = np.maximum(self.source.chroma_at(lightness, hue), chroma)
        narrow = np.maximum(self._narrow.chroma_at(leaned, hue) * self.style.reach, 1.0)
        moved = _compress(chroma, wide, narrow, self.style.knee)
        if self.style.expansion > 1:
            grow = np.clip(narrow / np.maximum(wide, 1), 1, self.style.expansion)
            moved = np.where(narrow > wide, chroma * grow, moved)
        return straight_to_lab(lch_to_lab(np.stack([leaned, moved, hue], axis=-1)))


def _compress(chroma: Array, wide: Array, narrow: Array, knee: float) -> Array:
    """Chroma 0…wide to 0…narrow: untouched up to the knee, slope continuous there, `wide` lands on `narrow`."""
    bend = knee * np.minimum(narrow, wide)
    excess, room = np.maximum(wide - bend, 1e-6), np.maximum(narrow - bend, 1e-6)
    x = np.clip((chroma - bend) / excess, 0, 1)
    s = np.maximum(excess / room - 1, 0)
    compressed = bend + room * x * (1 + s) / (1 + s * x)
    return np.where((narrow >= wide) | (chroma <= bend), chroma, compressed)
