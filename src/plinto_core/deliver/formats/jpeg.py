"""JPEG of CMYK, or of R, G, B for a printer that is driven so."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.jpeg_out import write_rgb, write_within
from plinto_core.deliver.making import Making, embedded_in, ppi_of
from plinto_core.deliver.read_back import jpeg_codes
from plinto_core.errors import RecipeError
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.raster.opened import Codes

SHARE = 0.9
_LONGEST_SIDE = 65500


def check(chain: Chain) -> None:
    """Four inks, or none."""
    inks = chain.written_inks
    if inks != ("C", "M", "Y", "K") and not driven_by_rgb(inks):
        raise RecipeError(f"JPEG holds CMYK, and this condition has the inks {', '.join(inks)}. Write TIFF or PDF.")


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    artwork, quality = made.artwork, made.deliver.jpeg_quality
    if max(artwork.width, artwork.height) > _LONGEST_SIDE:
        raise RecipeError(f"JPEG holds {_LONGEST_SIDE} pixels a side, and '{artwork.name}' is larger. Write TIFF.")
    profile, ppi = embedded_in(made.chain), ppi_of(artwork)
    if made.rgb:
        write_rgb(path, np.concatenate(list(made.written())), quality, ppi, profile)
        return
    whole = np.concatenate(list(made.bands()))
    made.margin_percent = write_within(path, whole, made.limits, quality, ppi, profile, made.inks)


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """See `DeliveryFormat`."""
    return [iter([jpeg_codes(path)])]
