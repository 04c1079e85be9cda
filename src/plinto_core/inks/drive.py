"""Printers driven by RGB, whose inks are out of reach: inside Plinto their channels stand turned round, as "inks" that take
red, green and blue light away. So 0 is the bare substrate and 1 the most, as for inks, in every model, table and link;
only what an output profile, a measurement file or a delivered file holds is R, G, B itself."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.inks.names import DRIVEN_BY_RGB

Array = NDArray[np.float64]


def driven_by_rgb(inks: Sequence[str]) -> bool:
    """Whether these letters are the turned channels of a printer that takes RGB."""
    return tuple(inks) == DRIVEN_BY_RGB


def turned(values: Array) -> Array:
    """Channels 0…1 from R, G, B, or R, G, B from channels."""
    return 1.0 - values


def turned_codes(codes: NDArray[Any]) -> NDArray[Any]:
    """As `turned`, for codes of 8 or 16 bit."""
    found: NDArray[Any] = np.invert(codes)
    return found


def driving_codes(letters: Sequence[str], inks: Array) -> dict[str, float] | None:
    """R, G, B from 0 to 255 of channels (3,) 0…1, by letter; None for inks, which drive themselves."""
    if not driven_by_rgb(letters):
        return None
    return dict(zip("RGB", (turned(np.asarray(inks)) * 255).tolist(), strict=True))


def inks_to_lab(profile: Profile, inks: ArrayLike, intent: str = "relative") -> Array:
    """Inks (..., inks) 0…1 to Lab (..., 3) by an output profile. Raises `IccError`."""
    inks = np.asarray(inks, np.float64)
    return cmm.to_lab(profile, turned(inks) if _is_rgb(profile) else inks, intent)


def lab_to_inks(profile: Profile, lab: ArrayLike, intent: str = "relative") -> Array:
    """Lab (..., 3) to inks (..., inks) 0…1 by an output profile's own tables. Raises `IccError`."""
    device = cmm.from_lab(profile, lab, intent)
    return turned(device) if _is_rgb(profile) else device


def convert_to_inks(source: Profile, target: Profile, device: ArrayLike, intent: str, bpc: bool) -> Array:
    """Device values of `source` to inks (..., inks) 0…1 of the output profile `target`. Raises `IccError`."""
    found = cmm.convert(source, target, device, intent, bpc=bpc)
    return turned(found) if _is_rgb(target) else found


def convert_codes_to_inks(
    source: Profile, target: Profile, codes: NDArray[Any], kind: np.dtype[Any], intent: str, bpc: bool
) -> NDArray[Any]:
    """As `convert_to_inks`, for picture codes (n, channels), to ink codes of `kind`."""
    found = cmm.convert_codes(source, target, codes, kind, intent, bpc)
    return turned_codes(found) if _is_rgb(target) else found


def _is_rgb(profile: Profile) -> bool:
    return profile.header.space == "RGB "
