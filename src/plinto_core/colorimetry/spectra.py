"""Reflectance spectra to XYZ. The observer's and illuminants' tables come from the `colour` library."""

from functools import cache
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import ArrayLike

from plinto_core.colorimetry.adaptation import bradford
from plinto_core.colorimetry.lab import D50_XYZ, Array
from plinto_core.errors import CharacterizationError

#: Wavelengths at which Plinto keeps spectra: 380 to 730 nm in steps of 10 nm, as hand-held instruments report.
WAVELENGTHS_NM: Array = np.arange(380, 731, 10, dtype=np.float64)


#: Illuminants by name whose tables are at hand.
Illuminant = Literal["D50", "D55", "D65", "A", "F2", "F11"]
ILLUMINANTS: tuple[Illuminant, ...] = get_args(Illuminant)


@cache
def _observer() -> Array:
    """(36, 3) of the 2° observer."""
    colour = _colour()
    shape = colour.SpectralShape(380, 730, 10)
    return np.asarray(colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape).values)


@cache
def illuminant_power(illuminant: str) -> Array:
    """Relative power (36,) of a standard illuminant by its name."""
    colour = _colour()
    shape = colour.SpectralShape(380, 730, 10)
    name = {"F2": "FL2", "F11": "FL11"}.get(illuminant, illuminant)
    return np.asarray(colour.SDS_ILLUMINANTS[name].copy().align(shape).values)


def _colour() -> Any:
    # The import costs a second; only who measures pays for it.
    import warnings

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    return colour


def _weights(power: Array) -> Array:
    """(36, 3) weights that sum spectra under a light to XYZ; Y of the perfect diffuser is 1 (CIE 15:2018, 7.1)."""
    weights = _observer() * power[:, None]
    return np.asarray(weights / weights[:, 1].sum())


def weighted(spectra: ArrayLike, power: ArrayLike) -> Array:
    """Reflectance or transmittance (..., 36) under a light of relative power (36,) to XYZ, perfect diffuser Y = 1."""
    return np.asarray(np.asarray(spectra, np.float64) @ _weights(np.asarray(power, np.float64)))


def light_white(power: ArrayLike) -> Array:
    """XYZ (3,) of a light of relative power (36,), Y = 1."""
    return weighted(np.ones(36), power)


def to_d50(xyz: ArrayLike, white_xyz: ArrayLike) -> Array:
    """XYZ (..., 3) seen under a white, as they look under D50 (ICC.1:2022, Annex E)."""
    return np.asarray(np.asarray(xyz, np.float64) @ bradford(white_xyz, D50_XYZ).T)


def at_ten_nm(wavelengths_nm: ArrayLike, reflectance: ArrayLike) -> Array:
    """Reflectance (..., n) at rising wavelengths (n,), whatever their step, at `WAVELENGTHS_NM` (..., 36).

    Beyond the ends it is as at the ends.

    Steps wider than 10 nm go along a cubic spline, one of the ways that CIE 15 names: straight lines between 20 nm are ΔE00
    0.2 off on the mean, and the spline 0.05.

    >>> bool(np.allclose(at_ten_nm(np.arange(400, 701, 20), np.full(16, 0.5)), 0.5))
    True
    """
    nm, values = np.asarray(wavelengths_nm, np.float64), np.asarray(reflectance, np.float64)
    if np.diff(nm).max() <= 10:
        flat = values.reshape(-1, len(nm))
        return np.stack([np.interp(WAVELENGTHS_NM, nm, row) for row in flat]).reshape(*values.shape[:-1], 36)
    # Here, for it takes a moment that no other command should wait for.
    from scipy.interpolate import CubicSpline

    return np.asarray(np.maximum(CubicSpline(nm, values, axis=-1)(np.clip(WAVELENGTHS_NM, nm[0], nm[-1])), 0.0))


def light_from_text(text: str, name: str, *, normalized: bool = True) -> Array:
    """Power (36,) from lines of 'nm value', in steps of at most 20 nm from 400 to 700 at least; the largest is 1 if
    `normalized`, else values stay as read.

    Raises `CharacterizationError`.
    """
    pairs = []
    for line in text.splitlines():
        words = line.replace(";", " ").replace("\t", " ").split("#", 1)[0].split()
        if len(words) == 1:
            words = words[0].split(",")
        try:
            nm, value = (float(word.rstrip(",").replace(",", ".")) for word in words[:2])
        except ValueError:
            continue
        if 300 <= nm <= 830:
            pairs.append((nm, value))
    pairs.sort()
    nm_values = np.array(pairs).reshape(-1, 2)
    if len(pairs) < 16 or nm_values[0, 0] > 400 or nm_values[-1, 0] < 700 or np.diff(nm_values[:, 0]).max() > 20:
        raise CharacterizationError(
            f"'{name}' is no light: a wavelength and its power on each line is meant, 400 to 700 nm, 20 nm apart at most."
        )
    power = np.interp(WAVELENGTHS_NM, nm_values[:, 0], nm_values[:, 1])
    if power.min() < 0 or power.max() <= 0:
        raise CharacterizationError(f"'{name}' has negative or no power; measure the light again.")
    return np.asarray(power / power.max() if normalized else power)


def reflectance_to_xyz(reflectance: ArrayLike, illuminant: str = "D50") -> Array:
    """Reflectance (..., 36) at `WAVELENGTHS_NM` to XYZ (..., 3), 2° observer, perfect diffuser Y = 1."""
    return weighted(reflectance, illuminant_power(illuminant))
