"""TIFF of any number of inks, 8 or 16 bit."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.making import Making, embedded_in, ppi_of
from plinto_core.deliver.tiff_out import RGB, write_ink_tiff
from plinto_core.raster._tiff import tiff_ink_bands
from plinto_core.raster.opened import Codes

SHARE = 0.9


def check(chain: Chain) -> None:
    """Any inks."""


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    deliver, artwork = made.deliver, made.artwork
    kind = np.dtype(np.uint8 if deliver.depth == 8 else np.uint16)
    size = artwork.width, artwork.height
    names = RGB if made.rgb else made.names
    write_ink_tiff(
        path, made.written(), size, kind, names, deliver.compression, ppi_of(artwork), embedded_in(made.chain)
    )


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """See `DeliveryFormat`."""
    return [tiff_ink_bands(path)]
