"""Contact negatives: monochrome artwork through a tone table, inverted, for printing on film."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.curves import apply_curve
from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import Chain
from plinto_core.computed_once import computed_once
from plinto_core.recipe.film import ToneTable

Codes = NDArray[np.unsignedinteger[Any]]


@dataclass(frozen=True)
class NegativeLine:
    """The artwork's lightness, adjusted, through a tone table and inverted: opaque where the print is to be light."""

    chain: Chain
    table: ToneTable = field(default_factory=ToneTable)

    @computed_once
    def _fine(self) -> NDArray[np.float32]:
        return np.asarray(apply_curve(self.table.curve, np.linspace(0, 1, 4096)), np.float32)

    def tones(self, pixels: Codes, places: PixelGrid) -> NDArray[np.uint16]:
        """Film tones (h, w) 0 clear … 65535 opaque, for picture codes (h, w, channels).

        A contact print is dark where light came through, so the sent tone is opaque where it is light.
        """
        lightness = self.chain.blended(pixels, places, lambda line, part: line.lightness_grid.at(part))[..., 0]
        return np.asarray(np.rint(np.interp(lightness, _AXIS, self._fine) * 65535), np.uint16)


_AXIS = np.linspace(0, 100, 4096)
