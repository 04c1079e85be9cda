"""Opening artwork: what it is, told from its content, and its pixels in bands."""

import itertools
import struct
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from plinto_core.errors import ArtworkError, IccError
from plinto_core.icc.profile import Profile, parse

Codes = NDArray[np.unsignedinteger[Any]]

#: Pillow's own limit is replaced by ours, which is checked before anything is decoded.
Image.MAX_IMAGE_PIXELS = None
MAX_PIXELS = 450_000_000
BAND_ROWS = 256
_DECODERS = 2
_READ_BYTES = 4 << 20
_SIGNATURES = {
    b"\x89PNG\r\n\x1a\n": "PNG",
    b"\xff\xd8\xff": "JPEG",
    b"II*\0": "TIFF",
    b"MM\0*": "TIFF",
    b"II+\0": "TIFF",
    b"MM\0+": "TIFF",
}


@dataclass(frozen=True)
class Artwork:
    """An RGB picture that has been looked at but not decoded. `notes` says what opening it will do."""

    path: Path
    name: str
    format: str
    width: int
    height: int
    depth: int
    has_alpha: bool
    profile: Profile | None
    resolution_ppi: float | None
    notes: tuple[str, ...] = ()

    @property
    def megapixels(self) -> float:
        """Millions of pixels."""
        return self.width * self.height / 1e6

    def bands(self) -> Iterator[Codes]:
        """RGB codes in bands of rows (rows, width, 3), top to bottom, uint8 or uint16; alpha put on white.

        Raises `ArtworkError` when the pixels are not what the header promised.
        """
        rows = 0
        try:
            source = _tiff_bands(self) if self.format == "TIFF" else _decoded_bands(self)
            for band in source:
                rgb = _on_white(band) if self.has_alpha else band[..., :3]
                rows += len(rgb)
                yield np.ascontiguousarray(rgb)
        except ArtworkError:
            raise
        except _DECODE_ERRORS as error:
            raise ArtworkError(
                f"'{self.name}' is damaged after row {rows} of {self.height} ({error}). Export it again."
            ) from error
        if rows != self.height:
            raise ArtworkError(f"'{self.name}' promises {self.height} rows and has {rows}. Export it again.")


# What the decoders raise on damaged input; each library has its own.
_DECODE_ERRORS = (
    OSError, ValueError, IndexError, KeyError, struct.error, EOFError, SyntaxError, MemoryError, OverflowError,
    RuntimeError, TypeError, ZeroDivisionError, tifffile.TiffFileError, imagecodecs.PngError,
)  # fmt: skip


def open_artwork(path: Path, name: str = "", max_pixels: int = MAX_PIXELS) -> Artwork:
    """Look at a picture file; the format is told from its first bytes, not from its name.

    Raises `ArtworkError` when it is no picture Plinto takes, or larger than `max_pixels`.
    """
    name = name or path.name
    with path.open("rb") as file:
        head = file.read(8)
    kind = next((format_ for mark, format_ in _SIGNATURES.items() if head.startswith(mark)), None)
    if kind is None:
        raise ArtworkError(f"'{name}' is neither TIFF, PNG nor JPEG. Export it as one of these.")
    try:
        artwork = _open_tiff(path, name) if kind == "TIFF" else _open_pillow(path, name, kind)
    except (UnidentifiedImageError, *_DECODE_ERRORS) as error:
        raise ArtworkError(f"'{name}' is damaged: its header cannot be read ({error}). Export it again.") from error
    if artwork.width * artwork.height > max_pixels:
        raise ArtworkError(
            f"'{name}' is {artwork.width} × {artwork.height} pixels; the limit here is {max_pixels / 1e6:.0f} "
            "megapixels. Reduce it, or raise the limit."
        )
    return artwork


def _profile(data: bytes | None, name: str) -> tuple[Profile | None, tuple[str, ...]]:
    if not data:
        return None, ()
    try:
        return parse(data), ()
    except IccError as error:
        return None, (f"The embedded profile of '{name}' was set aside. {error}",)


def _kind_refused(name: str, what: str) -> ArtworkError:
    return ArtworkError(f"'{name}' is {what}; Plinto takes RGB artwork of 8 or 16 bit. Export it as RGB.")


def _open_pillow(path: Path, name: str, kind: str) -> Artwork:
    with Image.open(path) as image:
        if image.format != kind:
            raise _kind_refused(name, str(image.format))
        mode, (width, height) = image.mode, image.size
        profile, notes = _profile(image.info.get("icc_profile"), name)
        dpi = image.info.get("dpi", (None,))[0]
    depth = 8
    if kind == "PNG":
        with path.open("rb") as file:
            header = file.read(26)
        depth = 16 if header[24] == 16 else 8
        if header[25] in (0, 4):
            raise _kind_refused(name, "gray")
    if mode not in ("RGB", "RGBA", "P") and depth == 8:
        raise _kind_refused(name, mode)
    alpha = mode == "RGBA" or (depth == 16 and header[25] == 6)
    if mode == "P":
        notes += ("Its color table was resolved to RGB.",)
    if alpha:
        notes += ("Transparent parts were put on white.",)
    return Artwork(path, name, kind, width, height, depth, alpha, profile, float(dpi) if dpi else None, notes)


