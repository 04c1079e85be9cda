"""Simulated light tables and the panels that prints hang on: lights as spectra, with what leaks in from the room."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.spectra import WAVELENGTHS_NM

Array = NDArray[np.float64]

#: What the room puts on the head of the instrument, as a share of the table's light.
_STRAY = 0.012


def _led(blue_nm: float, blue: float, phosphor_nm: float, width_nm: float) -> Array:
    """A white LED: a blue peak and a broad phosphor."""
    peak = blue * np.exp(-(((WAVELENGTHS_NM - blue_nm) / 14) ** 2))
    glow = np.exp(-(((WAVELENGTHS_NM - phosphor_nm) / width_nm) ** 2))
    return np.asarray((peak + glow + 0.01) / (peak + glow + 0.01).max())


#: The panels of the shop; the number is the color temperature they are sold by.
PANELS: dict[str, Array] = {
    "Panel 3000": _led(455, 0.32, 605, 88),
    "Panel 5600": _led(452, 0.95, 560, 86),
    "Panel 9000": _led(450, 2.1, 545, 78),
    "Exposure lamp": _led(420, 0.9, 545, 120),
}


@dataclass(frozen=True)
class LightTable:
    """A table that reads like `reading`; what is read is to hang on `panel`, with a share of room light on it."""

    panel: str
    ambient_share: float

    def on(self) -> Array:
        """Reading (36,) of the bare table, switched on."""
        return np.asarray(0.94 * _led(453, 0.8, 560, 95) + _STRAY)

    def off(self) -> Array:
        """Reading (36,) of the bare table, switched off."""
        return np.full(36, _STRAY)

    def reading(self, transmitted: Array) -> Array:
        """Readings (..., 36) of films of this transmittance lying on the table."""
        return np.asarray(self.off() + transmitted * (self.on() - self.off()))
