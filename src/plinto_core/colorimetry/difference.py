"""Color differences between Lab values."""

import numpy as np
from numpy.typing import ArrayLike

from plinto_core.colorimetry.lab import Array
from plinto_core.cores import on_its_cores


def delta_e_76(lab: ArrayLike, other: ArrayLike) -> Array:
    """Euclidean distance in Lab (CIE 15:2018, 8.2.1.3). Shapes (..., 3) to (...)."""
    return np.asarray(np.linalg.norm(np.asarray(lab, np.float64) - np.asarray(other, np.float64), axis=-1))


def delta_e_2000(lab: ArrayLike, other: ArrayLike) -> Array:
    """CIEDE2000, kL = kC = kH = 1 (CIE 142-2001). Shapes (..., 3), broadcast, to (...).

    >>> float(delta_e_2000([50, 2.6772, -79.7751], [50, 0, -82.7485]).round(4))
    2.0425
    """
    from plinto_core.colorimetry.difference_kernels import ciede2000_rows

    first, second = np.broadcast_arrays(np.asarray(lab), np.asarray(other))
    precision = np.float32 if first.dtype == np.float32 and second.dtype == np.float32 else np.float64
    out = np.empty(first.shape[:-1], precision)
    on_its_cores(
        ciede2000_rows,
        out.size,
        np.ascontiguousarray(first.reshape(-1, 3), precision),
        np.ascontiguousarray(second.reshape(-1, 3), precision),
        out.reshape(-1),
    )
    return out
