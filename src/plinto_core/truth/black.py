"""The darkest neutral that a search without any cleverness finds, to hold the inverse's own against."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.separation.inverse import Inverse

Array = NDArray[np.float64]

#: C* up to which a dark color counts as neutral here.
_NEUTRAL = 0.6
_ROUNDS = 12


def darkest_found(inverse: Inverse, count: int = 100_000, seed: int = 3) -> float:
    """L* of the darkest neutral among random inks within the limits, gathered around the best a dozen times."""
    random = np.random.default_rng(seed)
    inks = _within(inverse, random.random((count, len(inverse.model.inks))) * inverse.caps)
    for turn in range(_ROUNDS):
        lab = inverse.model.lab(inks)
        cost = lab[:, 0] + 3 * np.maximum(np.hypot(lab[:, 1], lab[:, 2]) - _NEUTRAL, 0)
        best = inks[np.argsort(cost)[:200]]
        spread = 0.06 * 0.7**turn
        around = np.repeat(best, 40, axis=0) + random.normal(0, spread, (8000, inks.shape[1]))
        inks = np.vstack([best, _within(inverse, np.clip(around, 0, inverse.caps))])
    lab = inverse.model.lab(inks)
    neutral = np.hypot(lab[:, 1], lab[:, 2]) <= _NEUTRAL
    return float(lab[neutral, 0].min()) if neutral.any() else 100.0


def _within(inverse: Inverse, inks: Array) -> Array:
    return np.asarray(inks * np.minimum(1, inverse.total / np.maximum(inks.sum(axis=1, keepdims=True), 1e-9)))
