"""From pixels as stored to RGB or CMYK codes: turned round, put on a ground, upright."""

from functools import cache
from typing import Any

import numpy as np

from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.layout import CHANNELS, Codes, Layout

#: EXIF orientation to (transpose, flip rows, flip columns) (JEITA CP-3451, 4.6.4).
_TURNS = {
    1: (False, False, False), 2: (False, False, True), 3: (False, True, True), 4: (False, True, False),
    5: (True, False, False), 6: (True, False, True), 7: (True, True, True), 8: (True, True, False),
}  # fmt: skip


def upright(pixels: Codes, orientation: int) -> Codes:
    """A whole picture (h, w, c) as it is meant to be looked at."""
    transpose, rows, columns = _TURNS.get(orientation, _TURNS[1])
    turned: Any = pixels.transpose(1, 0, 2) if transpose else pixels
    turned = turned[::-1] if rows else turned
    return np.ascontiguousarray(turned[:, ::-1] if columns else turned)


def swaps_sides(orientation: int) -> bool:
    """Whether width and height change places."""
    return _TURNS.get(orientation, _TURNS[1])[0]


def to_codes(band: Codes, layout: Layout, ground: tuple[float, float, float]) -> Codes:
    """A band as stored (rows, width, samples) to RGB (…, 3) or CMYK (…, 4) codes, transparency put on `ground`.

    `ground` is RGB 0…1; under CMYK it is bare substrate. Gray becomes three equal channels, Lab becomes ROMM RGB
    of 16 bit.
    """
    color, alpha = band[..., : CHANNELS[layout.kind]], band[..., CHANNELS[layout.kind] :]
    top = np.iinfo(band.dtype).max
    if layout.inverted:
        color = top - color
    if layout.kind == "gray":
        color = np.repeat(color, 3, axis=-1)
    elif layout.kind.startswith("lab"):
        color = _lab_to_romm(_connection_codes(color, layout))
    if layout.has_alpha:
        base = np.zeros(4) if layout.kind == "cmyk" else np.asarray(ground)
        share = alpha.astype(np.float32) / top
        full = np.iinfo(color.dtype).max
        shown = color.astype(np.float32) * (1 if layout.premultiplied else share)
        color = np.rint(np.minimum(shown + (base * full).astype(np.float32) * (1 - share), full)).astype(color.dtype)
    return np.ascontiguousarray(color)


def _connection_codes(lab: Codes, layout: Layout) -> Codes:
    """16-bit Lab codes of ICC version 4: L* 100 is 65535, a* and b* 0 are 32896 (ICC.1:2022, 6.3.4.2)."""
    wide = lab.astype(np.int64)
    if layout.kind == "lab-legacy":
        return np.minimum(wide * 65535 // 65280, 65535).astype(np.uint16)
    if layout.kind == "lab-signed":
        half = 1 << (layout.depth - 1)
        wide[..., 1:] = (wide[..., 1:] + half) % (2 * half)
        if layout.depth == 16:
            wide[..., 1:] = np.minimum(wide[..., 1:] * 257 // 256, 65535)
    return (wide * (257 if layout.depth == 8 else 1)).astype(np.uint16)


@cache
def _lab_space() -> Profile:
    return parse(cmm.lab_profile())


def _lab_to_romm(codes: Codes) -> Codes:
    flat = codes.reshape(-1, 3)
    shown = cmm.convert_codes(_lab_space(), rgb_profile("ROMM"), flat, np.dtype(np.uint16), "relative", False)
    return shown.reshape(*codes.shape[:-1], 3)
