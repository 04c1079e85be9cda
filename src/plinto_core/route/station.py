"""Where the colors of a list are after a step of a route."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_lch
from plinto_core.icc.profile import Profile

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Station:
    """Where the colors are after a step: `values` (n, channels) of the space, and the `lab` (n, 3) that they mean there.

    `profile` gives the values their meaning, where one does; `spectra` (n, 36) are the list's own, where it has any.
    """

    name: str
    channels: tuple[str, ...]
    values: Array
    lab: Array
    profile: Profile | None = None
    spectra: Array | None = None

    @property
    def lch(self) -> Array:
        """L*, C* and h (degrees)."""
        return lab_to_lch(self.lab)
