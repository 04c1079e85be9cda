"""Each patch against the smooth surface through all the others, for any smoothing and with wrong ones taken out: from one
decomposition instead of a fit for each."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import eigh
from scipy.spatial.distance import cdist

from plinto_core.press.surface import powers

Array = NDArray[np.float64]

#: Of the largest singular value, from which a polynomial counts as one of its own.
_OF_ITS_OWN = 1e-10


@dataclass
class LeftOut:
    """What leaving out is told from: the block of the system's inverse that belongs to the patches, of which the
    `diagonal` (n,) and every `column` (n,) are known, and its product with the values, `weights` (n, 3)."""

    values: Array
    weights: Array
    diagonal: Array
    column: Callable[[int], Array]

    def predicted(self) -> Array:
        """What the others say of each patch (n, 3), exactly (Rippa 1999)."""
        return np.asarray(self.values - self.weights / self.diagonal[:, None])

    def without(self, patch: int) -> "LeftOut":
        """The same with one patch taken out for good; its own row means nothing any more."""
        before, spoiled = self.column, self.column(patch)
        share = spoiled / spoiled[patch]
        diagonal = self.diagonal - spoiled * share
        # Nothing divides by the row that has gone.
        diagonal[patch] = 1.0
        return LeftOut(
            self.values, self.weights - share[:, None] * self.weights[patch], diagonal,
            lambda at: before(at) - share * spoiled[at],
        )  # fmt: skip


class Leaving:
    """The patches' kernel, decomposed once: `device` (n, inks) 0…1, `values` (n, 3)."""

    def __init__(self, device: Array, values: Array) -> None:
        self.values = values
        kernel, tail = cdist(device, device) ** 3, powers(device, 2)
        left, singular, _ = np.linalg.svd(tail, full_matrices=False)
        plain = left[:, singular > _OF_ITS_OWN * singular[0]]
        # Without what the polynomials do, which is set far above the rest to be told from it.
        kernel -= plain @ (plain.T @ kernel)
        kernel -= (kernel @ plain) @ plain.T
        far = 10.0 * float(np.abs(kernel).sum(axis=1).max()) + 1.0
        kernel += far * (plain @ plain.T)
        bending, shapes = eigh(kernel, driver="evd", overwrite_a=True, check_finite=False)
        rest = len(values) - plain.shape[1]
        self._bending, self._shapes = np.maximum(bending[:rest], 0.0), shapes[:, :rest]
        self._shares = self._shapes.T @ values

    def at(self, smoothing: float) -> LeftOut:
        """Under a smoothing > 0, times the number of patches."""
        scale = 1 / (self._bending + smoothing * len(self.values))
        return LeftOut(
            self.values,
            self._shapes @ (scale[:, None] * self._shares),
            (self._shapes**2) @ scale,
            lambda at: np.asarray(self._shapes @ (scale * self._shapes[at])),
        )


def leaving_at(device: Array, values: Array, smoothing: float) -> LeftOut:
    """As `Leaving.at` for one smoothing alone, from the inverse of the system: a third of the time."""
    n, tail = len(device), powers(device, 2)
    system = np.zeros((n + tail.shape[1],) * 2)
    system[:n, :n] = cdist(device, device) ** 3
    system[np.arange(n), np.arange(n)] += smoothing * n
    system[:n, n:], system[n:, :n] = tail, tail.T
    inverse = (np.linalg.pinv(system, hermitian=True) if n < 60 else np.linalg.inv(system))[:n, :n]
    return LeftOut(values, inverse @ values, np.diag(inverse).copy(), lambda at: np.asarray(inverse[:, at]))
