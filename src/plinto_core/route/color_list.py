"""Lists of colors: device values of any space, or Lab, with names; from CGATS, tables with a header, and typed lines."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError, PaletteError, PipelineError
from plinto_core.icc import cmm
from plinto_core.icc.named_colors import read_named_colors
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.names import DRIVEN_BY_RGB, letters_of
from plinto_core.measurement.cgats import has_colors, has_spectra, read_colors_of, read_lab_of
from plinto_core.measurement.cxf import read_colors, read_cxf, read_device_values
from plinto_core.measurement.listed_values import listed_values
from plinto_core.measurement.tables import Table, names_fields, read_table, row_names
from plinto_core.measurement.typed_colors import typed_colors

Array = NDArray[np.float64]

MOST_COLORS = 100_000
LAB = ("L*", "a*", "b*")


@dataclass(frozen=True)
class ColorList:
    """Colors in one space: `channels` are ('L*', 'a*', 'b*'), ('R', 'G', 'B'), or the letters of inks.

    `values` (n, channels): Lab in its units (ICC-absolute where it was measured), everything else 0…1. `spectra` (n, 36)
    are reflectances at `WAVELENGTHS_NM`, where colors came with them; NaN for those that did not.
    """

    names: tuple[str, ...]
    channels: tuple[str, ...]
    values: Array
    spectra: Array | None = None

    def __post_init__(self) -> None:
        if not 1 <= len(self.values) <= MOST_COLORS:
            raise PipelineError(f"The list has {len(self.values):,} colors; 1 to {MOST_COLORS:,} are meant.")

    @property
    def is_lab(self) -> bool:
        """Whether the colors stand for themselves, with no device."""
        return self.channels == LAB


def read_list(data: bytes, name: str) -> ColorList:
    """A list of a file: ICC named colors, CxF, CGATS or a table (device values where it has any, else colors), or lines of
    'name L a b' and 'name #rrggbb'.

    Raises `CharacterizationError`, `PipelineError`.
    """
    if data[36:40] == b"acsp":
        return _named_colors(data)
    if data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        return _objects(data, name)
    text = data.decode("utf-8", errors="replace")
    if "BEGIN_DATA" not in text.upper() and (typed := typed_list(text)) is not None:
        return typed
    return _tabled(data, name)


def _tabled(data: bytes, name: str) -> ColorList:
    table = read_table(data, name, least=1)
    return _of_table(table, row_names(table), name)


def _of_table(table: Table, names: tuple[str, ...], name: str) -> ColorList:
    try:
        values, channels = listed_values(table, name)
    except CharacterizationError as no_values:
        # No device values, or none that can be read: colors alone will do.
        try:
            return ColorList(names, LAB, *read_lab_of(table, name))
        except CharacterizationError as no_colors:
            raise (no_colors if has_colors(table) else no_values) from None
    spectra = read_colors_of(table, name)[1] if has_spectra(table) else None
    return ColorList(names, channels, values, spectra)


def typed_list(text: str) -> ColorList | None:
    """Colors of typed or pasted lines: RGB where all are '#rrggbb', else Lab (RGB read as sRGB); None where a line is
    neither."""
    try:
        typed = typed_colors(text)
    except PaletteError:
        return None
    if not typed:
        return None
    names = tuple(each.name for each in typed)
    codes = np.array([each.rgb for each in typed if each.rgb is not None]).reshape(-1, 3)
    if len(codes) == len(typed):
        return ColorList(names, ("R", "G", "B"), codes)
    labs = iter(cmm.to_lab(rgb_profile("sRGB"), codes))
    return ColorList(names, LAB, np.array([next(labs) if each.lab is None else each.lab for each in typed]))


def pasted_list(text: str) -> ColorList:
    """Colors of typed or pasted text: lines of colors, CGATS, or a table whose first line names its fields.

    Raises `PaletteError` naming the line, and `CharacterizationError` for a table.
    """
    text = text.removeprefix("\ufeff")
    typed = typed_list(text)
    if typed is not None:
        return typed
    if names_fields(text):
        return _tabled(text.encode("utf-8", "replace"), "the text")
    typed_colors(text)
    raise PaletteError("There is no color in this text. Write one a line, like #d2691e or 52.1 −8 33.")


def _named_colors(data: bytes) -> ColorList:
    """The colors of an ICC named color profile, as Lab."""
    found = read_named_colors(parse(data))
    return ColorList(found.names, LAB, found.lab)


def _objects(data: bytes, name: str) -> ColorList:
    """The objects of a CxF file: device values where all have them, else their colors."""
    try:
        measured, _notes = read_cxf(data, name)
    except CharacterizationError:
        return _colors_or_values(data, name)
    letters = _channels(measured.inks)
    called, _xyz, _spectra = read_colors(data, name)
    count = len(measured.device)
    return ColorList(
        tuple(called if len(called) == count else map(str, range(1, count + 1))), letters, measured.device,
        measured.spectra,
    )  # fmt: skip


def _colors_or_values(data: bytes, name: str) -> ColorList:
    """Objects that do not have both: their colors, or where none has one their device values."""
    try:
        names, xyz, spectra = read_colors(data, name)
    except CharacterizationError as error:
        try:
            names, inks, values = read_device_values(data, name)
        except CharacterizationError:
            raise error from None
        return ColorList(tuple(names), _channels(inks), values)
    return ColorList(tuple(names), LAB, xyz_to_lab(xyz), spectra)


def _channels(inks: tuple[str, ...]) -> tuple[str, ...]:
    return ("R", "G", "B") if inks == DRIVEN_BY_RGB else letters_of(inks)


def grid_of(channels: tuple[str, ...], side: int) -> ColorList:
    """Every combination of `side` steps a channel, 0…1. Raises `PipelineError` for more than fit a list."""
    if side < 2 or side ** len(channels) > MOST_COLORS:
        raise PipelineError(
            f"A grid of {side} steps for {len(channels)} channels is none of 2 and more, up to 100,000."
        )
    axes = np.meshgrid(*[np.linspace(0, 1, side)] * len(channels), indexing="ij")
    values = np.stack(axes, axis=-1).reshape(-1, len(channels))
    return ColorList(tuple(str(at) for at in range(1, len(values) + 1)), channels, values)
