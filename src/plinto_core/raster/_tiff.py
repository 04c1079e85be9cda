"""TIFF in (TIFF 6.0): strips, tiles, planes, pages, streamed."""

import itertools
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import tifffile

from plinto_core.errors import ArtworkError
from plinto_core.raster.layout import CHANNELS, Codes, Kind, Layout, band_rows, refused

_DECODERS = 2
_READ_BYTES = 4 << 20
_KINDS: dict[str, Kind] = {
    "RGB": "rgb", "MINISBLACK": "gray", "MINISWHITE": "gray", "SEPARATED": "cmyk", "CIELAB": "lab-signed",
    "ICCLAB": "lab-legacy", "PALETTE": "rgb", "YCBCR": "rgb",
}  # fmt: skip
_LAYERS_TAG = 37724
_INK_SET, _INK_NAMES, _NUMBER_OF_INKS = 332, 333, 334
#: Compressions whose decoders give RGB for luminance and color differences.
_AS_RGB = {tifffile.COMPRESSION.JPEG, tifffile.COMPRESSION.OJPEG, tifffile.COMPRESSION.ALT_JPEG}
_SAMPLE_FORMATS = {2: " signed", 3: " floating point", 5: " complex whole", 6: " complex"}
_MOST_SAMPLES = 32


def tiff_layout(path: Path, name: str, page_index: int) -> Layout:
    """Header facts of one page. Raises `ArtworkError` for kinds Plinto does not take."""
    with tifffile.TiffFile(path) as tiff:
        pages = len(tiff.pages)
        if not pages:
            raise ArtworkError(f"'{name}' is damaged: there is no picture in it. Export it again.")
        if page_index >= pages:
            raise ArtworkError(f"'{name}' has {pages} pages; there is no page {page_index + 1}.")
        page: Any = tiff.pages[page_index]
        photometric = page.photometric.name if isinstance(page.photometric, tifffile.PHOTOMETRIC) else "unknown"
        kind = _KINDS.get(photometric)
        _check_taken(name, page, photometric, kind)
        assert kind is not None
        if kind == "lab-legacy" and page.dtype == np.uint8:
            kind = "lab"
        notes = []
        if pages > 1:
            notes.append(f"Page {page_index + 1} of {pages} is used.")
        if _LAYERS_TAG in page.tags:
            notes.append("It has layers; their merged picture, stored beside them, is used.")
        if photometric == "PALETTE":
            notes.append("Its color table was resolved to RGB.")
        alpha = _alpha(page)
        aside = len(_extra(page)) - (alpha is not None)
        if aside:
            notes.append(
                "A channel beyond its colors, a saved selection or a spot ink, was left out."
                if aside == 1
                else f"{aside} channels beyond its colors, saved selections or spot inks, were left out."
            )
        return Layout(
            "TIFF", page.imagewidth, page.imagelength, 16 if page.dtype == np.uint16 else 8, kind, alpha is not None,
            photometric == "MINISWHITE", _orientation(page), page.iccprofile, _ppi(page), pages, tuple(notes),
            alpha is not None and _extra(page)[alpha] == tifffile.EXTRASAMPLE.ASSOCALPHA,
        )  # fmt: skip


def _check_taken(name: str, page: Any, photometric: str, kind: Kind | None) -> None:
    told = f"{page.bitspersample} bit{_SAMPLE_FORMATS.get(page.sampleformat, '')}"
    what = f"{photometric.lower()}, {page.samplesperpixel} channels of {told}"
    plain = page.dtype in (np.uint8, np.uint16) and page.bitspersample in (8, 16)
    few = page.bitspersample in (1, 2, 4) and page.samplesperpixel == 1 and kind in ("gray", "rgb")
    unpacked = photometric != "YCBCR" or page.compression in _AS_RGB
    indexed = photometric != "PALETTE" or (page.samplesperpixel == 1 and page.bitspersample <= 8)
    if kind is None or not (plain or few) or not unpacked or not indexed:
        raise refused(name, what)
    if (page.samplesperpixel < CHANNELS[kind] and photometric != "PALETTE") or page.samplesperpixel > _MOST_SAMPLES:
        raise refused(name, what)
    if kind == "cmyk":
        inks, names = _told(page, _NUMBER_OF_INKS), str(_told(page, _INK_NAMES) or "").replace("\0", ", ").strip(", ")
        named = [each.strip().lower() for each in names.split(",") if each.strip()]
        other = _told(page, _INK_SET) == 2 and named and named[:4] != ["cyan", "magenta", "yellow", "black"]
        if (isinstance(inks, int) and inks > CHANNELS[kind]) or other:
            raise refused(name, f"a separation into {inks or len(named)} inks{f' ({names})' if names else ''}")


def _told(page: Any, tag: int) -> Any:
    found = page.tags.get(tag)
    return None if found is None else found.value


def _extra(page: Any) -> tuple[int, ...]:
    """What each channel beyond the colors is (TIFF 6.0, section 18); those that nobody speaks of are unspecified."""
    kind = _KINDS[page.photometric.name]
    colors = 1 if page.photometric == tifffile.PHOTOMETRIC.PALETTE else CHANNELS[kind]
    count = page.samplesperpixel - colors
    told = tuple(int(each) for each in page.extrasamples)[:count]
    return (*told, *[int(tifffile.EXTRASAMPLE.UNSPECIFIED)] * (count - len(told)))


