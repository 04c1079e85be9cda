"""Evaluation of profiles through LittleCMS, on float64 arrays.

Device values are 0…1 everywhere in Plinto; Lab is in its own units, D50, relative to the media unless
`intent` is 'absolute'.
"""

from functools import cache
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.icc.profile import CHANNELS, INTENTS, Profile
from plinto_core.icc.table_steps import steps_of
from plinto_core.icc.transform import transform
from plinto_core.icc.values import Array

_DOUBLES = ("float64", "float64")
#: Colors from which on it pays to make steps of two profiles.
_MANY = 1 << 12
_IN_PERCENT = {"CMYK", "CMY ", *(f"{count:X}CLR" for count in range(5, 16))}


def _scale(space: str) -> float:
    # LittleCMS counts ink in percent when it works on floating-point numbers, for all that it takes for inks: CMYK, CMY,
    # and five colorants or more. Two to four nameless ones are numbers of 0…1 to it.
    return 100.0 if space in _IN_PERCENT else 1.0


@cache
def lab_profile() -> bytes:
    """The connection space itself as a profile, version 4."""
    return bytes(imagecodecs.cms_profile("lab4"))


def _transform(
    values: ArrayLike,
    source: tuple[bytes, str],
    target: tuple[bytes, str],
    out_space: str,
    intent: str,
    bpc: bool,
) -> Array:
    values = np.asarray(values, np.float64)
    flat = values.reshape(-1, values.shape[-1]) * _scale(source[1])
    made = transform(
        (source[0], target[0]), (source[1], values.shape[-1]), (out_space, CHANNELS[out_space]), _DOUBLES,
        INTENTS.index(intent), bpc,
    )  # fmt: skip
    return np.asarray(made.apply(flat).reshape((*values.shape[:-1], CHANNELS[out_space])) / _scale(out_space))


def to_lab(profile: Profile, values: ArrayLike, intent: str = "relative", *, bpc: bool = False) -> Array:
    """Device values (..., channels) to Lab (..., 3) as the profile says. Raises `IccError`."""
    source = (profile.raw, profile.header.space)
    return _transform(values, source, (lab_profile(), "Lab "), "Lab ", intent, bpc)


def from_lab(profile: Profile, lab: ArrayLike, intent: str = "relative", *, bpc: bool = False) -> Array:
    """Lab (..., 3) to device values (..., channels) by the profile's own tables. Raises `IccError`."""
    target = (profile.raw, profile.header.space)
    return _transform(lab, (lab_profile(), "Lab "), target, profile.header.space, intent, bpc)


def convert(
    source: Profile, target: Profile, values: ArrayLike, intent: str = "relative", *, bpc: bool = False
) -> Array:
    """Device values of `source` to device values of `target`, both profiles as they are. Raises `IccError`."""
    ends = (source.raw, source.header.space), (target.raw, target.header.space)
    return _transform(values, *ends, target.header.space, intent, bpc)


def convert_codes(
    source: Profile, target: Profile, codes: NDArray[Any], kind: np.dtype[Any], intent: str, bpc: bool
) -> NDArray[Any]:
    """Picture codes (n, channels) of 8 or 16 bit to codes (n, channels) of `kind`, without shortcuts.

    Many are taken through LittleCMS' steps in one loop, where those are known (see `table_steps`); the codes are the same.
    """
    spaces = source.header.space, target.header.space
    made = transform(
        (source.raw, target.raw), (spaces[0], codes.shape[-1]), (spaces[1], target.header.channels),
        (codes.dtype.name, kind.name), INTENTS.index(intent), bpc,
    )  # fmt: skip
    steps = steps_of(source.raw, target.raw, intent, bpc) if len(codes) >= _MANY else None
    if steps is None:
        return made.apply(codes)
    found, doubtful = steps.inks(codes, kind)
    if len(doubtful):
        found[doubtful] = made.apply(codes[doubtful])
    return found


def through_link(link: Profile, target: Profile, values: ArrayLike, intent: str = "relative") -> Array:
    """Values through a device link, and what its inks look like by `target`: Lab (..., 3). Raises `IccError`.

    LittleCMS continues a link that ends in inks with the profile of these inks, read towards its Lab.
    """
    ends = (link.raw, link.header.space), (target.raw, target.header.space)
    return _transform(values, *ends, "Lab ", intent, False)


def by_link(link: Profile, values: ArrayLike) -> Array:
    """Values (..., channels) through a device link into what it ends in, 0…1, or Lab. Raises `IccError`."""
    values = np.asarray(values, np.float64)
    into, out = link.header.space, link.header.pcs
    made = transform(
        (link.raw,), (into, values.shape[-1]), (out, CHANNELS[out]), _DOUBLES, INTENTS.index("perceptual"), False
    )
    flat = values.reshape(-1, values.shape[-1]) * _scale(into)
    return np.asarray(made.apply(flat).reshape((*values.shape[:-1], -1)) / _scale(out))


def by_abstract(look: Profile, lab: ArrayLike) -> Array:
    """Lab (..., 3) through an abstract profile to Lab. Raises `IccError`."""
    lab = np.asarray(lab, np.float64)
    made = transform(
        (lab_profile(), look.raw, lab_profile()), ("Lab ", 3), ("Lab ", 3), _DOUBLES, INTENTS.index("relative"), False
    )
    return np.asarray(made.apply(lab.reshape(-1, 3)).reshape(lab.shape))
