"""A baked link against the line that it was baked from, where it is hard: everywhere, in the dark, on the surface."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000

Array = NDArray[np.float64]


def device_colors(kind: str, count: int, seed: int = 5) -> Array:
    """Device RGB (count, 3): 'random', 'dark' near-neutrals, or 'surface' of the source's gamut."""
    random = np.random.default_rng(seed)
    if kind == "dark":
        return np.clip(random.random((count, 1)) * 0.3 + random.normal(0, 0.02, (count, 3)), 0, 1)
    colors = random.random((count, 3))
    if kind == "surface":
        colors[np.arange(count), random.integers(0, 3, count)] = random.integers(0, 2, count)
    return colors


def link_errors(line: Chain, device: Array) -> Array:
    """ΔE00 (n,) between what the link's inks print and what the exact line's inks print."""
    model = line.condition.model
    codes = np.rint(device * 65535).astype(np.uint16)
    inks = line.link_for(codes[None]).inks_of(codes, 16) / 65535.0
    return delta_e_2000(model.lab(inks), model.lab(line.inks(device)))
