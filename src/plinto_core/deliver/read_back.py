"""Inks of a file as anybody else would read them, to be measured: decoded from what was written."""

import hashlib
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

Codes = NDArray[np.unsignedinteger[Any]]

_INFLATE_BYTES = 4 << 20


def page_bands(path: Path, inks: int) -> Iterator[Codes]:
    """Ink codes of the artwork on a PDF page made here, as one column (pixels, 1, inks) in the order of its rows."""
    return _pdf_bands(path, inks, slice(0, 1))


def jpeg_codes(path: Path) -> NDArray[np.uint8]:
    """Ink codes (h, w, 4) of a CMYK JPEG, full ink 255 whichever way round they are stored, or R, G, B (h, w, 3)."""
    with Image.open(path) as image:
        return np.asarray(image)


def beside_bands(path: Path, inks: int) -> Iterator[Codes]:
    """Ink codes of what else a PDF page made here prints: control strip and gray ramp of a hard proof."""
    return _pdf_bands(path, inks, slice(1, None))


def film_digests(path: Path) -> list[bytes]:
    """SHA-256 of the rows of each film in a ZIP of TIFFs, a TIFF or a PDF made here: packed bits, or gray bytes."""
    with path.open("rb") as file:
        kind = file.read(4)
    if kind == b"%PDF":
        import pikepdf

        with pikepdf.open(path) as pdf:
            return [
                _digest(_inflated(bytes(image.read_raw_bytes())))
                for page in pdf.pages
                for image in page.get_images().values()
            ]
    if kind == b"PK\x03\x04":
        with zipfile.ZipFile(path) as archive:
            found = []
            for name in archive.namelist():
                with archive.open(name) as film:
                    found.append(_film_digest(film))
            return found
    with path.open("rb") as film:
        return [_film_digest(film)]


def _film_digest(file: Any) -> bytes:
    with tifffile.TiffFile(file) as tiff:
        page: Any = tiff.pages[0]
        handle = tiff.filehandle

        def strips() -> Iterator[bytes]:
            for offset, count in zip(page.dataoffsets, page.databytecounts, strict=True):
                handle.seek(offset)
                yield zlib.decompress(handle.read(count))

        return _digest(strips())


def _digest(pieces: Iterator[bytes]) -> bytes:
    digest = hashlib.sha256()
    for piece in pieces:
        digest.update(piece)
    return digest.digest()


def _pdf_bands(path: Path, inks: int, which: slice) -> Iterator[Codes]:
    """Pictures of inks on the pages, in the order in which they were placed."""
    # For PDF alone: other formats do without what takes a tenth of a second to load.
    import pikepdf

    with pikepdf.open(path) as pdf:
        for page in pdf.pages:
            named = sorted(page.get_images().items(), key=lambda each: int("".join(filter(str.isdigit, each[0]))))
            for _, image in named[which]:
                if int(image.BitsPerComponent) != 8 or image.get("/ColorSpace") == pikepdf.Name.DeviceGray:
                    continue
                yield from _pixels(bytes(image.read_raw_bytes()), inks)


def _pixels(stream: bytes, inks: int) -> Iterator[Codes]:
    rest = b""
    for piece in _inflated(stream):
        data = rest + piece
        whole = len(data) // inks * inks
        if whole:
            yield np.frombuffer(data[:whole], np.uint8).reshape(-1, 1, inks)
        rest = data[whole:]


def _inflated(stream: bytes) -> Iterator[bytes]:
    """A deflated stream in pieces."""
    inflate, piece = zlib.decompressobj(), stream
    while piece:
        yield inflate.decompress(piece, _INFLATE_BYTES)
        piece = inflate.unconsumed_tail
    yield inflate.flush()
