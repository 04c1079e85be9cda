"""Pictures of RGB through a matrix profile and an output profile's own table: LittleCMS' result, several times as fast.

Without shortcuts LittleCMS converts two megapixels a second and core; its own shortcut for pictures is off by up to
30 codes of 255. So its steps are taken here in one compiled loop, in its own integers. Whether they are its steps is
not assumed but found out, color by color, before the first picture; where they are not, and for other makes of
profiles, it does the work.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.computed_once import computed_once
from plinto_core.icc.curves import along
from plinto_core.icc.profile import INTENTS, Profile, parse
from plinto_core.icc.transform import black_points, curve_values, transform
from plinto_core.icc.values import AnyCurve, Curve, CurveLut, TableLut, Xyz
from plinto_core.ready_kernels import ReadyKernel

Array = NDArray[np.float64]
Codes = NDArray[Any]

#: D50 as LittleCMS has it (lcms2.h).
_D50 = np.array([0.9642, 1.0, 0.8249])
#: What XYZ is divided by in LittleCMS' steps, so that 16 bit hold it.
_MOST_XYZ = 1 + 32767 / 32768
_ROOT_STEPS, _ROOT_TOP = 1 << 14, 2.0
_WIDE = np.arange(65536)
_COLORANTS = ("rXYZ", "gXYZ", "bXYZ")
#: Colors by which the steps are compared with LittleCMS.
_COMPARED = 6000
#: Less than this of factors and summands together LittleCMS takes for nothing.
_NOTHING = 0.002
#: So near to the border between two codes of Lab, in codes of 16 bit, a last digit may say the other one. Of 26 million
#: colors through 260 pairs of profiles and intents none did beyond 0.00001.
_DOUBT = 0.0001
_inks_by_tables = ReadyKernel("plinto_core.icc.table_kernels", "inks_by_tables")


@dataclass(frozen=True)
class TableSteps:
    """The steps as arrays, see `table_kernels.inks_by_tables`; `source` has the curves, by which codes become light."""

    source: Profile
    colorants: Array
    matching: Array
    matched: bool
    lab_scale: float
    inputs: NDArray[np.uint16]
    grid: NDArray[np.uint16]
    outputs: NDArray[np.uint16]

    def inks(self, codes: Codes, kind: "np.dtype[Any]") -> tuple[Codes, NDArray[np.intp]]:
        """Codes (n, 3) of 8 or 16 bit to ink codes (n, inks) of `kind`, and the rows that only LittleCMS can tell."""
        out = np.empty((len(codes), self.grid.shape[-1]), kind)
        doubtful = np.empty(len(codes), np.uint8)
        light = self._light8 if codes.dtype == np.uint8 else self._light16
        roots = _roots()
        colorants, matching, inputs, grid, outputs = map(
            np.ascontiguousarray, (self.colorants, self.matching, self.inputs, self.grid, self.outputs)
        )
        # The caller shares pixels out among its threads.
        _inks_by_tables.in_order(
            len(codes), np.ascontiguousarray(codes), light, light.shape[1], colorants, matching, int(self.matched), roots,
            len(roots), _ROOT_STEPS / _ROOT_TOP, float(self.lab_scale), inputs, grid, *grid.shape, outputs, _DOUBT, out,
            doubtful,
        )  # fmt: skip
        return out, np.flatnonzero(doubtful)

    @computed_once
    def _light8(self) -> NDArray[np.float32]:
        return self._light(256)

    @computed_once
    def _light16(self) -> NDArray[np.float32]:
        return self._light(65536)

    def _light(self, codes: int) -> NDArray[np.float32]:
        """How much light (3, codes) each code of a channel is."""
        return np.stack([curve_values(self.source.raw, f"{channel}TRC", codes) for channel in "rgb"])


@lru_cache(1)
def _roots() -> Array:
    return np.cbrt(np.linspace(0, _ROOT_TOP, _ROOT_STEPS + 1))


@lru_cache(16)
def steps_of(source: bytes, target: bytes, intent: str, bpc: bool) -> TableSteps | None:
    """The steps from RGB of one profile to inks of another; None where they are not these, or LittleCMS comes to others."""
    found = _steps(parse(source), parse(target), intent, bpc)
    if found is None:
        return None
    random = np.random.default_rng(1)
    colors = random.integers(0, 256, (_COMPARED, 3), np.uint8)
    colors[::3] //= 6
    colors[1::6] = colors[1::6, :1]
    colors[: 2 * 8 : 2] = np.array(np.meshgrid(*[[0, 255]] * 3)).reshape(3, -1).T
    channels = found.grid.shape[-1]
    exact = transform(
        (source, target), ("RGB ", 3), (parse(target).header.space, channels), ("uint8", "uint16"),
        INTENTS.index(intent), bpc,
    ).apply(colors)  # fmt: skip
    inks, doubtful = found.inks(colors, np.dtype(np.uint16))
    return found if np.array_equal(np.delete(exact, doubtful, 0), np.delete(inks, doubtful, 0)) else None


def _steps(source: Profile, target: Profile, intent: str, bpc: bool) -> TableSteps | None:
    table = _table_of(target, intent)
    if table is None or not _is_matrix(source):
        return None
    curves_in, grid, curves_out, lab_scale = table
    matching, matched = _matching(source, target, intent, bpc)
    wide = np.rint(grid * 65535).astype(np.uint16)
    colorants = np.stack([_fixed(tag.values[0]) for tag in map(source.tags.get, _COLORANTS) if isinstance(tag, Xyz)])
    return TableSteps(
        source, colorants / _MOST_XYZ, matching, matched, lab_scale,
        np.stack([_curve_codes(curve) for curve in curves_in]), np.ascontiguousarray(wide),
        np.stack([_curve_codes(curve) for curve in curves_out]),
    )  # fmt: skip


def _fixed(values: Array) -> Array:
    """Numbers as a profile has them, in 65,536ths."""
    return np.asarray(np.rint(values * 65536) / 65536)


def _is_matrix(profile: Profile) -> bool:
    has = profile.tags.keys()
    needed = {*_COLORANTS, *(f"{channel}TRC" for channel in "rgb")}
    tables = {"A2B0", "A2B1", "A2B2", "D2B0", "D2B1", "D2B2", "D2B3"}
    whole = needed <= has and all(isinstance(profile.tags[tag], Xyz) for tag in _COLORANTS)
    return profile.header.space == "RGB " and profile.header.pcs == "XYZ " and whole and not tables & has


def _table_of(profile: Profile, intent: str) -> tuple[Any, Array, Any, float] | None:
    """Curves before, grid (L, a, b, inks) 0…1, curves behind, and the factor on the encoding of Lab (v2 in 'mft2')."""
    if profile.header.pcs != "Lab " or any(tag.startswith("B2D") for tag in profile.tags):
        return None
    number = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 1}[intent]
    found = profile.tags.get(f"B2A{number}", profile.tags.get("B2A0"))
    if isinstance(found, TableLut):
        curves = [[Curve(row) for row in rows] for rows in (found.inputs, found.outputs)]
        scale = 65280 / 65535 if found.bits == 16 else 1.0
        return (curves[0], found.grid, curves[1], scale) if found.grid.ndim == 4 else None
    if not isinstance(found, CurveLut) or found.grid is None or found.grid.ndim != 4:
        return None
    if found.matrix is not None or found.m_curves is not None or found.a_curves is None:
        return None
    # Before the grid LittleCMS evaluates formulas between the codes.
    if not all(_is_table(curve) or (along(curve, _WIDE / 65535) == _WIDE / 65535).all() for curve in found.b_curves):
        return None
    return found.b_curves, found.grid, found.a_curves, 1.0


def _is_table(curve: AnyCurve) -> bool:
    return isinstance(curve, Curve) and len(curve.values) > 1


def _curve_codes(curve: AnyCurve) -> NDArray[np.uint16]:
    """What a curve makes of every code of 16 bit, as LittleCMS' own fixed-point interpolation (15.16) rounds it."""
    if not isinstance(curve, Curve) or len(curve.values) < 2:
        return np.rint(np.clip(along(curve, _WIDE / 65535), 0, 1) * 65535).astype(np.uint16)
    table = np.rint(curve.values * 65535).astype(np.int64)
    place = _WIDE * (len(table) - 1)
    place += (place + 0x7FFF) // 0xFFFF
    low, rest = place >> 16, place & 0xFFFF
    high = np.minimum(low + 1, len(table) - 1)
    return np.asarray(table[low] + (((table[high] - table[low]) * rest + 0x8000) >> 16), np.uint16)


def _matching(source: Profile, target: Profile, intent: str, bpc: bool) -> tuple[Array, bool]:
    """Between the two, (3, 3): factors and summands for encoded XYZ that bring white on white for absolute, or black on
    black, and what XYZ is of white then; and whether there is anything to be matched."""
    scale, offset = np.ones(3), np.zeros(3)
    # LittleCMS always compensates towards version 4 where relations count.
    compensated = bpc or (target.header.version[0] >= 4 and intent in ("perceptual", "saturation"))
    if intent == "absolute":
        scale = _white(source) / _white(target)
    elif compensated:
        dark, black = black_points(source.raw, target.raw, INTENTS.index(intent))
        scale, offset = (black - _D50) / (dark - _D50), -_D50 * (black - dark) / (dark - _D50) / _MOST_XYZ
    matched = bool(np.abs(scale - 1).sum() + np.abs(offset).sum() >= _NOTHING)
    return np.stack([scale, offset, _MOST_XYZ / _D50]), matched


def _white(profile: Profile) -> Array:
    told = profile.white()
    if told is None or (profile.header.version[0] < 4 and profile.header.profile_class == "mntr"):
        return _D50
    return _fixed(told.values[0])
