"""Overprints that nobody measured: inks as clear films with smooth spectra that have the colors of their solids.

A product of XYZ is too dark and too dull, for light is absorbed wavelength by wavelength; and the color of a solid leaves
its spectrum open. The smoothest spectrum between 0 and 1 of that color stands in for it (Burns, 'Numerical methods for
smoothest reflectance reconstruction', Color Research & Application 45, 2020: least slope of the tangent's argument).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.optimize import least_squares

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, reflectance_to_xyz

Array = NDArray[np.float64]

_LEAST = 1e-4
_ROUNDS = 60
#: How much of a film sticks on a film below, and the share of the lightest possible surface reflection, where nobody knows.
_USUAL_TRAPPING, _USUAL_SURFACE = 0.92, 0.6
_MOST_SURFACE = 0.95


def smoothest_spectrum(xyz: ArrayLike) -> Array:
    """Reflectance (36,) of 380 to 730 nm between 0 and 1 that has this XYZ (D50, 2°, white 1), as smooth as can be.

    For colors that no reflectance has, the nearest that is found.
    """
    wanted = np.clip(np.asarray(xyz, np.float64), _LEAST, None)
    count = len(WAVELENGTHS_NM)
    weights = reflectance_to_xyz(np.eye(count))
    slope = np.diff(np.eye(count), axis=0)
    smooth = slope.T @ slope
    z = np.full(count, np.arctanh(np.clip(2 * wanted[1] - 1, -0.98, 0.98)))
    pull = np.zeros(3)
    for _ in range(_ROUNDS):
        tanh = np.tanh(z)
        rises = (1 - tanh**2) / 2
        bends = -2 * tanh * rises
        off = weights.T @ ((tanh + 1) / 2) - wanted
        gradient = np.concatenate([smooth @ z + rises * (weights @ pull), off])
        matrix = np.block([
            [smooth + np.diag(bends * (weights @ pull)), rises[:, None] * weights],
            [(weights * rises[:, None]).T, np.zeros((3, 3))],
        ])  # fmt: skip
        step = np.linalg.lstsq(matrix, -gradient, rcond=None)[0]
        # Newton's steps far from the answer are held back, so that nothing overflows.
        held = min(1.0, 2.0 / max(float(np.abs(step[:count]).max()), 1e-12))
        z, pull = z + held * step[:count], pull + held * step[count:]
        if np.abs(off).max() < 1e-8 and np.abs(step).max() < 1e-6:
            break
    return np.asarray(np.clip((np.tanh(z) + 1) / 2, _LEAST, 1.0))


@dataclass(frozen=True)
class Films:
    """Inks on a paper as clear films: reflectance (36,) of paper and solids, the share of each further film that sticks
    (`trapping`), and of the light that the surface sends back (`surface`)."""

    paper: Array
    solids: Mapping[str, Array]
    trapping: float
    surface: float

    def xyz(self, sets: Sequence[Sequence[str]]) -> Array:
        """XYZ (n, 3) of inks printed on each other."""
        return np.asarray(reflectance_to_xyz(np.array([self._reflectance(inks) for inks in sets])))

    def _reflectance(self, inks: Sequence[str]) -> Array:
        body = self._inside(self.paper)
        film = np.ones_like(body)
        for ink in inks:
            film = film * self._inside(self.solids[ink]) / body
        # Of which ink lies on which nobody says anything: what sticks is shared by all of them.
        sticks = float(np.mean(self.trapping ** np.arange(len(inks)))) if len(inks) > 1 else 1.0
        return np.asarray(self.surface + (1 - self.surface) * body * film**sticks)

    def _inside(self, reflectance: Array) -> Array:
        return np.clip((reflectance - self.surface) / (1 - self.surface), _LEAST, 1.0)


def films_of(paper: Array, solids: Mapping[str, Array], given: Mapping[frozenset[str], Array]) -> Films:
    """The films of XYZ of paper and solids; trapping and surface are those that explain the given overprints best."""
    reflectance = {ink: smoothest_spectrum(xyz) for ink, xyz in solids.items()}
    stock = smoothest_spectrum(paper)
    most = _MOST_SURFACE * float(min(spectrum.min() for spectrum in [*reflectance.values(), stock]))
    usual = Films(stock, reflectance, _USUAL_TRAPPING, _USUAL_SURFACE * most)
    known = {inks: xyz for inks, xyz in given.items() if len(inks) > 1}
    if not known:
        return usual
    sets = [sorted(inks) for inks in known]
    wanted = xyz_to_lab(np.array(list(known.values())))

    def off(values: Array) -> Array:
        found = Films(stock, reflectance, float(values[0]), float(values[1]))
        # A little pull to the usual: one overprint alone cannot tell both.
        pull = [2 * (values[0] - _USUAL_TRAPPING), 2 * (values[1] - usual.surface) / max(most, _LEAST)]
        return np.concatenate([(xyz_to_lab(found.xyz(sets)) - wanted).ravel(), pull])

    bounds = ([0.4, 0.0], [1.1, max(most, 2 * _LEAST)])
    start = [usual.trapping, min(max(usual.surface, _LEAST), most - 0.1 * most) if most > _LEAST else _LEAST]
    best = least_squares(off, start, bounds=bounds).x
    return Films(stock, reflectance, float(best[0]), float(best[1]))
