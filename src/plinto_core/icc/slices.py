"""Looking into a profile: curves as points, tables cut into planes."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import Array
from plinto_core.errors import IccError
from plinto_core.icc.curves import along
from plinto_core.icc.profile import Profile
from plinto_core.icc.values import AnyCurve, Curve, CurveLut, ParametricCurve, TableLut, TagValue

_POINTS = 65
AXIS = np.linspace(0, 1, _POINTS)


def curve_points(curve: AnyCurve) -> Array:
    """Output (65,) of a curve at even inputs 0…1."""
    return along(curve, AXIS)


def curves_of(value: TagValue) -> dict[str, list[Array]]:
    """The curves in a tag by what they are for, each (65,); empty where it has none."""
    match value:
        case Curve() | ParametricCurve():
            return {"curve": [curve_points(value)]}
        case TableLut():
            return {"in": [_samples(row) for row in value.inputs], "out": [_samples(row) for row in value.outputs]}
        case CurveLut():
            found = {"A": value.a_curves, "M": value.m_curves, "B": value.b_curves}
            return {name: [curve_points(c) for c in curves] for name, curves in found.items() if curves}
        case _:
            return {}


def _samples(row: Array) -> Array:
    return np.asarray(np.interp(AXIS, np.linspace(0, 1, len(row)), row))


def has_table(value: TagValue) -> bool:
    """Whether a tag holds a grid that can be cut."""
    return isinstance(value, TableLut) or (isinstance(value, CurveLut) and value.grid is not None)


def lut_plane(profile: Profile, tag: str, level: float) -> NDArray[np.uint8]:
    """A plane of a table as gray planes side by side, one for each output: (points, points × outputs), black is full.

    From Lab the plane lies at lightness `level` 0…1, a* across and b* up; towards Lab the first two inks run across
    and up while all others stand at `level`. Raises `IccError` for tags without a table.
    """
    value = profile.tags.get(tag)
    if value is None or not has_table(value):
        raise IccError(f"'{profile.name}' has no table in '{tag}'; cut one of {', '.join(tables_of(profile))}")
    assert isinstance(value, TableLut | CurveLut)
    assert value.grid is not None
    grid: Any = value.grid
    dimensions = grid.ndim - 1
    keep_first = tag.startswith("A2B")
    curves = curves_of(value)
    before = curves.get("A" if keep_first else "B") or curves.get("in") or [AXIS]
    # Nodes need not be spread evenly: the curve before the table says where the level lies.
    at = round(float(np.interp(np.clip(level, 0, 1), AXIS, before[0])) * (grid.shape[0] - 1))
    if dimensions >= 3:
        fixed = (at,) * (dimensions - 2)
        plane = grid[(slice(None), slice(None), *fixed)] if keep_first else grid[(*fixed, slice(None), slice(None))]
    else:
        plane = grid.reshape(grid.shape[0], -1, grid.shape[-1])
    plane = np.swapaxes(plane, 0, 1)[::-1]
    shown = 1 - plane if tag.startswith("B2A") else plane
    return np.asarray(np.rint(np.concatenate(np.moveaxis(shown, -1, 0), axis=1) * 255), np.uint8)


def tables_of(profile: Profile) -> tuple[str, ...]:
    """Tags that hold a table."""
    return tuple(tag for tag, value in profile.tags.items() if has_table(value))
