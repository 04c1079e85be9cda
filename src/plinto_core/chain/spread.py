"""Where the nodes of a grid stand along a channel: evenly, or closer together where inks bend most a code."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Spread:
    """Nodes stand evenly along 1 - (1 - v^dark)^light of device values v 0…1.

    Below 1, `dark` draws them towards 0 and `light` towards 1. Both are exponents above 0, at most 1; with both at 1 the
    nodes stand evenly along the values themselves.
    """

    dark: float = 1.0
    light: float = 1.0

    def along(self, values: Array) -> Array:
        """Device values 0…1 (...) to the part of the nodes, 0…1 (...), that stands below them."""
        return np.asarray(1 - (1 - values**self.dark) ** self.light)

    def nodes(self, points: int) -> Array:
        """Device values 0…1 (points,) of the nodes, the first 0 and the last 1."""
        return np.asarray((1 - (1 - np.linspace(0, 1, points)) ** (1 / self.light)) ** (1 / self.dark))

    def grid(self, points: int, channels: int) -> Array:
        """Device values 0…1 (points**channels, channels) of a whole grid's nodes, the first channel slowest."""
        return np.stack(np.meshgrid(*[self.nodes(points)] * channels, indexing="ij"), axis=-1).reshape(-1, channels)


EVEN = Spread()


@lru_cache(maxsize=16)
def cells_by_code(kind: np.dtype[Any], points: int, spread: Spread) -> NDArray[np.uint32]:
    """How many cells lie below every input code of `kind` (uint8 or uint16), in 1/2**15; the top code is the top node."""
    top = int(np.iinfo(kind).max)
    return np.rint(spread.along(np.arange(top + 1) / top) * ((points - 1) << 15)).astype(np.uint32)


@lru_cache(maxsize=16)
def places_by_code(kind: np.dtype[Any], points: int, spread: Spread) -> NDArray[np.uint32]:
    """Place of every input code of `kind` along a channel, as kernels read it: which cell in the lower 16 bits, and in the
    upper ones how far into it, in 1/2**15. The top code lies at the end of the last cell, 2**15 into it."""
    places = cells_by_code(kind, points, spread)
    cells = np.minimum(places >> np.uint32(15), np.uint32(points - 2))
    return np.asarray((places - (cells << np.uint32(15))) << np.uint32(16) | cells, np.uint32)
