"""Made-up inks and stocks as reflectance and transmittance spectra, built from smooth absorption bands."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.spectra import WAVELENGTHS_NM

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Band:
    """A Gaussian absorption band: center and half width in nm, and the optical density at its top."""

    center_nm: float
    width_nm: float
    density: float


@dataclass(frozen=True)
class Ink:
    """A transparent ink by its absorption bands, with a flat density for what it swallows everywhere."""

    name: str
    bands: tuple[Band, ...]
    flat_density: float = 0.02

    def transmittance(self, thickness: float = 1.0) -> Array:
        """Two-way transmittance (36,) of a film `thickness` times the nominal one (Beer-Lambert)."""
        density = np.full(WAVELENGTHS_NM.shape, self.flat_density)
        for band in self.bands:
            density = density + band.density * np.exp(-(((WAVELENGTHS_NM - band.center_nm) / band.width_nm) ** 2))
        return np.asarray(10.0 ** (-density * thickness))


@dataclass(frozen=True)
class Stock:
    """A substrate by its reflectance: a level, a blue cut-off (yellowing) and a share of surface gloss."""

    name: str
    level: float
    yellowing: float
    surface: float

    def reflectance(self) -> Array:
        """Body reflectance (36,)."""
        rise = 1 / (1 + np.exp(-(WAVELENGTHS_NM - 415) / 14))
        slope = 1 - self.yellowing * (730 - WAVELENGTHS_NM) / 350
        return np.asarray(self.level * slope * (0.82 + 0.18 * rise))


CYAN = Ink("Cyan", (Band(640, 78, 1.5), Band(720, 60, 0.9), Band(545, 45, 0.1), Band(405, 45, 0.34)), 0.035)
MAGENTA = Ink("Magenta", (Band(545, 44, 1.6), Band(505, 36, 0.85), Band(435, 60, 0.62)), 0.03)
YELLOW = Ink("Yellow", (Band(430, 42, 1.55), Band(390, 40, 0.95), Band(485, 24, 0.42)), 0.02)
BLACK = Ink("Black", (Band(560, 420, 0.55),), 1.25)
ORANGE = Ink("Orange", (Band(470, 62, 1.5), Band(400, 45, 1.0), Band(535, 28, 0.55)), 0.02)
BLUE = Ink("Blue", (Band(590, 55, 1.5), Band(520, 45, 0.8), Band(660, 50, 0.9)), 0.03)
OPAQUE = Ink("Black", (Band(560, 420, 0.6),), 2.6)


def light(ink: Ink) -> Ink:
    """The same ink thinned to a third."""
    bands = tuple(Band(band.center_nm, band.width_nm, band.density / 3) for band in ink.bands)
    return Ink(f"Light {ink.name.lower()}", bands, ink.flat_density / 3)
