"""From a forward model to an ICC output profile: A2B from the model, B2A from the inverse."""

import json
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.source_gamut import source_boundary
from plinto_core.chain.stations import BlackPointCompensation, Source, matched_blacks
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import RecipeError
from plinto_core.gamut.mapping import PERCEPTUAL, SATURATION, ChromaCompression
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.standard import rgb_profile
from plinto_core.icc.values import Colorants, Curve, CurveLut, Description, Numbers, TableLut, TagValue, Text, Xyz
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.inks.names import color_space_of
from plinto_core.plain import read_plain
from plinto_core.press.calibration import CALIBRATION_TAG, Calibration, calibration_tag
from plinto_core.press.model import ForwardModel
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse, precompute
from plinto_core.separation.settle import smooth_ink_lut
from plinto_core.separation.tables import InverseTables

Array = NDArray[np.float64]

_GAMUT_POINTS = 17
PerceptualStyle = Literal["steady", "lively", "gentle"]
#: Steady leaves what prints alone as long as it can, lively leans to strong color, gentle moves everything a little.
PERCEPTUAL_STYLES: dict[str, ChromaCompression] = {
    "steady": PERCEPTUAL,
    "lively": ChromaCompression(knee=0.8, cusp_shift=1.25, expansion=1.1, reach=1.2, hue=1.0),
    "gentle": ChromaCompression(knee=0.35, cusp_shift=1.0, expansion=1.0, reach=1.0, hue=1.0),
}
#: Where the settings travel: a private tag, JSON as text.
SETTINGS_TAG = "PLbs"
_TAG_LETTERS = 1 << 16
#: What the copyright tag says where the house says nothing: the profile belongs to whoever measured (ICC.1, 9.2.22).
NO_RIGHTS = "No rights are stated."
#: Lab in 16-bit tables of both versions: L* 100 is 65280, a* and b* 0 are 32768 (ICC.1:2022, 6.3.4.2, legacy).
_LAB16_TOP = 65280 / 65535


@dataclass(frozen=True)
class _LabCode:
    """How a version's tables encode Lab: the code of L* 100, the code of a* = b* = 0, and codes a unit of a* and b*."""

    white: float
    neutral: float
    unit: float


#: Version 2 tables (the legacy encoding), and version 4's (ICC.1:2022, tables 12 and 13).
_CODES = {2: _LabCode(_LAB16_TOP, 32768 / 65535, 256 / 65535), 4: _LabCode(1.0, 128 / 255, 1 / 255)}
#: How far above black, in coded L*, nodes stand how many times closer.
_DARK, _CLOSER = 0.1, 1.6
#: Steps of the tables' input curves.
_CURVE_STEPS = 1023
#: The darkest of the perceptual reference medium, which version 4 tables are aimed from (ICC.1:2022, 6.3.3).
_REFERENCE_BLACK_L = 3.1373


