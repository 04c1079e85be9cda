"""How an artwork's numbers are spread, and the inks of its grays."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.lab import lab_to_lch
from plinto_core.pipeline.space import space_of
from plinto_core.raster.pyramid import Pyramid

BINS, HUE_BINS = 64, 72
#: Below this chroma a color has no hue worth counting.
_COLORED = 5.0
_PIXELS = 200_000


def histogram(pyramid: Pyramid, chain: Chain) -> dict[str, list[float]]:
    """Share of pixels (0…1) in each of 64 even steps, by channel and for lightness 'L'; the artwork unadjusted.

    'h' is the share in each of 72 steps of CIELAB hue angle from 0°, of pixels with a chroma above 5.
    """
    pixels, _places, _step = pyramid.sample(_PIXELS)
    top = float(np.iinfo(pixels.dtype).max)
    flat = pixels.reshape(-1, pixels.shape[-1])
    lab = chain.source_grid.at(flat)
    lch = lab_to_lch(lab)
    hues = np.histogram(lch[lch[:, 1] > _COLORED, 2] % 360, HUE_BINS, (0, 360))[0]
    channels = space_of(chain.source.profile).channels
    columns = {name: flat[:, k] / top for k, name in enumerate(channels)} | {"L": lab[:, 0] / 100}
    return {"h": (hues / len(flat)).round(6).tolist()} | {
        name: (np.histogram(values, BINS, (0, 1))[0] / len(flat)).round(6).tolist()
        for name, values in columns.items()
    }


def gray_ramp_inks(chain: Chain, steps: int = 65) -> NDArray[np.float64]:
    """Plate dots (steps, inks) 0…1 of the artwork's grays, light to dark; for CMYK artwork, of its black alone."""
    if chain.channels == 4:
        device = np.zeros((1, steps, 4), np.uint16)
        device[0, :, 3] = np.linspace(0, 65535, steps)
    else:
        device = np.repeat(np.linspace(65535, 0, steps)[None, :, None], 3, axis=-1).astype(np.uint16)
    # Far off the artwork, so that no region's outline counts.
    places = PixelGrid(np.full(steps, -1e9), np.full(1, -1e9), 1, 1)
    return np.asarray(chain.ink_codes(device, places, 16)[0] / 65535.0)
