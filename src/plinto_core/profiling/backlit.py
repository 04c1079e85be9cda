"""Prints that light shines through: from readings on a light table to the color on the panel they will hang on."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.spatial import ConvexHull

from plinto_core.colorimetry.lab import D50_XYZ, xyz_to_lab
from plinto_core.colorimetry.spectra import light_white, to_d50, weighted
from plinto_core.errors import CharacterizationError
from plinto_core.measurement.measurements import Measurements

Array = NDArray[np.float64]


_SURFACE, _DIFFUSER = 0.04, 0.75


@dataclass(frozen=True)
class Viewing:
    """Light of the panel (36,) by wavelength, in any unit; `ambient_share` is the room's light on the print's front
    against the panel's, `ambient` (36,) its spectrum."""

    panel: Array
    ambient_share: float = 0.0
    ambient: Array | None = None


def transmittance(chart: ArrayLike, table_on: ArrayLike, table_off: ArrayLike) -> Array:
    """Transmittance (patches, 36) of patches lying on a light table, readings less what the room alone gave.

    Raises `CharacterizationError` where the table gave no light.
    """
    on, off = np.asarray(table_on, np.float64), np.asarray(table_off, np.float64)
    light = on - off
    if (light <= 0.01 * on.max()).any():
        dark = int((light <= 0.01 * on.max()).argmax()) * 10 + 380
        raise CharacterizationError(
            f"The light table gives hardly more light on than off at {dark} nm. Measure it off and on again."
        )
    return np.clip((np.asarray(chart, np.float64) - off) / light, 0, 1)


def seen(transmitted: ArrayLike, viewing: Viewing) -> Array:
    """XYZ (patches, 3), D50, of patches on the panel; the panel's own light through nothing has Y = 1.

    Light from the room crosses the print twice and comes back from the panel's white diffuser (three quarters of it);
    a twenty-fifth comes back from the film's surface without crossing it.
    """
    t = np.asarray(transmitted, np.float64)
    white = light_white(viewing.panel)
    xyz = weighted(t, viewing.panel)
    if viewing.ambient_share > 0:
        room = viewing.panel if viewing.ambient is None else viewing.ambient
        xyz = xyz + viewing.ambient_share * weighted(_SURFACE + _DIFFUSER * t * t, room)
    return to_d50(xyz, white)


def on_panel(data: Measurements, table_on: ArrayLike, table_off: ArrayLike, viewing: Viewing) -> Measurements:
    """Characterization data of a chart read on a light table, as it looks on a panel. Needs spectra."""
    if data.spectra is None:
        raise CharacterizationError(
            f"'{data.title}' has no spectra: what shines through can only be moved to another light from spectra."
        )
    return Measurements(data.inks, data.device, seen(transmittance(data.spectra, table_on, table_off), viewing),
                        None, data.title, data.provenance)  # fmt: skip


def patch_volume(xyz: Array) -> float:
    """Volume in cubic ΔE*ab of the hull of patches (n, 3), relative to the lightest: what a light leaves of a gamut."""
    white = xyz[xyz[:, 1].argmax()]
    return float(ConvexHull(xyz_to_lab(xyz * D50_XYZ / white)).volume)
