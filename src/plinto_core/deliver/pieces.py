"""One picture made by many: pieces of its rows, each encoded by whoever takes it, joined to the bytes that one alone makes.

Strips of a TIFF are encoded one by one (TIFF 6.0, section 9), so a piece of whole strips is made without the others. A
piece's file is a ZIP of its strips, stored as they are, with a head that says which rows of which artwork they are.
"""

import json
import zipfile
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

from plinto_core import __version__
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.formats import tiff
from plinto_core.deliver.making import Making, Work
from plinto_core.deliver.separate import Outcome, check_delivery, whole_and_measured
from plinto_core.errors import DeliveryError
from plinto_core.files import write_whole
from plinto_core.plain import read_plain
from plinto_core.raster.opened import Artwork

#: Where a piece's head stands in its ZIP.
_HEAD = "piece.json"


@dataclass(frozen=True)
class Piece:
    """Rows of the artwork from `first` to before `last`."""

    first: int
    last: int


@dataclass(frozen=True)
class _Head:
    """What a piece's file says of itself; `held` pixels a calibration brought over the limit."""

    first: int
    last: int
    recipe: str
    held: int
    made_by: str


def pieces_of(artwork: Artwork, chain: Chain, megapixels: float) -> tuple[Piece, ...]:
    """`artwork` as pieces of about so many megapixels, each of whole strips; none where the delivery is of one piece.

    Raises `RecipeError` where it cannot be delivered at all.
    """
    check_delivery(chain)
    if chain.recipe.deliver.format != "tiff":
        return ()
    strip = tiff.rows_of_a_strip(Making(artwork, chain, _still(artwork)))
    rows = max(1, round(megapixels * 1e6 / artwork.width / strip)) * strip
    if rows >= artwork.height:
        return ()
    return tuple(Piece(first, min(first + rows, artwork.height)) for first in range(0, artwork.height, rows))


def write_piece(
    artwork: Artwork,
    chain: Chain,
    piece: Piece,
    out: Path,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Write the strips of a piece to `out`. Raises as `separate` does."""
    made = Making(artwork, chain, Work(artwork, progress, cancelled, 1.0, (piece.first, piece.last)))

    def write(part: Path) -> None:
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as packed:
            for at, strip in enumerate(tiff.strips(made)):
                packed.writestr(zipfile.ZipInfo(f"{at:06d}"), strip)
            head = _Head(piece.first, piece.last, chain.recipe.digest, made.held, __version__)
            packed.writestr(zipfile.ZipInfo(_HEAD), json.dumps(asdict(head)))

    write_whole(out, write)
    chain.keep_nodes()


def joined(
    artwork: Artwork,
    chain: Chain,
    pieces: Sequence[Path],
    out: Path,
    cancelled: Callable[[], bool] = lambda: False,
) -> Outcome:
    """The file that `separate` writes, of pieces in the order of their rows, measured as read back.

    Raises `DeliveryError` where they are not all of it, or made by another Plinto, and as `separate` does.
    """
    work = Work(artwork, lambda share: None, cancelled, 1.0)
    made = Making(artwork, chain, work)
    heads = [_head_of(path) for path in pieces]
    ends = [0, *(head.last for head in heads)]
    if [head.first for head in heads] != ends[:-1] or ends[-1] != artwork.height:
        raise DeliveryError(f"The pieces of '{artwork.name}' are not all of its rows. Run it again.")
    if {(head.recipe, head.made_by) for head in heads} != {(chain.recipe.digest, __version__)}:
        raise DeliveryError(
            f"Pieces of '{artwork.name}' were made by another version of Plinto or for another recipe. Bring all workers "
            "to one version, and run it again."
        )
    made.held = sum(head.held for head in heads)

    def strips() -> Iterator[bytes]:
        for path in pieces:
            work.stop_if_asked("while its pieces were joined")
            with zipfile.ZipFile(path) as packed:
                for name in packed.namelist():
                    if name != _HEAD:
                        yield packed.read(name)

    return whole_and_measured(made, out, lambda part: tiff.write_strips(part, made, strips()))


def _head_of(path: Path) -> _Head:
    with zipfile.ZipFile(path) as packed:
        return read_plain(_Head, json.loads(packed.read(_HEAD)), "A piece", DeliveryError)


def _still(artwork: Artwork) -> Work:
    """For asking what would be made; nothing goes through it."""
    return Work(artwork, lambda share: None, lambda: False, 1.0)
