"""Evaluation of profiles through LittleCMS, on float64 arrays.

Device values are 0…1 everywhere in Plinto; Lab is in its own units, D50, relative to the media unless
`intent` is 'absolute'.
"""

from functools import cache
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.errors import IccError
from plinto_core.icc._many_channels import transform
from plinto_core.icc.profile import CHANNELS, INTENTS, Profile
from plinto_core.icc.values import Array

_FLAGS = imagecodecs.CMS.FLAGS
_LAYOUTS = {"GRAY": "gray", "RGB ": "rgb", "CMY ": "cmy", "CMYK": "cmyk", "Lab ": "lab", "XYZ ": "xyz"}


def _scale(space: str) -> float:
    # LittleCMS counts ink in percent when it works on floating-point numbers.
    return 100.0 if space in ("CMYK", "CMY ") or space.endswith("CLR") else 1.0


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
    flat = np.ascontiguousarray(values.reshape(-1, 1, values.shape[-1])) * _scale(source[1])
    flags = _FLAGS.NOOPTIMIZE | _FLAGS.NOCACHE | (_FLAGS.BLACKPOINTCOMPENSATION if bpc else 0)
    if not {source[1], out_space} <= _LAYOUTS.keys():
        many = transform(
            flat[:, 0], source, target, (out_space, CHANNELS[out_space]), INTENTS.index(intent), int(flags)
        )
        return many.reshape((*values.shape[:-1], -1)) / _scale(out_space)
    try:
        out = imagecodecs.cms_transform(
            flat, source[0], target[0],
            colorspace=_LAYOUTS[source[1]], outcolorspace=_LAYOUTS[out_space],
            outdtype="float64", intent=INTENTS.index(intent), flags=flags,
        )  # fmt: skip
    except imagecodecs.CmsError as error:
        raise IccError(f"LittleCMS cannot build the transform ({error})") from error
    return np.asarray(out).reshape((*values.shape[:-1], -1)) / _scale(out_space)


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
    """Picture codes (n, channels) of 8 or 16 bit to codes (n, channels) of `kind`, without shortcuts."""
    spaces = source.header.space, target.header.space
    if not set(spaces) <= _LAYOUTS.keys():
        device = codes.astype(np.float64) / np.iinfo(codes.dtype).max
        inks = convert(source, target, device, intent, bpc=bpc)
        return np.rint(np.clip(inks, 0, 1) * np.iinfo(kind).max).astype(kind)
    flags = _FLAGS.NOOPTIMIZE | _FLAGS.NOCACHE | (_FLAGS.BLACKPOINTCOMPENSATION if bpc else 0)
    try:
        out = imagecodecs.cms_transform(
            codes[:, None, :], source.raw, target.raw,
            colorspace=_LAYOUTS[source.header.space], outcolorspace=_LAYOUTS[target.header.space],
            outdtype=kind.name, intent=INTENTS.index(intent), flags=flags,
        )  # fmt: skip
    except imagecodecs.CmsError as error:
        raise IccError(f"LittleCMS cannot build the transform ({error})") from error
    return np.asarray(out).reshape(len(codes), -1)


def through_link(link: Profile, target: Profile, values: ArrayLike, intent: str = "relative") -> Array:
    """Values through a device link, and what its inks look like by `target`: Lab (..., 3). Raises `IccError`.

    LittleCMS continues a link that ends in inks with the profile of these inks, read towards its Lab.
    """
    ends = (link.raw, link.header.space), (target.raw, target.header.space)
    return _transform(values, *ends, "Lab ", intent, False)