@dataclass(frozen=True)
class BuildSettings:
    """What goes into the tables of a profile.

    `grid` points a side of the way from Lab to inks; `style` of the perceptual table; `gray_balance` is the a* and b*
    that grays are aimed at in the middle of the axis; `chroma_percent` is added in the perceptual table. `copyright`
    is the house's.
    """

    name: str
    limits: InkLimits
    black: BlackPolicy
    version: tuple[int, int] = (4, 4)
    grid: int = 33
    style: PerceptualStyle = "steady"
    gray_balance: tuple[float, float] = (0.0, 0.0)
    chroma_percent: float = 0.0
    copyright: str = ""

    def __post_init__(self) -> None:
        if len(self.copyright) > 500:
            raise RecipeError("A copyright has at most 500 letters.")
        if not 9 <= self.grid <= 65:
            raise RecipeError(f"A grid of {self.grid} points is not sensible; choose 9 to 65.")
        if self.style not in PERCEPTUAL_STYLES:
            raise RecipeError(f"'{self.style}' is no perceptual style; choose {', '.join(PERCEPTUAL_STYLES)}.")
        if self.version not in ((2, 4), (4, 4)):
            raise RecipeError("A profile is written as ICC version 2 or 4.")
        if max(map(abs, self.gray_balance)) > 10 or not -50 <= self.chroma_percent <= 50:
            raise RecipeError("Gray balance is ±10 in a* and b*, and added chroma ±50 %.")

    def to_json(self) -> dict[str, Any]:
        """Plain values, as they travel inside the profile."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        return plain


def build_output_profile(
    model: ForwardModel,
    settings: BuildSettings,
    characterization: str = "",
    calibration: Calibration | None = None,
    tables: InverseTables | None = None,
    created: datetime | None = None,
) -> Profile:
    """An output profile with three intents; `characterization` (CGATS text) travels in the `targ` tag, and the
    `calibration` that its chart was printed through in a private one. `tables` if they are known already. `created` is
    now unless somebody wants the same bytes again."""
    inverse = Inverse(model, tables or precompute(model), settings.black, settings.limits)
    inks = len(model.inks)
    code = _CODES[settings.version[0]]
    grid = _encode_lab(model.nodes.astype(np.float64), code).reshape(*[model.points] * inks, 3)
    # Of a printer driven by RGB the model's channels stand turned round.
    a2b = _to_pcs(np.flip(grid, tuple(range(inks))) if driven_by_rgb(model.inks) else grid, settings)
    tags: dict[str, TagValue] = {
        "desc": Description({"enUS": settings.name}),
        "cprt": Description({"enUS": settings.copyright or NO_RIGHTS}),
        "wtpt": Xyz(model.white_xyz[None]),
        "chad": Numbers(np.eye(3).ravel()),
        "A2B0": a2b,
        "A2B1": a2b,
        "A2B2": a2b,
        "B2A0": _b2a(inverse, PERCEPTUAL_STYLES[settings.style], settings),
        "B2A1": _b2a(inverse, None, settings),
        "B2A2": _b2a(inverse, SATURATION, settings),
        "gamt": _gamut_table(inverse, settings),
    }
    space = color_space_of(model.inks)
    if space.endswith("CLR") or (space == "GRAY" and model.inks != ("K",)):
        solids = _encode_lab(model.lab(np.eye(inks)), _CODES[2]) * 65535
        tags["clrt"] = Colorants(tuple(model.name_of(ink) for ink in model.inks), solids)
    if calibration is not None:
        tags[CALIBRATION_TAG] = calibration_tag(calibration)
    if settings.version[0] < 4:
        # Version 2 has no adaptation tag to declare; the white point is D50-based as it stands.
        del tags["chad"]
    if characterization:
        tags["targ"] = Text(characterization)
    tags[SETTINGS_TAG] = Text(json.dumps(settings.to_json(), sort_keys=True))
    moment = (created or datetime.now(UTC)).replace(microsecond=0)
    return write(Profile(Header("prtr", space, "Lab ", settings.version, moment), tags))


def _straight(channels: int) -> Array:
    return np.tile([0.0, 1.0], (channels, 1))


def _encode_lab(lab: Array, code: _LabCode) -> Array:
    coded = np.empty_like(lab)
    coded[..., 0] = lab[..., 0] / 100 * code.white
    coded[..., 1:] = lab[..., 1:] * code.unit + code.neutral
    return np.clip(coded, 0, 1)


def _bend(coded: Array, code: _LabCode) -> Array:
    """Input curve for a* and b*: the grid is 1.6 times as fine at the neutrals as it would be evenly spread."""
    t = 2 * (coded - code.neutral)
    return np.clip((t * (1.6 - 0.6 * t * t) + 1) / 2, 0, 1)


def _meet(coded: Array, points: int, black: float, white: float) -> Array:
    """Input curve for L*: the coded L* of `black` falls on a node, for that is where the inks stop following L*.
    Just above it, where they rise most steeply, nodes stand closer."""
    # White stands on the last node in either encoding: between two, bare paper would get a little ink.
    coded = np.minimum(coded / (np.floor(white * _CURVE_STEPS) / _CURVE_STEPS), 1.0)
    if black <= 0:
        return coded
    dark = min(black + _DARK, 1.0)
    above = _CLOSER * (dark - black) + 1 - dark
    place = max(round(black / (black + above) * (points - 1)), 1) / (points - 1)
    share = (1 - place) / above
    return np.interp(coded, [0, black, dark, 1], [0, place, place + share * _CLOSER * (dark - black), 1])


def _lab_nodes(points: int, code: _LabCode, black_l: float) -> Array:
    """Lab (points**3, 3) at the nodes of a table behind the input curves of `_lab_curves`."""
    fine = np.linspace(0, 1, 20001)
    axis = np.linspace(0, 1, points)
    curve = _meet(fine, points, black_l / 100, code.white)
    rising = np.searchsorted(curve, 1.0) + 1
    lightness = np.minimum(np.interp(axis, curve[:rising], fine[:rising]) * 100 / code.white, 100.0)
    opponent = (np.interp(axis, _bend(fine, code), fine) - code.neutral) / code.unit
    return np.stack(np.meshgrid(lightness, opponent, opponent, indexing="ij"), axis=-1).reshape(-1, 3)


def _lab_curves(points: int, code: _LabCode, black_l: float) -> Array:
    coded = np.linspace(0, 1, _CURVE_STEPS + 1)
    opponent = _bend(coded, code)
    return np.stack([_meet(coded, points, black_l / 100, code.white), opponent, opponent])


def _to_pcs(grid: Array, settings: BuildSettings) -> TagValue:
    """Inks to coded Lab on an even grid: 'mft2' in version 2, 'mAB ' in version 4."""
    inks = grid.ndim - 1
    if settings.version[0] < 4:
        return TableLut(16, np.eye(3), _straight(inks), grid, _straight(3))
    return CurveLut(True, (Curve(),) * 3, grid=grid, a_curves=(Curve(),) * inks)


def _from_pcs(grid: Array, black_l: float, settings: BuildSettings) -> TagValue:
    """Coded Lab, bent towards neutrals and black, to inks: 'mft2' in version 2, 'mBA ' in version 4."""
    curves, outputs = _lab_curves(len(grid), _CODES[settings.version[0]], black_l), grid.shape[-1]
    if settings.version[0] < 4:
        return TableLut(16, np.eye(3), curves, grid, _straight(outputs))
    bent = Curve(curves[1])
    return CurveLut(False, (Curve(curves[0]), bent, bent), grid=grid, a_curves=(Curve(),) * outputs)


def _b2a(inverse: Inverse, style: ChromaCompression | None, settings: BuildSettings) -> TagValue:
    printed_black = float(inverse.black_point_lab[0])
    black_l = printed_black if style is None else _REFERENCE_BLACK_L
    nodes = _lab_nodes(settings.grid, _CODES[settings.version[0]], black_l)
    aims = nodes.copy()
    aims[:, 0] = np.minimum(aims[:, 0], 100)
    if style is not None:
        want = BlackPointCompensation(
            inverse.model,
            False,
            matched_blacks(np.array([_REFERENCE_BLACK_L, 0.0, 0.0]), inverse.black_point_lab),
            True,
        )
        # The connection space has no gamut of its own; a wide working space stands for what may come.
        wide = source_boundary(Source(rgb_profile("opRGB")), want)
        aims = want.apply(aims)
        aims[:, 1:] *= 1 + settings.chroma_percent / 100
        aims = inverse.mapping_from(wide, style).apply(aims)
    if any(settings.gray_balance):
        # The cast is full in the middle of the axis, none at paper and black, and fades out with chroma.
        share = np.clip(4 * aims[:, 0] / 100 * (1 - aims[:, 0] / 100), 0, 1)
        share *= np.exp(-((np.hypot(aims[:, 1], aims[:, 2]) / 20) ** 2))
        aims[:, 1:] += share[:, None] * np.array(settings.gray_balance)
    shape = (settings.grid,) * 3
    inks = inverse.inks(aims, 16, style.hue if style else 1.0).reshape(*shape, -1)
    inks = smooth_ink_lut(inverse, nodes.reshape(*shape, 3), inks)
    # Bare substrate is bare, to the last code.
    inks.reshape(-1, inks.shape[-1])[np.abs(nodes - [100, 0, 0]).max(axis=1) < 1e-3] = 0.0
    # Rounded down: the tables hold the ink limit like everything Plinto writes.
    inks = np.floor(inks * 65535 + 1e-6) / 65535
    return _from_pcs(turned(inks) if driven_by_rgb(inverse.model.inks) else inks, black_l, settings)


def _gamut_table(inverse: Inverse, settings: BuildSettings) -> TagValue:
    """0 inside, 1 outside: further than 3 ΔE00 from what the limits reach."""
    nodes = _lab_nodes(_GAMUT_POINTS, _CODES[settings.version[0]], 0.0)
    reached = inverse.model.lab(inverse.inks(nodes))
    outside = (delta_e_2000(nodes, reached) > 3).astype(np.float64)
    shape = (_GAMUT_POINTS,) * 3 + (1,)
    return _from_pcs(outside.reshape(shape), 0.0, settings)


def settings_of(profile: Profile) -> dict[str, Any] | None:
    """The settings that a profile built here carries, or None where the tag holds anything else; never raises."""
    tag = profile.tags.get(SETTINGS_TAG)
    if not isinstance(tag, Text) or len(tag.text) > _TAG_LETTERS:
        return None
    try:
        found = json.loads(tag.text)
        build_settings_from_json(found)
    except (ValueError, RecursionError, RecipeError):
        return None
    return dict(found)


def build_settings_from_json(plain: object) -> BuildSettings:
    """Settings from plain values; `RecipeError` says what is wrong with them."""
    return read_plain(BuildSettings, plain, "The settings of the profile", RecipeError, strict=False)


def black_by_total(
    model: ForwardModel, black: BlackPolicy, totals: Array, tables: InverseTables | None = None
) -> Array:
    """L* of the darkest neutral for each total ink in percent (n,), to be drawn and read."""
    tables = tables or precompute(model)
    return np.array([Inverse(model, tables, black, InkLimits(float(t))).darkest_l for t in totals])


def automatic_total(
    model: ForwardModel, black: BlackPolicy, tables: InverseTables | None = None
) -> tuple[float, Array, Array]:
    """The lowest total ink from which the neutral black gets no darker (within 0.5 L*), and the curve it was read
    from: totals in percent (n,) and L* (n,)."""
    most = 100.0 * len(model.inks)
    totals = np.arange(100.0, min(most, 400.0) + 1, 10.0)
    lightness = black_by_total(model, black, totals, tables)
    enough = totals[lightness <= lightness.min() + 0.5]
    return float(enough[0]), totals, lightness
