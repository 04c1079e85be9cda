"""A simulated press: a Yule-Nielsen-corrected spectral Neugebauer print, with dot gain, mesh and trapping."""

from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.spectra import reflectance_to_xyz
from plinto_demo.inks import Ink, Stock

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Press:
    """What makes a print: inks in their order, stock, and how dots grow and lie on each other.

    `dot_gain` is the gain at the 50 % dot (fraction) for each ink; `trapping` the share of a film that sticks
    on wet ink; `yule_nielsen` the n of the light spread; `mesh_threads_cm` > 0 loses the finest dots;
    dots below `smallest_dot` (flexo) print as heavy as that one, as far as they hold at all.
    """

    inks: tuple[Ink, ...]
    stock: Stock
    thickness: tuple[float, ...]
    dot_gain: tuple[float, ...]
    trapping: float
    yule_nielsen: float
    mesh_threads_cm: float = 0.0
    smallest_dot: float = 0.0

    def dots_printed(self, dots: Array) -> Array:
        """Dot areas as they come to lie on the stock, from dot areas asked for, both (..., inks) 0…1."""
        gain = 4 * np.asarray(self.dot_gain) * dots * (1 - dots)
        # Gain sits a little to the dark side on a mesh and peaks at the half otherwise.
        skew = 1 + (0.35 if self.mesh_threads_cm else 0.0) * (dots - 0.5)
        grown = np.clip(dots + gain * skew, 0, 1)
        if self.mesh_threads_cm:
            # Dots near the size of a mesh opening do not print fully; the loss fades out at about 6 %.
            smallest = 1.1 / self.mesh_threads_cm
            grown = grown * (1 - np.exp(-dots / smallest))
        if self.smallest_dot:
            # A dot that small bends over on the plate and prints a blob, or is torn off: half of them hold.
            least = 0.5 * (1 + dots / self.smallest_dot) * self.smallest_dot * 2.2
            grown = np.where((dots > 0) & (dots < self.smallest_dot), np.maximum(grown, least), grown)
        return np.asarray(grown)

    def primaries(self) -> Array:
        """Reflectance (2**inks, 36) of every overprint of solids, the first ink varying slowest."""
        spectra = []
        for lies in product((0, 1), repeat=len(self.inks)):
            light = self.stock.reflectance()
            layers = 0
            for present, ink, thickness in zip(lies, self.inks, self.thickness, strict=True):
                if present:
                    light = light * ink.transmittance(thickness * self.trapping**layers)
                    layers += 1
            spectra.append(self.stock.surface + (1 - self.stock.surface) * light)
        return np.array(spectra)

    def reflectance(self, dots: Array) -> Array:
        """Spectra (patches, 36) of `dots` (patches, inks) 0…1 (Yule and Nielsen 1951; Viggiano 1990)."""
        area = self.dots_printed(np.asarray(dots, np.float64))
        weights = np.ones((*area.shape[:-1], 1))
        for ink in range(area.shape[-1]):
            a = area[..., ink, None, None]
            weights = (weights[..., None] * np.concatenate([1 - a, a], axis=-1)).reshape(*area.shape[:-1], -1)
        n = self.yule_nielsen
        return np.asarray((weights @ self.primaries() ** (1 / n)) ** n)


@dataclass(frozen=True)
class Instrument:
    """A simulated spectrophotometer: seeded noise in proportion to the signal, plus a dark floor."""

    seed: int
    relative_noise: float = 0.0015
    floor: float = 0.00015

    def measure(self, reflectance: Array) -> tuple[Array, Array]:
        """Spectra and XYZ (D50, 2°, perfect diffuser Y = 1) as measured."""
        random = np.random.default_rng(self.seed)
        # An instrument errs by the patch (pressure, place) more than by the wavelength.
        by_patch = random.normal(1, self.relative_noise, (*reflectance.shape[:-1], 1))
        measured = reflectance * by_patch + random.normal(0, self.floor, reflectance.shape)
        measured = np.maximum(measured, 0)
        return measured, reflectance_to_xyz(measured)
