"""Pictures for the screen."""

import imagecodecs
import numpy as np
from numpy.typing import NDArray


def encode_png(pixels: NDArray[np.uint8]) -> bytes:
    """PNG for the screen: packed in the quickest way that still halves it, since it is made for one look."""
    png = imagecodecs.PNG
    return bytes(imagecodecs.png_encode(pixels, level=1, strategy=png.STRATEGY.RLE, filter=png.FILTER.UP))
