"""Tone tables of contact negatives: drawn, from a measured step wedge, as .cube files."""

import re

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.adjust.curves import apply_curve
from plinto_core.errors import CharacterizationError, ToneTableError
from plinto_core.measurement.tables import numbers, read_table
from plinto_core.recipe.curve import MOST_POINTS, ToneCurve
from plinto_core.recipe.film import ToneTable

Array = NDArray[np.float64]

_TABLE_ENTRIES = 256
WEDGE_STEPS = 21


def table_from_wedge(lightness: ArrayLike) -> ToneTable:
    """The table that makes a print's lightness follow the artwork's, from a wedge printed without a table.

    `lightness` are the measured L* of even steps (usually 21), black first: step i was sent as i / (n - 1). Between
    its own black and paper the print is to be even in L*. Raises `ToneTableError` for ragged or flat wedges.
    """
    measured = np.asarray(lightness, np.float64)
    if measured.ndim != 1 or not 5 <= len(measured) <= 101:
        raise ToneTableError(f"A wedge has 5 to 101 steps, usually {WEDGE_STEPS}; this one has {measured.size}.")
    if not np.isfinite(measured).all() or measured.min() < 0 or measured.max() > 100:
        raise ToneTableError("Every step of the wedge is an L* from 0 to 100.")
    if measured[0] > measured[-1]:
        measured = measured[::-1]
    span = measured[-1] - measured[0]
    if span < 10:
        raise ToneTableError(
            f"The wedge only spans {span:.1f} L*; measure it again, or expose the print for longer first."
        )
    back = np.minimum(np.diff(measured), 0)
    if back.min() < -0.04 * span:
        step = int(back.argmin()) + 1
        raise ToneTableError(
            f"Step {step + 1} of the wedge is darker than step {step} by {-back.min():.1f} L*: measure it again."
        )
    relative = np.maximum.accumulate((measured - measured[0]) / span) + np.linspace(0, 1e-6, len(measured))
    relative /= relative[-1]
    sent = np.linspace(0, 1, len(measured))
    # The wedge says what is printed for what is sent; the table is that, turned round.
    wanted = np.linspace(0, 1, min(len(measured), MOST_POINTS))
    points = [
        (round(float(x), 4), round(float(y), 4))
        for x, y in zip(wanted, np.interp(wanted, relative, sent), strict=True)
    ]
    return ToneTable(ToneCurve(tuple(points)))


def parse_wedge(text: str) -> list[float]:
    """L* of a wedge's steps from CGATS text (LAB_L) or from plain numbers. Raises `ToneTableError`."""
    if "BEGIN_DATA_FORMAT" in text:
        try:
            table = read_table(text.encode("utf-8", "replace"), "the wedge")
            if "LAB_L" not in table.fields:
                raise ToneTableError("The wedge's data has no LAB_L. Export it with Lab values.")
            return [float(value) for value in numbers(table, ["LAB_L"], "the wedge")[:, 0]]
        except CharacterizationError as error:
            raise ToneTableError(str(error)) from error
    words = re.split(r"[\s;]+", text.strip())
    try:
        return [float(word.replace(",", ".")) for word in words if word]
    except ValueError as error:
        raise ToneTableError(f"The wedge cannot be read ({error}). Write one L* a step, black first.") from error


def to_cube(table: ToneTable, title: str) -> str:
    """The table as a one-dimensional .cube text."""
    values = apply_curve(table.curve, np.linspace(0, 1, _TABLE_ENTRIES))
    safe = re.sub(r'[\r\n"]', " ", title)[:120]
    rows = "\n".join(f"{v:.6f} {v:.6f} {v:.6f}" for v in values)
    return f'TITLE "{safe}"\nLUT_1D_SIZE {_TABLE_ENTRIES}\nDOMAIN_MIN 0.0 0.0 0.0\nDOMAIN_MAX 1.0 1.0 1.0\n{rows}\n'


def from_cube(text: str) -> ToneTable:
    """A one-dimensional .cube text as a table of up to 32 points. Raises `ToneTableError` naming the line."""
    size, rows = 0, []
    for number, raw in enumerate(text.splitlines(), 1):
        line = raw.split("#", 1)[0].strip()
        if not line or line.startswith(("TITLE", "DOMAIN_MIN", "DOMAIN_MAX", "LUT_1D_INPUT_RANGE")):
            continue
        if line.startswith("LUT_3D_SIZE"):
            raise ToneTableError("This .cube is three-dimensional; a tone table is one-dimensional (LUT_1D_SIZE).")
        try:
            if line.startswith("LUT_1D_SIZE"):
                size = int(line.split()[1])
            else:
                rows.append([float(word) for word in line.split()])
        except (ValueError, IndexError) as error:
            raise ToneTableError(f"Line {number} of the .cube cannot be read: '{raw[:60]}'.") from error
    if not 2 <= size <= 65536 or len(rows) != size or any(len(row) != 3 for row in rows):
        raise ToneTableError(f"The .cube promises {size} rows of three numbers and has {len(rows)}. Export it again.")
    values = np.array(rows).mean(axis=1)
    if not np.isfinite(values).all() or values.min() < -1e-6 or values.max() > 1 + 1e-6:
        raise ToneTableError("The .cube leaves the range 0 to 1, which no film can follow.")
    wanted = np.linspace(0, 1, min(size, MOST_POINTS))
    made = np.clip(np.interp(wanted, np.linspace(0, 1, size), values), 0, 1)
    return ToneTable(ToneCurve(tuple((float(x), float(y)) for x, y in zip(wanted, made, strict=True))))
