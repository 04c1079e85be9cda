"""A gray or 1-bit film an ink, in a ZIP of TIFFs or a PDF."""

import shutil
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.film_out import FilmPage
from plinto_core.deliver.making import Making, Work, need_inks, ppi_of
from plinto_core.deliver.pdf_out import Page, PlacedPicture, packed, write_pdf
from plinto_core.deliver.tiff_out import write_film_tiff
from plinto_core.files import reserved_map, safe_name
from plinto_core.raster.opened import Codes
from plinto_core.recipe.film import FilmSettings

SHARE = 0.4


def check(chain: Chain) -> None:
    """Inks within reach."""
    need_inks(chain)


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    write_films(path, made, made.chain.condition.profile.name, made.deliver.film)


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """Plates are measured on the way to their dots."""
    return []


def write_films(path: Path, made: Making, condition: str, settings: FilmSettings) -> None:
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
            FilmPage(
                _reader(plates[index]), artwork.width, artwork.height, ppi_of(artwork), ink, name, index,
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


def _step(work: Work, index: int, count: int) -> Callable[[float], None]:
    return lambda share: work.films_done((index + share) / count)


def _film_page(made: Making, sheet: FilmPage, progress: Callable[[float], None]) -> Page:
    width, height = (side / sheet.dpi * 72 for side in sheet.size)
    stream = packed(made.noted(sheet.rows(progress)))
    return Page(width, height, [PlacedPicture(stream, *sheet.size, sheet.bits, (0, 0, width, height), None)])
