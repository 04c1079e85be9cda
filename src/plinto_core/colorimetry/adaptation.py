"""Chromatic adaptation between whites (ICC.1:2022, Annex E)."""

import numpy as np
from numpy.typing import ArrayLike

from plinto_core.colorimetry.lab import D50_XYZ, Array

_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def bradford(white_xyz: ArrayLike, to_xyz: ArrayLike = D50_XYZ) -> Array:
    """The 3×3 matrix that takes XYZ seen under `white_xyz` to XYZ under `to_xyz` (linear Bradford).

    >>> bool(np.allclose(bradford([0.9504, 1, 1.0889]) @ [0.9504, 1, 1.0889], D50_XYZ))
    True
    """
    cone_from = _BRADFORD @ np.asarray(white_xyz, np.float64)
    cone_to = _BRADFORD @ np.asarray(to_xyz, np.float64)
    return np.asarray(np.linalg.inv(_BRADFORD) @ np.diag(cone_to / cone_from) @ _BRADFORD)
