"""Inks over a Lab grid made to follow one another, so that what lies between two nodes is between them in print too.

Where several combinations print one color, each node takes the one its own black target leads to, and next to the
surface of the gamut neighbors can come to rest far apart: black 28 % here, 78 % there. Each is right, and halfway
between them is wrong. Where the inks are rough, every node is therefore drawn to the mean of its neighbors, as far as
it prints the color it printed before.
"""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, maximum_filter

from plinto_core.separation.inverse import Inverse

Array = NDArray[np.float64]

_ROUNDS = 3
#: Neighborhood of the mean, in nodes.
_REACH = 2.0
#: How far (0…1 of an ink) from its neighbors' mean a node may lie and be left alone, and from where it is drawn fully.
_NO_PULL_BELOW, _FULL_PULL_FROM = 0.03, 0.08
#: Chroma by which the hold of the black policy, which is full on the neutrals, has let go.
_FREE_FROM_C = 12.0
#: Of a squared distance to the mean against a squared ΔE: colors move by a few thousandths of a ΔE.
_WEIGHT = 1.0


def smooth_ink_lut(inverse: Inverse, lab: Array, inks: Array) -> Array:
    """Inks (L, a, b, inks) 0…1 that print what the given `inks` print, each like its neighbors.

    `lab` (L, a, b, 3) is what the nodes of the grid stand for. Neutrals, and parts that are smooth already, keep the
    black policy's answer as it is.
    """
    printed = inverse.model.lab(inks)
    settled = inks.copy()
    free = np.minimum(np.hypot(lab[..., 1], lab[..., 2]) / _FREE_FROM_C, 1)
    for _ in range(_ROUNDS):
        mean = settled
        for axis in range(3):
            mean = gaussian_filter1d(mean, _REACH, axis=axis, mode="nearest")
        roughness = maximum_filter(np.abs(mean - settled).max(axis=-1), 3)
        pull = free * np.clip((roughness - _NO_PULL_BELOW) / (_FULL_PULL_FROM - _NO_PULL_BELOW), 0, 1)
        moving = pull > 0
        wanted = settled[moving] + pull[moving, None] * (mean[moving] - settled[moving])
        settled[moving] = inverse.inks_near(printed[moving], wanted, _WEIGHT)
    return settled
