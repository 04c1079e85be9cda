"""What is precomputed of a forward model's inverse, and kept on disk."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class InverseTables:
    """Over a Lab grid: `inks` (levels, L, a, b, inks) for four black levels, and `gray_component` (L, a, b)."""

    inks: NDArray[np.float32]
    gray_component: NDArray[np.float32]
