"""One page in the condition's inks with a control strip and the settings, to run and sign."""

from collections.abc import Iterator
from pathlib import Path

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.hard_proof import hard_proof_page
from plinto_core.deliver.making import Making, need_inks
from plinto_core.deliver.pdf_out import write_pdf
from plinto_core.deliver.read_back import beside_bands, page_bands
from plinto_core.raster.opened import Codes

SHARE = 0.9


def check(chain: Chain) -> None:
    """Inks within reach."""
    need_inks(chain)


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    chain = made.chain
    profile = chain.condition.profile if made.deliver.embed_profile else None
    page = hard_proof_page(made.artwork, chain, made.bands())
    write_pdf(path, [page], f"Hard proof: {made.artwork.name}", chain.condition.model, profile)


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """See `DeliveryFormat`."""
    return [page_bands(path, len(made.inks)), beside_bands(path, len(made.inks))]
