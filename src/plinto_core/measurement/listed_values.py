"""Device values of a list of colors. Nothing is concluded from which values happen to occur in it: a list of dark colors is
no chart in percent, and one in which nothing is black still has four inks."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import letters_of
from plinto_core.measurement.cgats import ink_names
from plinto_core.measurement.spelled_fields import GRAY_FIELD
from plinto_core.measurement.tables import DEVICE_FIELD, UNIT, Table, numbers

Array = NDArray[np.float64]

#: What values may run to: fractions, the fields' own scale, and that of finer or coarser codes.
_RGB_SCALES, _INK_SCALES = (1.0, 255.0, 65535.0), (1.0, 100.0, 255.0)


def listed_values(table: Table, name: str) -> tuple[Array, tuple[str, ...]]:
    """Device values (n, channels) 0…1 of a table, and their channels: 'gray', 'R', 'G', 'B', or the letters of inks.

    R, G and B run to 255 and inks to 100 %, as CGATS.17 has them, unless none exceeds 1 (and the
    table does not say percent) or one exceeds that.
    Raises `CharacterizationError` where there are none or they are out of range.
    """
    if GRAY_FIELD in table.fields:
        return _scaled(numbers(table, [GRAY_FIELD], name), _INK_SCALES, name), ("gray",)
    found = [(field, match) for field in table.fields if (match := DEVICE_FIELD.match(field))]
    if {match[1].upper() for _, match in found} == {"RGB"}:
        wanted = ["RGB_R", "RGB_G", "RGB_B"]
        if sorted(field for field, _ in found) != sorted(wanted):
            raise CharacterizationError(f"'{name}' has RGB fields, but not RGB_R, RGB_G and RGB_B, each once.")
        return _scaled(numbers(table, wanted, name), _RGB_SCALES, name), ("R", "G", "B")
    inks = {match[2].upper(): field for field, match in found if match[1].upper() != "RGB"}
    if not 1 <= len(inks) <= 8:
        raise CharacterizationError(f"'{name}' has {len(inks)} inks; a list of device values has 1 to 8.")
    process = {match[1].upper() for _, match in found} & {"CMYK", "CMY"}
    letters = sorted(inks, key="CMYK".find) if process and set(inks) <= set("CMYK") else list(inks)
    scales = _INK_SCALES[1:] if table.keywords.get(UNIT) == "%" else _INK_SCALES
    values = _scaled(numbers(table, [inks[letter] for letter in letters], name), scales, name)
    names = ink_names(table, tuple(letters))
    # Up to four inks that are only numbered may be any: see `pipeline.space.told_inks`.
    numbered = len(names) <= 4 and all(each.isdigit() for each in names)
    return values, names if numbered else letters_of(names)


def _scaled(values: Array, scales: tuple[float, ...], name: str) -> Array:
    top = float(values.max())
    scale = next((each for each in scales if top <= each * 1.002), 0.0)
    if not scale or values.min() < -0.005 * scale:
        meant = min(each for each in scales if each > 1)
        raise CharacterizationError(
            f"'{name}' has device values from {values.min():g} to {top:g}; 0 to {meant:g} is meant."
        )
    return np.clip(values / scale, 0, 1)
