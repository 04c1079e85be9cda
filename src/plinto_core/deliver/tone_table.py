"""Tone tables of contact negatives: drawn, from a measured step wedge, as .cube files."""

import re

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.adjust.curves import apply_curve
from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError, ToneTableError
from plinto_core.measurement.cgats import read_colors_of
from plinto_core.measurement.tables import names_fields, numbers, read_table
from plinto_core.recipe.curve import LEAST_STEP, MOST_POINTS, ToneCurve
from plinto_core.recipe.film import ToneTable

Array = NDArray[np.float64]

_TABLE_ENTRIES = 256
WEDGE_STEPS = 21
#: A curve is as exact as anybody asks: half a code of 10 bits.
_EXACT = 0.5 / 1023
#: Columns of a .cube that differ by no more than a code of 8 bits say the same.
_ALIKE = 1 / 255


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
    # The wedge says what is printed for what is sent; the table is that, turned round, through its steps themselves.
    sent, order = np.linspace(0, 1, len(measured)), 2 * LEAST_STEP * np.arange(len(measured))
    # Steps that print alike are set apart by as little as a curve's points can be.
    wanted = np.maximum.accumulate((measured - measured[0]) / span - order) + order
    return ToneTable(_curve_through(wanted / wanted[-1], sent))


def _curve_through(x: Array, y: Array) -> ToneCurve:
    """The curve through points (n,), `x` rising from 0…1; through the most telling of them where they are too many."""
    chosen = list(range(len(x))) if len(x) <= MOST_POINTS else [0, len(x) - 1]
    while True:
        at = sorted(chosen)
        curve = ToneCurve(tuple((round(float(x[i]), 6), round(float(y[i]), 6)) for i in at))
        missed = np.abs(apply_curve(curve, x) - y)
        if len(chosen) >= min(len(x), MOST_POINTS) or missed.max() < _EXACT:
            return curve
        chosen.append(int(missed.argmax()))


def parse_wedge(text: str) -> list[float]:
    """L* of a wedge's steps from a table (CGATS, or a line that names the fields) with Lab, XYZ or spectra, or from plain
    numbers. Raises `ToneTableError`."""
    if names_fields(text):
        try:
            table = read_table(text.encode("utf-8", "replace"), "the wedge", least=1)
            if "LAB_L" in table.fields:
                return [float(value) for value in numbers(table, ["LAB_L"], "the wedge")[:, 0]]
            return [float(value) for value in xyz_to_lab(read_colors_of(table, "the wedge")[0])[:, 0]]
        except CharacterizationError as error:
            raise ToneTableError(str(error)) from error
    # A comma is a decimal's own, unless a blank follows it or points are there.
    apart = r"[\s;]+|," if "." in text else r"[\s;]+|,\s+"
    words = re.split(apart, text.strip().rstrip(","))
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
    """A one-dimensional .cube text as a table of up to 32 points, within half a code of 10 bits of its rows where so many
    can be. Raises `ToneTableError` naming the line."""
    size, rows, domain = 0, [], {"DOMAIN_MIN": 0.0, "DOMAIN_MAX": 1.0}
    for number, raw in enumerate(text.splitlines(), 1):
        words = raw.split("#", 1)[0].split()
        if not words or words[0].startswith("TITLE"):
            continue
        if words[0] == "LUT_3D_SIZE":
            raise ToneTableError("This .cube is three-dimensional; a tone table is one-dimensional (LUT_1D_SIZE).")
        try:
            if words[0] == "LUT_1D_SIZE":
                size = int(words[1])
            elif words[0] in domain:
                (domain[words[0]],) = {float(word) for word in words[1:]}
            elif words[0] == "LUT_1D_INPUT_RANGE":
                domain["DOMAIN_MIN"], domain["DOMAIN_MAX"] = (float(word) for word in words[1:])
            else:
                rows.append([float(word) for word in words])
        except (ValueError, IndexError) as error:
            raise ToneTableError(f"Line {number} of the .cube cannot be read: '{raw[:60]}'.") from error
    if not 2 <= size <= 65536 or len(rows) != size or any(len(row) != 3 for row in rows):
        raise ToneTableError(f"The .cube promises {size} rows of three numbers and has {len(rows)}. Export it again.")
    return ToneTable(_curve_through(_inputs(size, *domain.values()), _one_column(np.array(rows))))


def _inputs(size: int, first: float, last: float) -> Array:
    if not 0 <= first < last <= 1:
        raise ToneTableError(
            f"The .cube is for values from {first:g} to {last:g}; a film's tones run from 0 to 1. Export it over these."
        )
    return np.linspace(first, last, size)


def _one_column(values: Array) -> Array:
    """What the three columns (n, 3) of a .cube say, which a film can follow where they say the same."""
    if not np.isfinite(values).all() or values.min() < -1e-6 or values.max() > 1 + 1e-6:
        raise ToneTableError("The .cube leaves the range 0 to 1, which no film can follow.")
    if (apart := np.ptp(values, axis=1).max()) > _ALIKE:
        raise ToneTableError(
            f"The three columns of the .cube differ by up to {apart:.3f}; a film has one tone curve. Export a neutral one."
        )
    return np.asarray(np.clip(values.mean(axis=1), 0, 1))
