"""Pictures through both profiles' own tables: LittleCMS pixel by pixel, so that the result is the reference's.

A grid would be faster and wrong: LittleCMS's own shortcut for pictures is off by up to 30 codes of 255 at the
corners of a profile's tables. Evaluated without shortcuts it is exact, about 2 megapixels a second and core.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.chain.link import Codes
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import convert_codes_to_inks, convert_to_inks

Array = NDArray[np.float64]

_PIECE_PIXELS = 1 << 16
_POOL = ThreadPoolExecutor(max(2, os.cpu_count() or 2), thread_name_prefix="littlecms")


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
        pieces = [flat[at : at + _PIECE_PIXELS] for at in range(0, len(flat), _PIECE_PIXELS)]
        done = _POOL.map(
            lambda piece: convert_codes_to_inks(self.source, self.target, piece, kind, self.intent, self.bpc), pieces
        )
        out = np.concatenate(list(done)) if pieces else np.empty((0, len(self.inks)), kind)
        return out.reshape(*pixels.shape[:-1], len(self.inks))

    def values(self, device: ArrayLike) -> Array:
        """Device values 0…1 (..., channels) to ink values 0…1 (..., inks)."""
        return convert_to_inks(self.source, self.target, device, self.intent, self.bpc)
