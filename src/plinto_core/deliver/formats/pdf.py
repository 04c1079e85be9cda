"""A PDF page of the size of the artwork, in any inks."""

from collections.abc import Iterator
from pathlib import Path

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.making import Making, ppi_of
from plinto_core.deliver.pdf_out import Page, PlacedPicture, packed, write_pdf
from plinto_core.deliver.read_back import page_bands
from plinto_core.raster.opened import Codes

SHARE = 0.9


def check(chain: Chain) -> None:
    """Any inks."""


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    artwork, chain = made.artwork, made.chain
    ppi = ppi_of(artwork)
    width, height = artwork.width / ppi * 72, artwork.height / ppi * 72
    picture = PlacedPicture(
        packed(made.written()), artwork.width, artwork.height, 8, (0, 0, width, height), made.inks
    )
    profile = chain.condition.profile if made.deliver.embed_profile else None
    write_pdf(path, [Page(width, height, [picture])], artwork.name, chain.condition.model, profile)


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """See `DeliveryFormat`."""
    return [page_bands(path, len(made.inks))]