def _alpha(page: Any) -> int | None:
    """Which of the extra channels is transparency: a saved selection or a spot ink is none."""
    wanted = (tifffile.EXTRASAMPLE.ASSOCALPHA, tifffile.EXTRASAMPLE.UNASSALPHA)
    return next((at for at, each in enumerate(_extra(page)) if each in wanted), None)


def _orientation(page: Any) -> int:
    """The orientation tag; 1 where it says nothing that the standard knows (TIFF 6.0, section 8)."""
    tag = page.tags.get("Orientation")
    return tag.value if tag is not None and tag.value in range(1, 9) else 1


def _ppi(page: Any) -> float | None:
    unit = page.tags.get("ResolutionUnit")
    value = page.tags.get("XResolution")
    if value is None or (unit is not None and unit.value == 1):
        return None
    if not (isinstance(value.value, tuple) and len(value.value) == 2 and all(value.value)):
        return None
    numerator, denominator = value.value
    per_cm = unit is not None and unit.value == 3
    return float(numerator / denominator * (2.54 if per_cm else 1.0))


def tiff_bands(path: Path, name: str, layout: Layout, page_index: int) -> Iterator[Codes]:
    """Pixels as stored (rows, width, samples), top to bottom: colors, then alpha where there is any."""
    with tifffile.TiffFile(path) as tiff:
        page: Any = tiff.pages[page_index]
        table = None if page.photometric != tifffile.PHOTOMETRIC.PALETTE else page.colormap
        colors, alpha = page.samplesperpixel - len(_extra(page)), _alpha(page)
        wanted = [*range(colors), *([] if alpha is None else [colors + alpha])]
        whole = len(wanted) == page.samplesperpixel
        finest = (1 << page.bitspersample) - 1
    for band in _every_sample(path, name, layout, page_index):
        if table is not None:
            # Tables have 16 bit, of which programs fill eight (TIFF 6.0, section 5).
            yield np.ascontiguousarray((table.T[band[..., 0]] >> 8).astype(np.uint8))
        elif finest < 255:
            yield (band.astype(np.uint16) * 255 // finest).astype(np.uint8)
        else:
            yield band if whole else band[..., wanted]


def _every_sample(path: Path, name: str, layout: Layout, page_index: int) -> Iterator[Codes]:
    with tifffile.TiffFile(path) as tiff:
        page: Any = tiff.pages[page_index]
        flat = page.planarconfig == tifffile.PLANARCONFIG.CONTIG or page.samplesperpixel == 1
        if page.is_memmappable and flat:
            # Uncompressed: one strip may hold everything, so rows are taken from the file as they are needed.
            pixels: Any = tifffile.memmap(path, page=page_index, mode="r")
            rows = band_rows(layout.width)
            for top in range(0, layout.height, rows):
                band = np.asarray(pixels[top : top + rows])
                yield _with_samples(band.astype(pixels.dtype.newbyteorder("=")))
        elif flat:
            yield from _segment_bands(name, layout, page)
        else:
            yield np.moveaxis(page.asarray(), 0, -1)


def tiff_ink_bands(path: Path) -> Iterator[Codes]:
    """Ink codes (rows, width, inks) of the first page of a TIFF of any number of inks."""
    with tifffile.TiffFile(path) as tiff:
        page: Any = tiff.pages[0]
        layout = Layout("TIFF", page.imagewidth, page.imagelength, 8 * page.dtype.itemsize, "cmyk")
    return _every_sample(path, path.name, layout, 0)


def _with_samples(band: Codes) -> Codes:
    return band[..., None] if band.ndim == 2 else band


def _segment_bands(name: str, layout: Layout, page: Any) -> Iterator[Codes]:
    """Strips, or tiles put side by side, in rows; missing ones (a truncated file) raise."""
    for top, row in itertools.groupby(_decoded_segments(page), key=lambda found: found[1][2]):
        band: Codes | None = None
        for data, (*_, left, _sample), shape in row:
            if data is None:
                raise ArtworkError(f"'{name}' lacks the pixels around row {top}. Export it again.")
            if band is None:
                rows = min(shape[1], layout.height - top)
                band = np.empty((rows, layout.width, page.samplesperpixel), page.dtype)
            part = data[0, : len(band), : layout.width - left]
            band[: len(part), left : left + part.shape[1]] = part
        if band is not None:
            yield band


def _decoded_segments(page: Any) -> Iterator[tuple[Any, tuple[int, ...], tuple[int, ...]]]:
    """Strips or tiles in order, a few decoded ahead; tifffile's own iterator decodes as far ahead as it can."""
    file = page.parent.filehandle
    places = page.dataoffsets, page.databytecounts
    # Strips of JPEG leave what they share to the page (TIFF, Technical Note 2).
    tables = {"jpegtables": page.jpegtables, "jpegheader": page.jpegheader} if page.jpegtables is not None else {}
    with ThreadPoolExecutor(_DECODERS) as pool:
        waiting: deque[Future[Any]] = deque()
        for data, index in file.read_segments(*places, sort=False, buffersize=_READ_BYTES, flat=True):
            waiting.append(pool.submit(page.decode, data, index, **tables))
            if len(waiting) > 2 * _DECODERS:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
