"""Making the file: artwork through a chain into inks, films or a negative, measured on what was written."""

import hashlib
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.regions import Places
from plinto_core.analysis.figures import CoverageMeter
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.code_limits import CodeLimits, held_within, over_the_limit
from plinto_core.deliver.film_out import FilmSheet
from plinto_core.deliver.hard_proof import hard_proof_page
from plinto_core.deliver.jpeg_out import write_rgb, write_within
from plinto_core.deliver.negative import NegativeLine
from plinto_core.deliver.pdf_out import Page, PlacedPicture, packed, write_pdf
from plinto_core.deliver.read_back import beside_bands, film_digests, written_bands
from plinto_core.deliver.tiff_out import RGB, write_film_tiff, write_ink_tiff
from plinto_core.errors import Cancelled, DeliveryError, RecipeError
from plinto_core.files import file_digest, reserved_map, safe_name, write_whole
from plinto_core.inks.drive import driven_by_rgb, turned_codes
from plinto_core.press.calibration import Calibration
from plinto_core.raster.opened import Artwork, Codes
from plinto_core.recipe.film import FilmSettings
from plinto_core.recipe.plate import PlateStation

_ASSUMED_PPI = 72.0
_JPEG_SIDE = 65500
_SMALL_PIXELS = 2_000_000


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


