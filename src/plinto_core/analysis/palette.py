"""A palette: colors as typed or pasted, which of them a line can print, and the nearest that it can."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import CharacterizationError, PaletteError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.drive import driving_codes, lab_to_inks
from plinto_core.measurement.cgats import read_lab_of
from plinto_core.measurement.tables import names_fields, read_table, row_names
from plinto_core.measurement.typed_colors import typed_colors

Array = NDArray[np.float64]

MOST_COLORS = 2000


@dataclass(frozen=True)
class PaletteColor:
    """A color asked for, as Lab (D50): media-relative, as every wanted color of the line."""

    name: str
    lab: tuple[float, float, float]


@dataclass(frozen=True)
class PaletteVerdict:
    """What the line makes of a color. `delta_e` is ΔE00 from asked to printed, with the limits and black in force."""

    name: str
    lab: tuple[float, float, float]
    printed_lab: tuple[float, float, float]
    inks_percent: dict[str, float]
    delta_e: float
    prints: bool
    #: R, G, B of 0 to 255 where the printer is driven by them.
    driving: dict[str, float] | None = None


def parse_palette(text: str, rgb: Profile | None = None) -> list[PaletteColor]:
    """Colors from lines of '#rrggbb' or of 'L a b', where a name may stand too, or from a table: CGATS, or a line that
    names the fields above rows of Lab, L*C*h, XYZ or spectra.

    Hex values are read by `rgb` (default: sRGB), media-relative. Raises `PaletteError` naming the line.
    """
    if "BEGIN_DATA_FORMAT" in text:
        return _from_table(text)
    try:
        typed = typed_colors(text)
    except PaletteError:
        if names_fields(text):
            return _from_table(text)
        raise
    if not typed:
        raise PaletteError("There is no color in this text. Write one a line, like #d2691e or 52.1 −8 33.")
    if len(typed) > MOST_COLORS:
        raise PaletteError(f"{len(typed)} colors are too many at once; {MOST_COLORS} are the most.")
    codes = np.array([each.rgb for each in typed if each.rgb is not None]).reshape(-1, 3)
    labs = iter(cmm.to_lab(rgb or rgb_profile("sRGB"), codes))
    return [_color(each.name, next(labs) if each.lab is None else np.array(each.lab)) for each in typed]


def _color(name: str, lab: Array) -> PaletteColor:
    lightness, a, b = (float(value) for value in lab)
    return PaletteColor(name[:60], (lightness, a, b))


def _from_table(text: str) -> list[PaletteColor]:
    try:
        table = read_table(text.encode("utf-8", "replace"), "the text", least=1)
        labs, _spectra = read_lab_of(table, "the text")
    except CharacterizationError as error:
        raise PaletteError(str(error)) from error
    for row, lab in enumerate(labs, 1):
        if not 0 <= lab[0] <= 100 or np.abs(lab[1:]).max() > 200:
            raise PaletteError(f"Row {row} of the table is no color: {', '.join(f'{v:g}' for v in lab)}.")
    if len(labs) > MOST_COLORS:
        raise PaletteError(f"{len(labs)} colors are too many at once; {MOST_COLORS} are the most.")
    return [_color(name, lab) for name, lab in zip(row_names(table), labs, strict=True)]


def check_palette(chain: Chain, colors: list[PaletteColor], tolerance: float) -> list[PaletteVerdict]:
    """Each color by this line's inks, limits and black; what is further than `tolerance` ΔE00 off does not print."""
    wanted = np.array([color.lab for color in colors])
    inks = chain.inverse.inks(wanted) if chain.rebuilt else lab_to_inks(chain.condition.profile, wanted)
    printed = chain.condition.model.lab(inks)
    errors = delta_e_2000(wanted, printed)
    letters = chain.condition.model.inks
    return [
        PaletteVerdict(
            color.name,
            color.lab,
            (float(printed[i, 0]), float(printed[i, 1]), float(printed[i, 2])),
            {ink: float(inks[i, k]) * 100 for k, ink in enumerate(letters)},
            float(errors[i]),
            bool(errors[i] <= tolerance),
            driving_codes(letters, inks[i]),
        )
        for i, color in enumerate(colors)
    ]
