"""Making the file: artwork through a chain into inks, films or a negative, measured on what was written."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.formats import format_of
from plinto_core.deliver.making import Making, Work, calibration_for
from plinto_core.deliver.measured import measure
from plinto_core.errors import RecipeError
from plinto_core.files import file_digest, write_whole
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.raster.opened import Artwork
from plinto_core.recipe.plate import PlateStation


@dataclass(frozen=True)
class Outcome:
    """What was written, measured on the file as it is read back (films: on the plates they are made of, and every film is
    read back and compared with its plate's dots, bit for bit; a negative: the opacity of its film).

    `inks` are those that the file holds, light and dark ones apart behind a calibration. `margin_percent` is how far
    below its limit a JPEG was written, so that what is decoded holds it. `held_share` (0…1) are pixels whose light and dark
    inks together came to more than the limit, and were held to it.
    """

    sha256: str
    bytes: int
    largest_percent: float
    largest_at: tuple[int, int]
    mean_percent: list[float]
    inks: tuple[str, ...]
    margin_percent: float = 0.0
    held_share: float = 0.0


def separate(
    artwork: Artwork,
    chain: Chain,
    out: Path,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Outcome:
    """Write `artwork` as the recipe's Deliver station says, to `out`. It appears whole or not at all.

    Raises `Cancelled`, `ArtworkError`, `RecipeError`, or OSError when the disk is full; nothing is left behind then.
    """
    check_delivery(chain)
    format_ = format_of(chain.recipe.deliver.format)
    made = Making(artwork, chain, Work(artwork, progress, cancelled, format_.SHARE))
    outcome = whole_and_measured(made, out, lambda part: format_.write(part, made))
    chain.keep_nodes()
    return outcome


def whole_and_measured(made: Making, out: Path, write: Callable[[Path], None]) -> Outcome:
    """Let `write` write the file that is `made` to `out`, whole or not at all, and measure what was written."""
    digest = ""

    def write_and_measure(part: Path) -> None:
        nonlocal digest
        write(part)
        # Both read the whole file: beside each other they wait for the disk and the cores but once.
        with ThreadPoolExecutor(1) as beside:
            digested = beside.submit(file_digest, part)
            measure(made, part)
            digest = digested.result()

    write_whole(out, write_and_measure)
    meter, width = made.meter, made.artwork.width
    return Outcome(
        digest,
        out.stat().st_size,
        meter.largest_percent,
        (meter.largest_at % width, meter.largest_at // width),
        meter.mean_percent,
        made.inks,
        made.margin_percent,
        made.held_share,
    )


def check_delivery(chain: Chain) -> None:
    """Raises `RecipeError` where the condition cannot be delivered as the recipe says, before anything is made."""
    calibration_for(chain)
    format_of(chain.recipe.deliver.format).check(chain)
    if driven_by_rgb(chain.written_inks) and chain.recipe.plate != PlateStation():
        raise RecipeError(f"'{chain.condition.profile.name}' is driven by RGB: there are no plates to treat.")
