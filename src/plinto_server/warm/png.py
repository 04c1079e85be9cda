"""Pictures for the screen: exact ones, and sketches for a thin line."""

import imagecodecs
import numpy as np
from numpy.typing import NDArray


def encode_png(pixels: NDArray[np.uint8]) -> bytes:
    """PNG for the screen: packed in the quickest way that still halves it, since it is made for one look."""
    png = imagecodecs.PNG
    return bytes(imagecodecs.png_encode(pixels, level=1, strategy=png.STRATEGY.RLE, filter=png.FILTER.UP))


def encode_sketch(pixels: NDArray[np.uint8]) -> bytes:
    """WebP, a tenth of the PNG: what a thin line shows until the exact picture is through; never what is judged."""
    return bytes(imagecodecs.webp_encode(pixels, level=75, method=1, lossless=False))
