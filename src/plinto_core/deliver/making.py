"""One file in the making: the artwork's bands on their way through the line."""

import hashlib
from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.coverage_meter import CoverageMeter
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.code_limits import CodeLimits, held_within
from plinto_core.deliver.negative import NegativeLine
from plinto_core.errors import Cancelled, RecipeError
from plinto_core.inks.drive import driven_by_rgb, turned_codes
from plinto_core.press.calibration import Calibration
from plinto_core.raster.opened import Artwork, Codes

_ASSUMED_PPI = 72.0
#: Up to here, looking which nodes of the link a picture touches costs less than computing all of them.
_SMALL_PIXELS = 40_000_000


class Work:
    """The artwork on its way: bands of codes with their places, progress, cancelling; `rows` are those from the first to
    before the last, all of them where none are named."""

    def __init__(
        self, artwork: Artwork, progress: Callable[[float], None], cancelled: Callable[[], bool], share: float,
        rows: tuple[int, int] | None = None,
    ) -> None:  # fmt: skip
        self.artwork, self._progress, self._cancelled, self._share = artwork, progress, cancelled, share
        self.first, self.last = rows or (0, artwork.height)

    def bands(self) -> Iterator[tuple[Codes, PixelGrid]]:
        done = self.first
        # A file is read to its end, which tells whether it is whole.
        whole = (self.first, self.last) == (0, self.artwork.height)
        for band in self.artwork.bands() if whole else self.artwork.rows(self.first, self.last):
            self.stop_if_asked(f"after {done - self.first} of {self.last - self.first} rows")
            yield band, PixelGrid.rows(done, len(band), self.artwork.width, self.artwork.height)
            done += len(band)
            self._progress(self._share * (done - self.first) / (self.last - self.first))
        self.stop_if_asked("after its last row")

    def stop_if_asked(self, where: str) -> None:
        if self._cancelled():
            raise Cancelled(f"'{self.artwork.name}' was stopped {where}.")

    def films_done(self, share: float) -> None:
        self.stop_if_asked("while its films were written")
        self._progress(self._share + (1 - self._share) * share)


class Making:
    """One file in the making: its bands of codes, and the measuring of what was written."""

    def __init__(self, artwork: Artwork, chain: Chain, work: Work) -> None:
        self.artwork, self.chain, self.work = artwork, chain, work
        self.deliver = chain.recipe.deliver
        self.negative = self.deliver.format == "negative"
        self.inks = ("Negative",) if self.negative else chain.written_inks
        self.names = self.inks if self.negative else tuple(chain.condition.model.name_of(ink) for ink in self.inks)
        self.limits = limits_of(chain)
        self.margin_percent = 0.0
        #: Of the rows of each film, as they went to the file.
        self.film_digests: list[bytes] = []
        #: Pixels that a calibration brought over the limit.
        self.held = 0
        self.meter = CoverageMeter(len(self.inks), self.deliver.ink_depth)
        self.rgb = driven_by_rgb(self.inks)
        # A small picture touches few of the link's nodes, and each is the same whether all are computed or not.
        self._whole = artwork.width * artwork.height > _SMALL_PIXELS

    @property
    def held_share(self) -> float:
        """Share (0…1) of pixels that a calibration brought over the limit."""
        return self.held / (self.artwork.width * self.artwork.height)

    def bands(self) -> Iterator[Codes]:
        """Codes (rows, width, inks) as they are written; within the limits whatever comes after the separation."""
        depth = self.deliver.ink_depth
        behind = calibration_for(self.chain)
        for band, places in self.work.bands():
            if self.negative:
                yield NegativeLine(self.chain, self.deliver.negative.table).tones(band, places)[..., None]
                continue
            codes = self.chain.ink_codes(band, places, depth, whole=self._whole)
            if behind is not None:
                printed = np.asarray(behind.apply_codes(codes), codes.dtype)
                codes = held_within(printed, self.limits)
                self.held += int((codes != printed).any(axis=-1).sum())
            yield codes

    def written(self) -> Iterator[Codes]:
        """Codes as the file holds them: the bands, or R, G, B of them for a printer driven by RGB."""
        return map(turned_codes, self.bands()) if self.rgb else self.bands()

    def noted(self, rows: Iterator[NDArray[np.uint8]]) -> Iterator[NDArray[np.uint8]]:
        """The same rows of one film, their digest kept, to be compared with what is read back."""
        digest = hashlib.sha256()
        for band in rows:
            digest.update(np.ascontiguousarray(band).data)
            yield band
        self.film_digests.append(digest.digest())

    def seen(self, bands: Iterator[Codes]) -> Iterator[Codes]:
        """The same bands, measured on the way: for films, whose plates are no part of the file."""
        for band in bands:
            self.meter.add(band)
            yield band


def calibration_for(chain: Chain) -> Calibration | None:
    """The calibration that the file goes through, None where it holds the separation; `RecipeError` where it cannot."""
    deliver = chain.recipe.deliver
    if not deliver.calibrated:
        return None
    if chain.condition.calibration is None:
        raise RecipeError(f"'{chain.condition.profile.name}' has no calibration. Deliver the separation as it is.")
    if deliver.format not in ("tiff", "films"):
        raise RecipeError("Inks as the printer lays them down are written as TIFF or films. Choose one of them.")
    return chain.condition.calibration


def limits_of(chain: Chain) -> CodeLimits:
    """What no pixel of the file may exceed; behind a calibration the total holds for the printer's own inks."""
    caps, total = chain.bounds
    behind = calibration_for(chain)
    own = np.ones(len(behind.device_inks)) if behind else np.asarray(caps)
    if behind and not chain.rebuilt:
        total = float(len(behind.device_inks))
    return CodeLimits.of(own, total, chain.recipe.deliver.ink_depth)


def ppi_of(artwork: Artwork) -> float:
    return artwork.resolution_ppi or _ASSUMED_PPI


def embedded_in(chain: Chain) -> bytes | None:
    deliver = chain.recipe.deliver
    # The profile speaks of the separation's inks; it would be wrong in a file of the printer's.
    return chain.condition.profile.raw if deliver.embed_profile and not deliver.calibrated else None


def need_inks(chain: Chain) -> None:
    """Raises `RecipeError` for a printer that lays down its inks by itself."""
    if driven_by_rgb(chain.written_inks):
        raise RecipeError(f"'{chain.condition.profile.name}' is driven by RGB: no ink is within reach. Write TIFF.")
