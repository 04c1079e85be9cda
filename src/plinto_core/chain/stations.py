"""The stations of a line: each takes values and gives values, float64."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.colorimetry.straight import lab_to_straight, straight_to_lab
from plinto_core.computed_once import computed_once
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import convert_to_inks
from plinto_core.pipeline.space import space_of
from plinto_core.press.model import ForwardModel, has_way_back

if TYPE_CHECKING:
    from plinto_core.gamut.mapping import GamutMapping
    from plinto_core.separation.inverse import Inverse

Array = NDArray[np.float64]


class Station(Protocol):
    """A named step from values (..., in) to values (..., out)."""

    name: str

    def apply(self, values: ArrayLike) -> Array:
        """The values after this station."""
        ...


@dataclass(frozen=True)
class Source:
    """Device values 0…1 (RGB or inks) to Lab, media-relative, or ICC-absolute for the absolute intent."""

    profile: Profile
    absolute: bool = False
    name: str = "source"

    @property
    def _intent(self) -> str:
        return "absolute" if self.absolute else "relative"

    def apply(self, values: ArrayLike) -> Array:
        """Device values (..., channels) to Lab (..., 3)."""
        return cmm.to_lab(self.profile, values, self._intent)

    @computed_once
    def black_lab(self) -> Array:
        """Lab (3,) of the darkest the source can say."""
        if space_of(self.profile).kind != "rgb" and has_way_back(self.profile):
            # What the profile itself takes for black: all inks at once say more than any press was measured for.
            return np.asarray(self.apply(cmm.from_lab(self.profile, [[0.0, 0.0, 0.0]]))[0])
        # Nobody says: of inks the darkest that all come to, as a neutral (ISO 18619, 6.2). 0 is light's black.
        ends = self.apply(np.repeat([[0.0], [1.0]], self.profile.header.channels, axis=1))
        return np.asarray(ends[ends[:, 0].argmin()])


#: A source or a print has a black that can be matched where its darkest is darker than this, or nearly neutral.
_DARK_L, _NEARLY_NEUTRAL = 50.0, 0.5


def matched_blacks(source_lab: Array, print_lab: Array) -> tuple[float, float] | None:
    """L* of two blacks to be laid on each other, of the darkest of a source and of a print, Lab (3,) each; None where
    either is no black to speak of.

    A yellow plate by itself reaches from L* 100 to 95, pink and yellow to 75: with blacks matched, all of a picture would
    come to lie in there, and next to nothing of it be printed; and its solid yellow would print black on a press. A light
    gray by itself is one, and carries all tones.
    """
    told = [(float(lab[0]), float(np.hypot(lab[1], lab[2]))) for lab in (source_lab, print_lab)]
    if any(lightness >= _DARK_L and chroma >= _NEARLY_NEUTRAL * (100 - lightness) for lightness, chroma in told):
        return None
    return told[0][0], told[1][0]


@dataclass(frozen=True)
class BlackPointCompensation:
    """Source Lab to the Lab that is wanted on the substrate: white on white, and black on black if asked.

    Black point compensation scales XYZ linearly (ISO 18619), lightness only, as the neutral axis must stay one. That
    mixes gray into every color, along lines that bend for the eye: a dark blue on newsprint turns by 4°, an orange by 5°.
    With `hue_kept` what is scaled so turns back to the hue it had, in straight coordinates.
    """

    model: ForwardModel
    absolute: bool
    blacks: tuple[float, float] | None
    hue_kept: bool = False
    name: str = "want"

    def apply(self, values: ArrayLike) -> Array:
        """Lab (..., 3) to media-relative Lab (..., 3)."""
        lab = self.model.to_relative(values) if self.absolute else np.asarray(values, np.float64)
        if self.blacks is None:
            return lab
        source_black, print_black = (lab_to_xyz([level, 0.0, 0.0]) for level in self.blacks)
        scale = (D50_XYZ - print_black) / (D50_XYZ - source_black)
        scaled = xyz_to_lab(lab_to_xyz(lab) * scale + D50_XYZ * (1 - scale))
        return _with_hue_of(lab, scaled) if self.hue_kept else scaled


def _with_hue_of(lab: Array, scaled: Array) -> Array:
    """The Lab `scaled` (..., 3) with the straight hue of `lab` (..., 3), lightness and straight chroma its own."""
    hue, found = lab_to_straight(lab)[..., 1:], lab_to_straight(scaled)
    length = np.hypot(hue[..., 0], hue[..., 1])
    share = np.hypot(found[..., 1], found[..., 2]) / np.maximum(length, 1e-9)
    found[..., 1:] = np.where(length[..., None] > 1e-9, hue * share[..., None], found[..., 1:])
    return straight_to_lab(found)


@dataclass(frozen=True)
class Aim:
    """Wanted Lab to the Lab that the inks shall make: compressed for perceptual and saturation, else as it is."""

    mapping: "GamutMapping | None"
    name: str = "aim"

    def apply(self, values: ArrayLike) -> Array:
        """Lab (..., 3) to Lab (..., 3)."""
        return self.mapping.apply(values) if self.mapping else np.asarray(values, np.float64)


@dataclass(frozen=True)
class RebuiltInk:
    """Aimed Lab to inks by Plinto's own inverse, hue held as firmly as the aim's style says."""

    inverse: "Inverse"
    hue: float = 1.0
    name: str = "ink"

    def apply(self, values: ArrayLike) -> Array:
        """Lab (..., 3) to inks (..., inks) 0…1 within the limits."""
        return self.inverse.inks(values, hue=self.hue)


@dataclass(frozen=True)
class ProfiledInk:
    """Device RGB to inks by both profiles' own tables, through LittleCMS in one transform."""

    source: Profile
    target: Profile
    intent: str
    bpc: bool
    name: str = "ink"

    def apply(self, values: ArrayLike) -> Array:
        """Device values (..., channels) to inks (..., inks) 0…1."""
        return convert_to_inks(self.source, self.target, values, self.intent, self.bpc)


@dataclass(frozen=True)
class Print:
    """Inks to Lab on the substrate, media-relative."""

    model: ForwardModel
    name: str = "print"

    def apply(self, values: ArrayLike) -> Array:
        """Inks (..., inks) 0…1 to Lab (..., 3)."""
        return self.model.lab(values)
