"""PNG and JPEG in, decoded whole."""

import re
from collections.abc import Iterator
from typing import Any, BinaryIO

import imagecodecs
import numpy as np
from PIL import Image

from plinto_core.errors import ArtworkError
from plinto_core.icc.standard import gray_profile, rgb_profile
from plinto_core.raster.layout import Codes, Kind, Layout, band_rows, refused

#: Pillow's own limit is replaced by ours, which is checked before anything is decoded.
Image.MAX_IMAGE_PIXELS = None

_MODES: dict[str, tuple[Kind, str]] = {
    "RGB": ("rgb", "RGB"), "RGBA": ("rgb", "RGBA"), "P": ("rgb", "RGB"), "PA": ("rgb", "RGBA"), "1": ("gray", "L"),
    "L": ("gray", "L"), "LA": ("gray", "LA"), "CMYK": ("cmyk", "CMYK"),
}  # fmt: skip
#: PNG color type to Pillow-like mode, for the 16 bit that Pillow does not read in full (PNG, 11.2.2).
_DEEP = {0: "L", 2: "RGB", 4: "LA", 6: "RGBA"}
_ORIENTATION_TAG = 274
_EXIF_IFD, _INTEROPERABILITY_IFD, _COLOR_SPACE_TAG, _UNCALIBRATED = 0x8769, 0xA005, 0xA001, 0xFFFF


def single_layout(file: BinaryIO, name: str, kind: str) -> Layout:
    """Header facts of an open file, read from its start. Raises `ArtworkError` for modes Plinto does not take."""
    image = Image.open(file)
    if image.format != kind:
        raise refused(name, str(image.format))
    mode, (width, height), info = image.mode, image.size, dict(image.info)
    # Pillow decodes a whole PNG to look for its EXIF data.
    exif = _png_exif(file) if kind == "PNG" else image.getexif()
    depth, notes = 8, []
    if kind == "PNG":
        file.seek(0)
        header = file.read(26)
        if header[24] == 16:
            depth, mode = 16, _DEEP[header[25]]
    if kind == "JPEG":
        file.seek(0)
        _refuse_many_scans(file.read(), name)
    if mode not in _MODES:
        raise refused(name, mode)
    if mode in ("P", "PA"):
        notes.append("Its color table was resolved to RGB.")
        if "transparency" in info:
            mode = "PA"
    stored_inverted = mode == "CMYK" and "adobe" in info
    if stored_inverted:
        notes.append("Its CMYK was stored inverted, as is usual in JPEG, and was turned round.")
    icc = info.get("icc_profile")
    if not icc and (said := _said_space(info, exif)) and mode != "CMYK":
        notes.append(f"It has no profile, and says itself that it is {said}.")
        icc = (gray_profile() if _MODES[mode][0] == "gray" else rgb_profile(said)).raw
    dpi = info.get("dpi", (None,))[0]
    return Layout(
        kind, width, height, depth, _MODES[mode][0], mode in ("RGBA", "LA", "PA"),
        # Pillow turns every CMYK JPEG round; those that say nothing of themselves are not stored inverted.
        mode == "CMYK" and not stored_inverted,
        _orientation(exif), icc, float(dpi) if dpi else None, 1, tuple(notes),
    )  # fmt: skip


def _said_space(info: dict[Any, Any], exif: Image.Exif) -> str:
    """The RGB space that a file without a profile names: by PNG's sRGB chunk (PNG, 11.3.2.5), by EXIF's ColorSpace 1, or as
    the optional space of DCF, whose primaries are opRGB's (JEITA CP-3451, 4.6.5; CP-3461, 3.3.5)."""
    if "srgb" in info:
        return "sRGB"
    space = exif.get_ifd(_EXIF_IFD).get(_COLOR_SPACE_TAG)
    if space == _UNCALIBRATED and str(exif.get_ifd(_INTEROPERABILITY_IFD).get(1, "")).startswith("R03"):
        return "opRGB"
    return "sRGB" if space == 1 else ""


def _orientation(exif: Image.Exif) -> int:
    value = exif.get(_ORIENTATION_TAG, 1)
    return value if isinstance(value, int) and value in range(1, 9) else 1


def _png_exif(file: BinaryIO) -> Image.Exif:
    """The EXIF chunk of a PNG, which may also lie behind the picture (PNG, 11.3.2.1)."""
    exif = Image.Exif()
    file.seek(8)
    while len(head := file.read(8)) == 8:
        length, chunk = int.from_bytes(head[:4], "big"), head[4:]
        if chunk == b"eXIf":
            exif.load(file.read(length))
            break
        file.seek(length + 4, 1)
    return exif


#: Progressive JPEG of cameras and programs has about ten scans; each costs a pass over the whole picture.
_MOST_SCANS = 100
#: A marker after coded data: neither a stuffed 00, a restart (D0 to D7), nor a fill byte (ITU-T T.81, B.1.1.2).
_NEXT_MARKER = re.compile(rb"\xff[^\x00\xd0-\xd7\xff]")
_START_OF_SCAN, _END_OF_IMAGE = 0xDA, 0xD9


def _refuse_many_scans(data: bytes, name: str) -> None:
    scans = _count_scans(data)
    if scans > _MOST_SCANS:
        raise ArtworkError(
            f"'{name}' has {scans} scans where about ten are usual, and each costs a pass over the whole picture. "
            "Export it again, without the progressive option."
        )


def _count_scans(data: bytes) -> int:
    """Scans of a JPEG, from marker to marker; segments (thumbnails and profiles in them too) are passed over whole."""
    scans, at = 0, 2
    while (found := _NEXT_MARKER.search(data, at)) is not None:
        marker, at = data[found.start() + 1], found.end()
        if marker == _END_OF_IMAGE:
            break
        at += int.from_bytes(data[at : at + 2], "big")
        scans += marker == _START_OF_SCAN
    return scans


def single_bands(file: BinaryIO, name: str, layout: Layout) -> Iterator[Codes]:
    """Pixels (rows, width, samples) of an open file, top to bottom."""
    pixels: Any
    if layout.depth == 16:
        pixels = imagecodecs.png_decode(file.read())
    else:
        image = Image.open(file)
        alpha = "A" if layout.has_alpha else ""
        wanted = {"rgb": "RGB", "gray": "L", "cmyk": "CMYK"}[layout.kind] + alpha
        pixels = np.asarray(image if image.mode == wanted else image.convert(wanted))
    pixels = pixels[..., None] if pixels.ndim == 2 else pixels
    if pixels.shape[:2] != (layout.height, layout.width):
        raise ArtworkError(f"'{name}' does not have the size its header promises. Export it again.")
    rows = band_rows(layout.width)
    for top in range(0, layout.height, rows):
        yield pixels[top : top + rows]
