"""Opening artwork: what it is, told from its content, and its pixels in bands."""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from PIL import UnidentifiedImageError

from plinto_core.errors import ArtworkError, IccError
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import gray_as_rgb, rgb_profile
from plinto_core.raster._open_raster import SIGNATURE, open_raster_bands, open_raster_layout
from plinto_core.raster._single import single_bands, single_layout
from plinto_core.raster._tiff import tiff_bands, tiff_layout
from plinto_core.raster.flatten import swaps_sides, to_codes, upright
from plinto_core.raster.layout import BAND_ROWS, DECODE_ERRORS, MAX_SIDE, Codes, Layout, band_rows, in_strips

__all__ = ["BAND_ROWS", "Artwork", "Codes", "Flattening", "open_artwork"]

MAX_PIXELS = 450_000_000
_SIGNATURES = {
    b"\x89PNG\r\n\x1a\n": "PNG",
    b"\xff\xd8\xff": "JPEG",
    b"II*\0": "TIFF",
    b"MM\0*": "TIFF",
    b"II+\0": "TIFF",
    b"MM\0+": "TIFF",
}
_STORED = {"rgb": "RGB", "gray": "gray", "cmyk": "CMYK"}


@dataclass(frozen=True)
class Flattening:
    """How a file with more than one picture in it becomes one: page of a TIFF from 0, ground under transparency."""

    page: int = 0
    ground: tuple[float, float, float] = (1.0, 1.0, 1.0)

    def __post_init__(self) -> None:
        if not 0 <= self.page < 10_000 or not all(0 <= value <= 1 for value in self.ground):
            raise ArtworkError("A page counts from 0, and a ground color is three values from 0 to 1.")


@dataclass(frozen=True)
class Artwork:
    """A picture that has been looked at but not decoded. `notes` says what opening it will do.

    `space` is what its bands are in: gray and Lab artwork is handed on as RGB (see `flatten`). `profile`
    describes these bands, or is None where nothing usable is embedded.
    """

    path: Path
    name: str
    layout: Layout
    flattening: Flattening
    profile: Profile | None
    notes: tuple[str, ...] = ()

    @property
    def space(self) -> Literal["RGB", "CMYK"]:
        """What the bands are in."""
        return "CMYK" if self.layout.kind == "cmyk" else "RGB"

    @property
    def channels(self) -> int:
        """Channels of the bands."""
        return 4 if self.space == "CMYK" else 3

    @property
    def stored_as(self) -> str:
        """What the file itself is in: RGB, gray, CMYK or Lab."""
        return _STORED.get(self.layout.kind, "Lab")

    @property
    def format(self) -> str:
        """TIFF, PNG, JPEG or OpenRaster."""
        return self.layout.format

    @property
    def width(self) -> int:
        """Pixels across, upright."""
        return self.layout.height if swaps_sides(self.layout.orientation) else self.layout.width

    @property
    def height(self) -> int:
        """Pixels down, upright."""
        return self.layout.width if swaps_sides(self.layout.orientation) else self.layout.height

    @property
    def depth(self) -> int:
        """Bits of a code of the bands: 8 or 16."""
        return 16 if self.stored_as == "Lab" else self.layout.depth

    @property
    def has_alpha(self) -> bool:
        """Whether there is transparency to be put on the ground."""
        return self.layout.has_alpha

    @property
    def resolution_ppi(self) -> float | None:
        """Pixels an inch, as the file says."""
        return self.layout.resolution_ppi

    @property
    def megapixels(self) -> float:
        """Millions of pixels."""
        return self.width * self.height / 1e6

    def bands(self) -> Iterator[Codes]:
        """Codes in bands of rows (rows, width, channels), top to bottom, uint8 or uint16.

        Raises `ArtworkError` when the pixels are not what the header promised.
        """
        if self.layout.orientation in range(2, 9):
            whole = upright(np.concatenate(list(self._stored_bands())), self.layout.orientation)
            rows = band_rows(self.width)
            for top in range(0, self.height, rows):
                yield to_codes(whole[top : top + rows], self.layout, self.flattening.ground)
            return
        # Most files come in strips of a few rows, with which the kernels would be started more often than they work.
        for band in in_strips(self._stored_bands(), band_rows(self.width)):
            yield to_codes(band, self.layout, self.flattening.ground)

    def rows(self, first: int, last: int) -> Iterator[Codes]:
        """Bands of the rows from `first` to before `last` alone, as `bands` gives them."""
        top = 0
        for band in self.bands():
            if top >= last:
                return
            if (part := band[max(first - top, 0) : last - top]).size:
                yield part
            top += len(band)

    def _stored_bands(self) -> Iterator[Codes]:
        rows = 0
        try:
            for band in self._source():
                rows += len(band)
                yield band
        except ArtworkError:
            raise
        except DECODE_ERRORS as error:
            raise ArtworkError(
                f"'{self.name}' is damaged after row {rows} of {self.layout.height} ({_told(error, self.path)}). "
                "Export it again."
            ) from error
        if rows != self.layout.height:
            raise ArtworkError(f"'{self.name}' promises {self.layout.height} rows and has {rows}. Export it again.")

    def _source(self) -> Iterator[Codes]:
        if self.format == "TIFF":
            return tiff_bands(self.path, self.name, self.layout, self.flattening.page)
        if self.format == "OpenRaster":
            return open_raster_bands(self.path, self.name, self.layout)
        return self._single()

    def _single(self) -> Iterator[Codes]:
        with self.path.open("rb") as file:
            yield from single_bands(file, self.name, self.layout)


