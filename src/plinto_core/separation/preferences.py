"""What decides between combinations of inks that print one color: weights so small that the color decides first."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.press.model import ForwardModel

Array = NDArray[np.float64]

#: How strongly the black target counts against a squared ΔE of the color: it biases colors by about 0.001 ΔE.
_BLACK_WEIGHT = 0.1
OTHER_WEIGHT = 1e-4
#: Inks beyond the process colors are for what those cannot reach. They cost more than black that is not wished for, else
#: orange and cyan would stand in for black in a dark yellow, here and there on a ramp (K went back by 56 % at 0.3). Colors
#: of a six-ink press that take them are biased by 0.036 ΔE00 on average, 99 % of them by less than 0.36.
EXTRA_WEIGHT = 1.0
#: Of a squared distance of each ink from where it should stay, along the grays and next to the black point.
AXIS_WEIGHT = 0.05


def extras(model: ForwardModel) -> NDArray[np.bool_]:
    """Which inks (inks,) come on top of the process colors."""
    process = {"C", "M", "Y"} <= set(model.inks)
    return np.array([process and ink not in "CMYK" for ink in model.inks])


def preferences(model: ForwardModel, black: Array) -> tuple[Array, Array]:
    """Targets (n, inks) 0…1 and weights (inks,) for so much `black` (n,) 0…1, and as little as can be of other inks."""
    targets = np.zeros((len(black), len(model.inks)))
    weights = np.where(extras(model), EXTRA_WEIGHT, OTHER_WEIGHT)
    if model.black_index is not None:
        targets[:, model.black_index] = black
        weights[model.black_index] = _BLACK_WEIGHT
    return targets, weights
