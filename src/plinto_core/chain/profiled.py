"""Pictures through both profiles' own tables: LittleCMS pixel by pixel, so that the result is the reference's.

A grid would be faster and wrong: LittleCMS's own shortcut for pictures is off by up to 30 codes of 255 at the corners
of a profile's tables. Where its steps are known they are taken in one loop (`icc/table_steps.py`); other makes of
profiles go through LittleCMS itself, about 2 megapixels a second and core. A picture of 8 bit has fewer colors than
pixels, so each color is converted once and looked up from then on.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.chain.link import Codes
from plinto_core.chain.met_colors import MetColors, MetColorsOfFour
from plinto_core.computed_once import computed_once
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import convert_codes_to_inks, convert_to_inks

Array = NDArray[np.float64]

_LEAST_PIXELS, _MOST_PIXELS = 1 << 12, 1 << 16
#: Who remembers colors of so many channels, and pixels from which on it pays.
_MET: dict[int, type[MetColors] | type[MetColorsOfFour]] = {3: MetColors, 4: MetColorsOfFour}
_MANY = 1 << 17
_CORES = max(2, os.cpu_count() or 2)
_POOL = ThreadPoolExecutor(_CORES, thread_name_prefix="littlecms")


@dataclass(frozen=True)
class ProfiledLink:
    """Device values to inks as `source` and `target` say; the same face as `Link`, without limits of its own."""

    inks: tuple[str, ...]
    source: Profile
    target: Profile
    intent: str
    bpc: bool
    digest: str

    @property
    def total(self) -> float:
        """The tables hold what they hold: nothing is limited here."""
        return float(len(self.inks))

    def inks_of(self, pixels: Codes, depth: int = 8) -> Codes:
        """Picture codes (..., channels) of 8 or 16 bit to ink codes (..., inks) of `depth` bits."""
        kind = np.dtype(np.uint8 if depth == 8 else np.uint16)
        flat = np.ascontiguousarray(pixels).reshape(-1, pixels.shape[-1])
        met = _MET.get(flat.shape[1]) if flat.dtype == np.uint8 else None
        if met is not None and (len(flat) >= _MANY or depth in self._met):
            if depth not in self._met:
                self._met.setdefault(depth, met(lambda new: self._exact(new, kind), len(self.inks), kind))
            return self._met[depth].inks_of(flat).reshape(*pixels.shape[:-1], len(self.inks))
        return self._exact(flat, kind).reshape(*pixels.shape[:-1], len(self.inks))

    @computed_once
    def _met(self) -> dict[int, MetColors | MetColorsOfFour]:
        """By depth of the inks."""
        return {}

    def _exact(self, flat: Codes, kind: "np.dtype[Any]") -> Codes:
        # A share for each core, but none so small that sharing costs more than it saves.
        size = min(max(-(-len(flat) // _CORES), _LEAST_PIXELS), _MOST_PIXELS)
        pieces = [flat[at : at + size] for at in range(0, len(flat), size)]
        done = _POOL.map(
            lambda piece: convert_codes_to_inks(self.source, self.target, piece, kind, self.intent, self.bpc), pieces
        )
        return np.concatenate(list(done)) if pieces else np.empty((0, len(self.inks)), kind)

    def values(self, device: ArrayLike) -> Array:
        """Device values 0…1 (..., channels) to ink values 0…1 (..., inks)."""
        return convert_to_inks(self.source, self.target, device, self.intent, self.bpc)
