"""Adjusted pictures through both profiles' own tables: the adjustment on a grid, the rest as LittleCMS has it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.adjust.adjustment import Adjust
from plinto_core.chain.link import Codes, ValueGrid, device_grid
from plinto_core.chain.profiled import ProfiledLink
from plinto_core.computed_once import computed_once

Array = NDArray[np.float64]

_POINTS = {3: 49, 4: 17}


@dataclass(frozen=True)
class AdjustedLink:
    """The same face as `ProfiledLink`: pixels are adjusted in 16 bit first."""

    adjust: Adjust
    then: ProfiledLink

    @property
    def digest(self) -> str:
        """As of the profiled link, which knows the adjustment."""
        return self.then.digest

    @property
    def total(self) -> float:
        """Nothing is limited here."""
        return self.then.total

    @computed_once
    def _grid(self) -> ValueGrid:
        channels = self.adjust.profile.header.channels
        nodes = self.adjust.apply(device_grid(_POINTS[channels], channels)) * 65535
        return ValueGrid(_POINTS[channels], nodes.astype(np.float32), channels)

    def inks_of(self, pixels: Codes, depth: int = 8) -> Codes:
        """Picture codes (..., channels) of 8 or 16 bit to ink codes (..., inks) of `depth` bits."""
        adjusted = np.rint(self._grid.at(pixels)).astype(np.uint16)
        return self.then.inks_of(adjusted, depth)

    def values(self, device: ArrayLike) -> Array:
        """Device values 0…1 (..., channels) to ink values 0…1 (..., inks)."""
        return self.then.values(self.adjust.apply(device))
