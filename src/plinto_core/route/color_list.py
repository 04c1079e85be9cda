"""Lists of colors: device values of any space, or Lab, with names; from CGATS, tables with a header, and typed lines."""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError, PipelineError
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.inks.names import letters_of
from plinto_core.measurement.cgats import numbers, read_chart, read_table

Array = NDArray[np.float64]

MOST_COLORS = 100_000
_LAB, _XYZ = ["LAB_L", "LAB_A", "LAB_B"], ["XYZ_X", "XYZ_Y", "XYZ_Z"]
#: Fields that name a color, the first that is there.
_NAMED = ("SAMPLE_NAME", "NAME", "SAMPLEID", "SAMPLE_ID", "ID")
_HEX = re.compile(r"^(.*?)[\s,;]*#([0-9a-fA-F]{6})$")
_TYPED = re.compile(r"^(.*?)[\s,;]*(-?\d+(?:\.\d+)?)[\s,;]+(-?\d+(?:\.\d+)?)[\s,;]+(-?\d+(?:\.\d+)?)$")


@dataclass(frozen=True)
class ColorList:
    """Colors in one space: `channels` are ('L*', 'a*', 'b*'), ('R', 'G', 'B'), or the letters of inks.

    `values` (n, channels): Lab in its units (ICC-absolute where it was measured), everything else 0…1.
    """

    names: tuple[str, ...]
    channels: tuple[str, ...]
    values: Array

    def __post_init__(self) -> None:
        if not 1 <= len(self.values) <= MOST_COLORS:
            raise PipelineError(f"The list has {len(self.values):,} colors; 1 to {MOST_COLORS:,} are meant.")

    @property
    def is_lab(self) -> bool:
        """Whether the colors stand for themselves, with no device."""
        return self.channels == ("L*", "a*", "b*")


def read_list(data: bytes, name: str) -> ColorList:
    """A list of a file: device values where it has any, else Lab or XYZ; or lines of 'name L a b' and 'name #rrggbb'.

    Raises `CharacterizationError`, `PipelineError`.
    """
    text = data.decode("utf-8", errors="replace")
    if "BEGIN_DATA" not in text.upper() and (typed := typed_list(text)) is not None:
        return typed
    table = read_table(data, name, least=3)
    field = next((each for each in _NAMED if each in table.fields), None)
    place = table.fields.index(field) if field else -1
    names = tuple(row[place] if field else str(at) for at, row in enumerate(table.rows, 1))
    try:
        values, inks = read_chart(data, name)
    except CharacterizationError:
        # No device values, or none that can be read: colors alone will do.
        if set(_LAB) <= set(table.fields):
            return ColorList(names, ("L*", "a*", "b*"), numbers(table, _LAB, name))
        if set(_XYZ) <= set(table.fields):
            return ColorList(names, ("L*", "a*", "b*"), xyz_to_lab(numbers(table, _XYZ, name) / 100))
        raise
    letters = letters_of(inks)
    if driven_by_rgb(letters):
        return ColorList(names, ("R", "G", "B"), turned(values))
    return ColorList(names, letters, values)


def typed_list(text: str) -> ColorList | None:
    """Colors of typed lines, all Lab or all RGB of 0 to 255 by '#rrggbb'; None where a line is neither."""
    names: list[str] = []
    lab: list[list[float]] = []
    rgb: list[list[float]] = []
    for number, line in enumerate(filter(None, (each.strip() for each in text.splitlines())), 1):
        if (found := _HEX.match(line)) is not None:
            rgb.append([int(found[2][at : at + 2], 16) / 255 for at in (0, 2, 4)])
        elif (found := _TYPED.match(line)) is not None:
            lab.append([float(found[at]) for at in (2, 3, 4)])
        else:
            return None
        names.append(found[1].strip() or str(number))
    if not names or (lab and rgb):
        return None
    channels = ("L*", "a*", "b*") if lab else ("R", "G", "B")
    return ColorList(tuple(names), channels, np.array(lab or rgb))


def grid_of(channels: tuple[str, ...], side: int) -> ColorList:
    """Every combination of `side` steps a channel, 0…1. Raises `PipelineError` for more than fit a list."""
    if side < 2 or side ** len(channels) > MOST_COLORS:
        raise PipelineError(
            f"A grid of {side} steps for {len(channels)} channels is none of 2 and more, up to 100,000."
        )
    axes = np.meshgrid(*[np.linspace(0, 1, side)] * len(channels), indexing="ij")
    values = np.stack(axes, axis=-1).reshape(-1, len(channels))
    return ColorList(tuple(str(at) for at in range(1, len(values) + 1)), channels, values)