class _Work:
    """The artwork on its way: bands of codes with their places, progress, cancelling."""

    def __init__(
        self, artwork: Artwork, progress: Callable[[float], None], cancelled: Callable[[], bool], share: float
    ) -> None:
        self.artwork, self._progress, self._cancelled, self._share = artwork, progress, cancelled, share

    def bands(self) -> Iterator[tuple[Codes, Places]]:
        done = 0
        for band in self.artwork.bands():
            self.stop_if_asked(f"after {done} of {self.artwork.height} rows")
            yield band, Places.rows(done, len(band), self.artwork.width, self.artwork.height)
            done += len(band)
            self._progress(self._share * done / self.artwork.height)
        self.stop_if_asked("after its last row")

    def stop_if_asked(self, where: str) -> None:
        if self._cancelled():
            raise Cancelled(f"'{self.artwork.name}' was stopped {where}.")

    def films_done(self, share: float) -> None:
        self.stop_if_asked("while its films were written")
        self._progress(self._share + (1 - self._share) * share)


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
    deliver = chain.recipe.deliver
    in_films = deliver.format in ("films", "negative")
    work = _Work(artwork, progress, cancelled, 0.4 if in_films else 0.9)
    made = _Making(artwork, chain, work)
    write = _WRITERS[deliver.format]

    def write_and_measure(part: Path) -> None:
        write(part, made)
        made.measure(part)

    write_whole(out, write_and_measure)
    meter = made.meter
    return Outcome(
        file_digest(out),
        out.stat().st_size,
        meter.largest_percent,
        (meter.largest_at % artwork.width, meter.largest_at // artwork.width),
        meter.mean_percent,
        made.inks,
        made.margin_percent,
        made.held_share,
    )


class _Making:
    """One file in the making: its bands of codes, and the measuring of what was written."""

    def __init__(self, artwork: Artwork, chain: Chain, work: _Work) -> None:
        self.artwork, self.chain, self.work = artwork, chain, work
        self.deliver = chain.recipe.deliver
        self.negative = self.deliver.format == "negative"
        self.inks = ("Negative",) if self.negative else chain.written_inks
        self.names = self.inks if self.negative else tuple(chain.condition.model.name_of(ink) for ink in self.inks)
        self.limits = limits_of(chain)
        self.margin_percent = 0.0
        #: Of the rows of each film, as they went to the file.
        self.film_digests: list[bytes] = []
        self._held = 0
        self.meter = CoverageMeter(len(self.inks), self.deliver.ink_depth)
        self.rgb = driven_by_rgb(self.inks)
        # A small picture touches few of the link's nodes, and each is the same whether all are computed or not.
        self._whole = artwork.width * artwork.height > _SMALL_PIXELS

    @property
    def held_share(self) -> float:
        """Share (0…1) of pixels that a calibration brought over the limit."""
        return self._held / (self.artwork.width * self.artwork.height)

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
                self._held += int((codes != printed).any(axis=-1).sum())
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

    def measure(self, path: Path) -> None:
        """Measure the written file. Raises `RecipeError` where it does not hold the limits, `DeliveryError` where its
        films are not those that were sent to it; nothing is kept then."""
        if self.film_digests != (film_digests(path) if self.film_digests else []):
            raise DeliveryError(
                f"Films of '{self.artwork.name}' were not written as they were made. Look at the disk, and run it again."
            )
        if self.deliver.format not in ("films", "negative"):
            self.meter = CoverageMeter(len(self.inks), self.deliver.ink_depth)
            for band in written_bands(path, self.deliver.format, len(self.inks)):
                self.meter.add(turned_codes(band) if self.rgb else band)
        meters = [self.meter]
        if self.deliver.format == "hard-proof":
            meters.append(CoverageMeter(len(self.inks), 8))
            for band in beside_bands(path, len(self.inks)):
                meters[1].add(band)
        for meter in () if self.negative else meters:
            if not self.limits.hold(meter):
                raise RecipeError(over_the_limit(meter, self.limits, self.inks))


def check_delivery(chain: Chain) -> None:
    """Raises `RecipeError` where the condition cannot be delivered as the recipe says, before anything is made."""
    calibration_for(chain)
    inks = chain.written_inks
    format_ = chain.recipe.deliver.format
    if driven_by_rgb(inks):
        if format_ in ("films", "hard-proof"):
            raise RecipeError(
                f"'{chain.condition.profile.name}' is driven by RGB: no ink is within reach. Write TIFF."
            )
        if chain.recipe.plate != PlateStation():
            raise RecipeError(f"'{chain.condition.profile.name}' is driven by RGB: there are no plates to treat.")
        return
    if format_ == "jpeg" and inks != ("C", "M", "Y", "K"):
        raise RecipeError(f"JPEG holds CMYK, and this condition has the inks {', '.join(inks)}. Write TIFF or PDF.")


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
    own = np.ones(len(behind.printed_inks)) if behind else np.asarray(caps)
    if behind and not chain.rebuilt:
        total = float(len(behind.printed_inks))
    return CodeLimits.of(own, total, chain.recipe.deliver.ink_depth)


def _ppi(artwork: Artwork) -> float:
    return artwork.resolution_ppi or _ASSUMED_PPI


def _embedded(chain: Chain) -> bytes | None:
    deliver = chain.recipe.deliver
    # The profile speaks of the separation's inks; it would be wrong in a file of the printer's.
    return chain.condition.profile.raw if deliver.embed_profile and not deliver.calibrated else None


def _write_tiff(path: Path, made: _Making) -> None:
    deliver, artwork = made.deliver, made.artwork
    kind = np.dtype(np.uint8 if deliver.depth == 8 else np.uint16)
    size = artwork.width, artwork.height
    profile = _embedded(made.chain)
    names = RGB if made.rgb else made.names
    write_ink_tiff(path, made.written(), size, kind, names, deliver.compression, _ppi(artwork), profile)


def _write_jpeg(path: Path, made: _Making) -> None:
    artwork = made.artwork
    if max(artwork.width, artwork.height) > _JPEG_SIDE:
        raise RecipeError(f"JPEG holds {_JPEG_SIDE} pixels a side, and '{artwork.name}' is larger. Write TIFF.")
    if made.rgb:
        whole = np.concatenate(list(made.written()))
        write_rgb(path, whole, made.deliver.jpeg_quality, _ppi(artwork), _embedded(made.chain))
        return
    whole = np.concatenate(list(made.bands()))
    made.margin_percent = write_within(
        path, whole, made.limits, made.deliver.jpeg_quality, _ppi(artwork), _embedded(made.chain), made.inks
    )  # fmt: skip


def _write_pdf(path: Path, made: _Making) -> None:
    artwork, chain = made.artwork, made.chain
    ppi = _ppi(artwork)
    width, height = artwork.width / ppi * 72, artwork.height / ppi * 72
    picture = PlacedPicture(
        packed(made.written()), artwork.width, artwork.height, 8, (0, 0, width, height), made.inks
    )
    profile = chain.condition.profile if made.deliver.embed_profile else None
    write_pdf(path, [Page(width, height, [picture])], artwork.name, chain.condition.model, profile)


def _write_films(path: Path, made: _Making) -> None:
    _films(path, made, made.chain.condition.profile.name, made.deliver.film)


def _write_negative(path: Path, made: _Making) -> None:
    _films(path, made, "", made.deliver.negative.film)


def _write_hard_proof(path: Path, made: _Making) -> None:
    chain = made.chain
    profile = chain.condition.profile if made.deliver.embed_profile else None
    page = hard_proof_page(made.artwork, chain, made.bands())
    write_pdf(path, [page], f"Hard proof: {made.artwork.name}", chain.condition.model, profile)


_WRITERS: dict[str, Callable[[Path, _Making], None]] = {
    "tiff": _write_tiff,
    "jpeg": _write_jpeg,
    "pdf": _write_pdf,
    "films": _write_films,
    "negative": _write_negative,
    "hard-proof": _write_hard_proof,
}


def _films(path: Path, made: _Making, condition: str, settings: FilmSettings) -> None:
    """Films of 16-bit plate codes; the plates lie on disk meanwhile, so that memory stays flat."""
    artwork, inks, work = made.artwork, made.inks, made.work
    with tempfile.TemporaryDirectory(dir=path.parent, prefix=".films-") as folder:
        shape = (len(inks), artwork.height, artwork.width)
        plates = reserved_map(Path(folder) / "plates", np.dtype(np.uint16), shape)
        row = 0
        for band in made.seen(made.bands()):
            plates[:, row : row + len(band)] = np.moveaxis(band, -1, 0)
            row += len(band)
        sheets = [
            FilmSheet(
                _reader(plates[index]), artwork.width, artwork.height, _ppi(artwork), ink, name, index,
                f"{artwork.name}   {condition}".strip(), settings,
            )
            for index, (ink, name) in enumerate(zip(inks, made.names, strict=True))
        ]  # fmt: skip
        if settings.container == "pdf":
            pages = [_film_page(made, sheet, _step(work, i, len(sheets))) for i, sheet in enumerate(sheets)]
            write_pdf(path, pages, artwork.name, None, None)
            return
        parts = []
        for index, sheet in enumerate(sheets):
            # By its number: what an ink is called never becomes part of a path.
            part = Path(folder) / f"film-{index}.tif"
            rows = made.noted(sheet.rows(_step(work, index, len(sheets))))
            write_film_tiff(part, rows, sheet.size, sheet.bits, sheet.dpi)
            parts.append((sheet.name, part))
        if len(parts) == 1:
            shutil.copyfile(parts[0][1], path)
            return
        stem = safe_name(Path(artwork.name).stem, "artwork")
        with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
            for index, (name, part) in enumerate(parts, 1):
                # A fixed date: the same films are the same bytes. Two inks of one name still are two films.
                twins = sum(name == other for other, _ in parts) > 1
                entry = zipfile.ZipInfo(f"{stem} {safe_name(name, 'film')}{f' {index}' if twins else ''}.tif")
                with archive.open(entry, "w", force_zip64=True) as target, part.open("rb") as source:
                    shutil.copyfileobj(source, target, 1 << 20)


def _reader(plate: NDArray[np.uint16]) -> Callable[[int, int], NDArray[np.uint16]]:
    return lambda first, last: np.ascontiguousarray(plate[first:last])


def _step(work: _Work, index: int, count: int) -> Callable[[float], None]:
    return lambda share: work.films_done((index + share) / count)


def _film_page(made: _Making, sheet: FilmSheet, progress: Callable[[float], None]) -> Page:
    width, height = (side / sheet.dpi * 72 for side in sheet.size)
    stream = packed(made.noted(sheet.rows(progress)))
    return Page(width, height, [PlacedPicture(stream, *sheet.size, sheet.bits, (0, 0, width, height), None)])
