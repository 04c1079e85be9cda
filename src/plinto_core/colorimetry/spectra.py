"""Reflectance spectra to XYZ. The observer's and illuminants' tables come from the `colour` library."""

from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from plinto_core.colorimetry.lab import Array

#: Wavelengths at which Plinto keeps spectra: 380 to 730 nm in steps of 10 nm, as hand-held instruments report.
WAVELENGTHS_NM: Array = np.arange(380, 731, 10, dtype=np.float64)


@cache
def _weights(illuminant: str) -> Array:
    """(36, 3) weights that sum reflectance to XYZ; Y of the perfect diffuser is 1 (CIE 15:2018, 7.1)."""
    # The import costs a second; only who measures pays for it.
    import warnings

    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour

    shape = colour.SpectralShape(380, 730, 10)
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape).values
    power = colour.SDS_ILLUMINANTS[illuminant].copy().align(shape).values
    weights = observer * power[:, None]
    return np.asarray(weights / weights[:, 1].sum())


def reflectance_to_xyz(reflectance: ArrayLike, illuminant: str = "D50") -> Array:
    """Reflectance (..., 36) at `WAVELENGTHS_NM` to XYZ (..., 3), 2° observer, perfect diffuser Y = 1."""
    return np.asarray(np.asarray(reflectance, np.float64) @ _weights(illuminant))


def illuminant_xyz(illuminant: str = "D50") -> Array:
    """XYZ (3,) of the perfect diffuser under `illuminant`, from the same weights as the spectra."""
    return np.asarray(_weights(illuminant).sum(axis=0))
