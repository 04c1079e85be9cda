"""What a module of a delivery format has."""

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from plinto_core.raster.opened import Codes

if TYPE_CHECKING:
    from plinto_core.chain.compiled import Chain
    from plinto_core.deliver.making import Making


class DeliveryFormat(Protocol):
    """A delivery format as a module has it."""

    #: How far the work is when all pixels went through the line, 0…1.
    SHARE: float

    @staticmethod
    def check(chain: "Chain") -> None:
        """Raises `RecipeError` where a condition cannot be delivered so, before anything is made."""
        ...

    @staticmethod
    def write(path: Path, made: "Making") -> None:
        """Write the file that is `made` to `path`. Raises `RecipeError`, `ArtworkError`, `Cancelled`, OSError."""
        ...

    @staticmethod
    def read_back(path: Path, made: "Making") -> list[Iterator[Codes]]:
        """Bands of codes (rows, width, inks) as anybody else reads them from the file: the artwork's first, then those of
        what else it prints. Nothing where plates are measured on their way, and films compared with their dots."""
        ...