def open_artwork(
    path: Path, name: str = "", max_pixels: int = MAX_PIXELS, flattening: Flattening = Flattening()
) -> Artwork:
    """Look at a picture file; the format is told from its first bytes, not from its name.

    Raises `ArtworkError` when it is no picture Plinto takes, or larger than `max_pixels`.
    """
    name = name or path.name
    with path.open("rb") as file:
        head = file.read(64)
    kind = next((format_ for mark, format_ in _SIGNATURES.items() if head.startswith(mark)), None)
    # A ZIP entry's name stands 30 bytes behind its mark (APPNOTE, 4.3.7), its stored content after that.
    if head.startswith(b"PK\3\4") and head[30:].startswith(SIGNATURE):
        kind = "OpenRaster"
    if kind is None:
        raise ArtworkError(f"'{name}' is neither TIFF, PNG, JPEG nor OpenRaster. Export it as one of these.")
    try:
        if kind == "TIFF":
            layout = tiff_layout(path, name, flattening.page)
        elif kind == "OpenRaster":
            layout = open_raster_layout(path, name)
        else:
            with path.open("rb") as file:
                layout = single_layout(file, name, kind)
    except (UnidentifiedImageError, *DECODE_ERRORS) as error:
        raise ArtworkError(
            f"'{name}' is damaged: its header cannot be read ({_told(error, path)}). Export it again."
        ) from error
    if layout.width < 1 or layout.height < 1:
        raise ArtworkError(f"'{name}' is {layout.width} × {layout.height} pixels: there is no picture in it.")
    if max(layout.width, layout.height) > MAX_SIDE:
        raise ArtworkError(
            f"'{name}' is {layout.width} × {layout.height} pixels; no side may be longer than {MAX_SIDE}. Cut it."
        )
    if layout.width * layout.height > max_pixels:
        raise ArtworkError(
            f"'{name}' is {layout.width} × {layout.height} pixels; the limit here is {max_pixels / 1e6:.0f} "
            "megapixels. Reduce it, or raise the limit."
        )
    profile, said = _profile(layout, name)
    return Artwork(
        path, name, layout, flattening, profile, (*layout.notes, *said, *_flattening_notes(layout, flattening))
    )


def _told(error: BaseException, path: Path) -> str:
    """What a library said, without where the file lies on this machine."""
    return str(error).replace(str(path), "it")


def _flattening_notes(layout: Layout, flattening: Flattening) -> tuple[str, ...]:
    notes = []
    if layout.has_alpha:
        white = flattening.ground == (1.0, 1.0, 1.0)
        ground = "white" if white else "#" + "".join(f"{round(v * 255):02x}" for v in flattening.ground)
        notes.append(f"Transparent parts were put on {'bare substrate' if layout.kind == 'cmyk' else ground}.")
    if layout.orientation in range(2, 9):
        notes.append("It was turned upright, as its EXIF orientation says.")
    if layout.kind.startswith("lab"):
        notes.append("Its Lab numbers are handed on as ROMM RGB of 16 bit, which holds every surface color.")
    return tuple(notes)


_SPACES = {"rgb": "RGB ", "gray": "GRAY", "cmyk": "CMYK"}


def _profile(layout: Layout, name: str) -> tuple[Profile | None, tuple[str, ...]]:
    """The profile of the bands, and what was set aside."""
    if layout.kind.startswith("lab"):
        return rgb_profile("ROMM"), ()
    if not layout.icc:
        return None, ()
    try:
        found = parse(layout.icc)
        if found.header.space != _SPACES[layout.kind]:
            says = f"It describes {found.header.space.strip()}, and the picture is {_STORED[layout.kind]}."
            return None, (f"The embedded profile '{found.name}' of '{name}' was set aside. {says}",)
        return gray_as_rgb(found) if layout.kind == "gray" else found, ()
    except IccError as error:
        return None, (f"The embedded profile of '{name}' was set aside. {error}",)
