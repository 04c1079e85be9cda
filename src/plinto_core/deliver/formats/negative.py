"""One contact negative made of the artwork's lightness."""

from collections.abc import Iterator
from pathlib import Path

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.formats.films import write_films
from plinto_core.deliver.making import Making
from plinto_core.raster.opened import Codes

SHARE = 0.4


def check(chain: Chain) -> None:
    """Whatever the condition: there is no ink in it."""


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    write_films(path, made, "", made.deliver.negative.film)


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """The opacity is measured on its way to the film."""
    return []