def _open_tiff(path: Path, name: str) -> Artwork:
    with tifffile.TiffFile(path) as tiff:
        page = tiff.pages[0]
        assert isinstance(page, tifffile.TiffPage)
        photometric = page.photometric.name if isinstance(page.photometric, tifffile.PHOTOMETRIC) else "unknown"
        if photometric != "RGB" or page.dtype not in (np.uint8, np.uint16) or page.samplesperpixel not in (3, 4):
            what = f"{photometric.lower()}, {page.samplesperpixel} channels of {page.bitspersample} bit"
            raise _kind_refused(name, what)
        profile, notes = _profile(page.iccprofile, name)
        alpha = page.samplesperpixel == 4
        if alpha:
            notes += ("Transparent parts were put on white.",)
        if len(tiff.pages) > 1:
            notes += (f"Only the first of {len(tiff.pages)} pages is used.",)
        return Artwork(
            path, name, "TIFF", page.imagewidth, page.imagelength, 8 * page.dtype.itemsize, alpha, profile,
            _tiff_ppi(page), notes,
        )  # fmt: skip


def _tiff_ppi(page: Any) -> float | None:
    unit = page.tags.get("ResolutionUnit")
    value = page.tags.get("XResolution")
    if value is None or (unit is not None and unit.value == 1):
        return None
    numerator, denominator = value.value
    if not numerator or not denominator:
        return None
    per_cm = unit is not None and unit.value == 3
    return float(numerator / denominator * (2.54 if per_cm else 1.0))


def _decoded_bands(artwork: Artwork) -> Iterator[Codes]:
    if artwork.depth == 16:
        pixels = imagecodecs.png_decode(artwork.path.read_bytes())
    else:
        with Image.open(artwork.path) as image:
            wanted = "RGBA" if artwork.has_alpha else "RGB"
            pixels = np.asarray(image if image.mode == wanted else image.convert(wanted))
    if pixels.shape[:2] != (artwork.height, artwork.width):
        raise ArtworkError(f"'{artwork.name}' does not have the size its header promises. Export it again.")
    for top in range(0, artwork.height, BAND_ROWS):
        yield pixels[top : top + BAND_ROWS]


def _tiff_bands(artwork: Artwork) -> Iterator[Codes]:
    with tifffile.TiffFile(artwork.path) as tiff:
        page = tiff.pages[0]
        assert isinstance(page, tifffile.TiffPage)
        if page.is_memmappable and page.planarconfig == tifffile.PLANARCONFIG.CONTIG:
            # Uncompressed: one strip may hold everything, so rows are taken from the file as they are needed.
            pixels: Any = tifffile.memmap(artwork.path, page=0, mode="r")
            for top in range(0, artwork.height, BAND_ROWS):
                yield np.asarray(pixels[top : top + BAND_ROWS]).astype(pixels.dtype.newbyteorder("="))
        elif page.planarconfig == tifffile.PLANARCONFIG.CONTIG:
            yield from _segment_bands(artwork, page)
        else:
            yield np.moveaxis(page.asarray(), 0, -1)


def _segment_bands(artwork: Artwork, page: Any) -> Iterator[Codes]:
    """Strips, or tiles put side by side, in rows; missing ones (a truncated file) raise."""
    for top, row in itertools.groupby(_decoded_segments(page), key=lambda found: found[1][2]):
        band: Codes | None = None
        for data, (*_, left, _sample), shape in row:
            if data is None:
                raise ArtworkError(f"'{artwork.name}' lacks the pixels around row {top}. Export it again.")
            if band is None:
                rows = min(shape[1], artwork.height - top)
                band = np.empty((rows, artwork.width, page.samplesperpixel), page.dtype)
            part = data[0, : len(band), : artwork.width - left]
            band[: len(part), left : left + part.shape[1]] = part
        if band is not None:
            yield band


def _decoded_segments(page: Any) -> Iterator[tuple[Any, tuple[int, ...], tuple[int, ...]]]:
    """Strips or tiles in order, a few decoded ahead; tifffile's own iterator decodes as far ahead as it can."""
    file = page.parent.filehandle
    places = page.dataoffsets, page.databytecounts
    with ThreadPoolExecutor(_DECODERS) as pool:
        waiting: deque[Future[Any]] = deque()
        for data, index in file.read_segments(*places, sort=False, buffersize=_READ_BYTES, flat=True):
            waiting.append(pool.submit(page.decode, data, index))
            if len(waiting) > 2 * _DECODERS:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()


def _on_white(band: Codes) -> Codes:
    top = np.iinfo(band.dtype).max
    alpha = band[..., 3:].astype(np.float32) / top
    flat = band[..., :3] * alpha + top * (1 - alpha)
    return np.rint(flat).astype(band.dtype)
