"""Colors that files give for another light or observer than D50 and 2°."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz
from plinto_core.colorimetry.spectra import ILLUMINANTS, illuminant_power, light_white, to_d50
from plinto_core.errors import CharacterizationError

Array = NDArray[np.float64]


@dataclass(frozen=True)
class SeenUnder:
    """Light and observer of colors, in capitals and digits as `seen_under` reads them; '' where nothing is said."""

    light: str = ""
    observer: str = ""

    @property
    def is_d50(self) -> bool:
        """Whether colors of it are as the connection space has them (ICC.1:2022, 6.3.2)."""
        return self.light in ("", "D50") and not self.observer.startswith("10")

    def __str__(self) -> str:
        angle = re.match(r"\d+", self.observer)
        return f"{self.light or 'D50'}, {angle[0]}°" if angle else self.light or "D50"


#: As the connection space has colors, and as they are taken where nothing is said.
D50_2 = SeenUnder()


def seen_under(light: str, observer: str) -> SeenUnder:
    """What a file says of light ('D65', 'CIE F11') and observer ('2_Degree', '10')."""
    bare = (re.sub(r"[^A-Z0-9]", "", text.upper()[:40]) for text in (light, observer))
    return SeenUnder(next(bare).removeprefix("CIE"), next(bare))


def lab_under_d50(lab: Array, seen: SeenUnder, where: str) -> Array:
    """XYZ (..., 3) under D50 of Lab (..., 3) under another light.

    Lab is of its own white, by whichever observer: what is left to do is to see it under D50 (linear Bradford). Raises
    `CharacterizationError` for a light not known here.
    """
    xyz = lab_to_xyz(lab)
    if seen.light in ("", "D50"):
        return xyz
    white = _white(seen, where)
    return to_d50(xyz / D50_XYZ * white, white)


def xyz_under_d50(xyz: Array, seen: SeenUnder, where: str) -> Array:
    """XYZ (..., 3), white 1, under another light as under D50 (linear Bradford).

    Raises `CharacterizationError` for a light not known here, and for the observer of 10°, whose white is another one.
    """
    if seen.is_d50:
        return xyz
    if seen.observer.startswith("10"):
        raise CharacterizationError(
            f"{where[0].upper()}{where[1:]} has XYZ of the observer of 10° only. Export spectra, or Lab."
        )
    return to_d50(xyz, _white(seen, where))


def _white(seen: SeenUnder, where: str) -> Array:
    if seen.light not in ILLUMINANTS:
        raise CharacterizationError(
            f"{where[0].upper()}{where[1:]} has colors under '{seen.light}', which is none of {', '.join(ILLUMINANTS)}. "
            "Export spectra, or colors under D50."
        )
    return light_white(illuminant_power(seen.light))
