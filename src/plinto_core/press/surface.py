"""The smooth surface through measured patches: a cubic radial function of each, and polynomials (Wahba 1990, 2.4)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial.distance import cdist

Array = NDArray[np.float64]


def powers(values: Array, degree: int) -> Array:
    """Polynomials (n, m) of values (n, inks) up to degree 1 or 2."""
    n, inks = values.shape
    squares = [values[:, i] * values[:, j] for i in range(inks) for j in range(i, inks)] if degree == 2 else []
    return np.stack([np.ones(n), *values.T, *squares], axis=1)


@dataclass(frozen=True)
class Surface:
    """Colors over ink space: `weights` (n, 3) of the cubes of distances to `centers` (n, inks), and `tail` (m, 3)."""

    centers: Array
    weights: Array
    tail: Array
    degree: int

    def at(self, values: Array) -> Array:
        """Colors (k, 3) at values (k, inks)."""
        from plinto_core.press.surface_kernels import add_cubes

        values = np.ascontiguousarray(values)
        found = powers(values, self.degree) @ self.tail
        add_cubes(values, np.ascontiguousarray(self.centers.T), np.ascontiguousarray(self.weights.T), found)
        return np.asarray(found)


def surface_through(device: Array, lab: Array, smoothing: float) -> Surface:
    """The surface near patches (n, inks) of colors (n, 3): `smoothing`, times n, is what bending costs.

    Raises `numpy.linalg.LinAlgError` where patches do not tell what every ink does.
    """
    n, inks = device.shape
    degree = 2 if n > 3 * inks**2 else 1
    tail = powers(device, degree)
    system, right = np.zeros((n + tail.shape[1],) * 2), np.zeros((n + tail.shape[1], 3))
    system[:n, :n] = cdist(device, device) ** 3
    system[np.arange(n), np.arange(n)] += smoothing * n
    system[:n, n:], system[n:, :n], right[:n] = tail, tail.T, lab
    found = np.linalg.solve(system, right)
    return Surface(device, found[:n], found[n:], degree)
