"""Making the file: artwork through a chain into inks, films or a negative, measured as it is written."""

import hashlib
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from plinto_core.adjust.regions import Places
from plinto_core.artwork.figures import CoverageMeter
from plinto_core.artwork.opened import Artwork, Codes
from plinto_core.chain.compiled import Chain
from plinto_core.chain.library import write_whole
from plinto_core.deliver.film import FilmSettings
from plinto_core.deliver.film_out import FilmSheet
from plinto_core.deliver.hard_proof import hard_proof_page
from plinto_core.deliver.negative import NegativeLine
from plinto_core.deliver.pdf_out import Page, PlacedPicture, packed, write_pdf
from plinto_core.deliver.tiff_out import write_film_tiff, write_ink_tiff
from plinto_core.errors import Cancelled, RecipeError
from plinto_core.press.calibration import Calibration

_ASSUMED_PPI = 72.0
_JPEG_SIDE = 65500


@dataclass(frozen=True)
class Outcome:
    """What was written, measured on what was written; for a negative, the opacity of its film."""

    sha256: str
    bytes: int
    largest_percent: float
    largest_at: tuple[int, int]
    mean_percent: list[float]
    inks: tuple[str, ...]


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
    deliver = chain.recipe.deliver
    inks = ("negative",) if deliver.format == "negative" else chain.condition.model.inks
    behind = calibration_for(chain)
    depth = deliver.ink_depth
    meter = CoverageMeter(len(inks), depth)
    in_films = deliver.format in ("films", "negative")
    work = _Work(artwork, progress, cancelled, 0.4 if in_films else 1.0)
    write = _WRITERS[deliver.format]

    def codes() -> Iterator[Codes]:
        negative = NegativeLine(chain, deliver.negative.table)
        for band, places in work.bands():
            if deliver.format == "negative":
                made: Codes = negative.tones(band, places)[..., None]
            else:
                made = chain.ink_codes(band, places, depth, whole=True)
            meter.add(made)
            yield np.asarray(behind.apply_codes(made), made.dtype) if behind else made

    write_whole(out, lambda part: write(part, artwork, chain, codes(), work))
    limit = np.floor(chain.bounds[1] * meter.top + 1e-6)
    if deliver.format != "negative" and meter.largest_code_sum > limit:
        out.unlink()
        raise AssertionError(f"{meter.largest_code_sum} codes of ink where {limit:.0f} are the limit")
    return Outcome(
        file_digest(out),
        out.stat().st_size,
        meter.largest_percent,
        (meter.largest_at % artwork.width, meter.largest_at // artwork.width),
        meter.mean_percent,
        inks,
    )


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


def _written_inks(chain: Chain) -> tuple[str, ...]:
    behind = calibration_for(chain)
    return behind.printed_inks if behind else chain.condition.model.inks


def file_digest(path: Path) -> str:
    """SHA-256 of a file, hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _ppi(artwork: Artwork) -> float:
    return artwork.resolution_ppi or _ASSUMED_PPI


def _embedded(chain: Chain) -> bytes | None:
    deliver = chain.recipe.deliver
    # The profile speaks of the separation's inks; it would be wrong in a file of the printer's.
    return chain.condition.profile.raw if deliver.embed_profile and not deliver.calibrated else None


def _write_tiff(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes], work: _Work) -> None:
    deliver = chain.recipe.deliver
    kind = np.dtype(np.uint8 if deliver.depth == 8 else np.uint16)
    size = artwork.width, artwork.height
    inks = _written_inks(chain)
    write_ink_tiff(path, bands, size, kind, inks, deliver.compression, _ppi(artwork), _embedded(chain))


def _write_jpeg(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes], work: _Work) -> None:
    if chain.condition.model.inks != ("C", "M", "Y", "K"):
        inks = ", ".join(chain.condition.model.inks)
        raise RecipeError(f"JPEG holds CMYK, and this condition has the inks {inks}. Write TIFF or PDF.")
    if max(artwork.width, artwork.height) > _JPEG_SIDE:
        raise RecipeError(f"JPEG holds {_JPEG_SIDE} pixels a side, and '{artwork.name}' is larger. Write TIFF.")
    whole = np.concatenate(list(bands))
    ppi = _ppi(artwork)
    image = Image.fromarray(whole, "CMYK") if whole.ndim == 3 else Image.fromarray(whole)
    options: dict[str, Any] = {"icc_profile": profile} if (profile := _embedded(chain)) else {}
    image.save(path, "JPEG", quality=chain.recipe.deliver.jpeg_quality, subsampling=0, dpi=(ppi, ppi), **options)


def _write_pdf(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes], work: _Work) -> None:
    ppi, inks = _ppi(artwork), chain.condition.model.inks
    width, height = artwork.width / ppi * 72, artwork.height / ppi * 72
    picture = PlacedPicture(packed(bands), artwork.width, artwork.height, 8, (0, 0, width, height), inks)
    profile = chain.condition.profile if chain.recipe.deliver.embed_profile else None
    write_pdf(path, [Page(width, height, [picture])], artwork.name, chain.condition.model, profile)


def _write_films(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes], work: _Work) -> None:
    _films(
        path,
        artwork,
        _written_inks(chain),
        chain.condition.profile.name,
        bands,
        work,
        chain.recipe.deliver.film,
    )


def _write_negative(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes], work: _Work) -> None:
    _films(path, artwork, ("Negative",), "", bands, work, chain.recipe.deliver.negative.film)


def _write_hard_proof(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes], work: _Work) -> None:
    profile = chain.condition.profile if chain.recipe.deliver.embed_profile else None
    page = hard_proof_page(artwork, chain, bands)
    write_pdf(path, [page], f"Hard proof: {artwork.name}", chain.condition.model, profile)


_WRITERS: dict[str, Callable[[Path, Artwork, Chain, Iterator[Codes], _Work], None]] = {
    "tiff": _write_tiff,
    "jpeg": _write_jpeg,
    "pdf": _write_pdf,
    "films": _write_films,
    "negative": _write_negative,
    "hard-proof": _write_hard_proof,
}


def _films(
    path: Path, artwork: Artwork, inks: tuple[str, ...], condition: str, bands: Iterator[Codes], work: _Work,
    settings: FilmSettings,
) -> None:  # fmt: skip
    """Films of 16-bit plate codes; the plates lie on disk meanwhile, so that memory stays flat."""
    with tempfile.TemporaryDirectory(dir=path.parent, prefix=".films-") as folder:
        kept = np.memmap(Path(folder) / "plates", np.uint16, "w+", shape=(len(inks), artwork.height, artwork.width))
        row = 0
        for band in bands:
            kept[:, row : row + len(band)] = np.moveaxis(band, -1, 0)
            row += len(band)
        sheets = [
            FilmSheet(
                _reader(kept[index]), artwork.width, artwork.height, _ppi(artwork), ink, index,
                f"{artwork.name}   {condition}".strip(), settings,
            )
            for index, ink in enumerate(inks)
        ]  # fmt: skip
        if settings.container == "pdf":
            write_pdf(path, [_film_page(sheet, _step(work, i, len(sheets))) for i, sheet in enumerate(sheets)],
                      artwork.name, None, None)  # fmt: skip
            return
        names = []
        for index, sheet in enumerate(sheets):
            part = Path(folder) / f"{sheet.ink}.tif"
            write_film_tiff(part, sheet.rows(_step(work, index, len(sheets))), sheet.size, sheet.bits, sheet.dpi)
            names.append(part)
        if len(names) == 1:
            path.write_bytes(names[0].read_bytes())
            return
        with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
            for part in names:
                # A fixed date: the same films are the same bytes.
                archive.writestr(zipfile.ZipInfo(f"{Path(artwork.name).stem} {part.name}"), part.read_bytes())


def _reader(plate: NDArray[np.uint16]) -> Callable[[int, int], NDArray[np.uint16]]:
    return lambda first, last: np.ascontiguousarray(plate[first:last])


def _step(work: _Work, index: int, count: int) -> Callable[[float], None]:
    return lambda share: work.films_done((index + share) / count)


def _film_page(sheet: FilmSheet, progress: Callable[[float], None]) -> Page:
    width, height = (side / sheet.dpi * 72 for side in sheet.size)
    stream = packed(sheet.rows(progress))
    return Page(width, height, [PlacedPicture(stream, *sheet.size, sheet.bits, (0, 0, width, height), None)])
