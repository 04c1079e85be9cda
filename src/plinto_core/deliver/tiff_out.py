"""Inks as TIFF, streamed (TIFF 6.0, section 16)."""

from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile

from plinto_core import __version__
from plinto_core.raster.layout import Codes, in_strips

_COMPRESSION = {"none": None, "lzw": "lzw", "deflate": "zlib"}
#: Names of the ink set that TIFF knows by a number.
CMYK = ("Cyan", "Magenta", "Yellow", "Black")
#: Channels of a printer driven by RGB, which are no inks to a file.
RGB = ("R", "G", "B")
_STRIP_BYTES = 1 << 20
_ENCODERS = 2


def strip_rows(size: tuple[int, int], kind: np.dtype[Any], inks: int) -> int:
    """Rows of a strip in a TIFF of `size` (width, height)."""
    width, height = size
    return max(1, min(height, _STRIP_BYTES // (width * inks * kind.itemsize)))


def encoded_strips(
    bands: Iterator[Codes], size: tuple[int, int], kind: np.dtype[Any], inks: int, compression: str
) -> Iterator[bytes]:
    """Bands of codes (rows, width, inks) of `kind`, beginning with a strip, as the strips that stand in the file; each is
    encoded by itself, whatever stands before it."""
    return _encoded(in_strips(bands, strip_rows(size, kind, inks)), compression)


def write_ink_tiff(
    path: Path, strips: Iterator[bytes], size: tuple[int, int], kind: np.dtype[Any], inks: tuple[str, ...],
    compression: str, ppi: float, profile: bytes | None,
) -> None:  # fmt: skip
    """`encoded_strips` of codes of `kind` to a TIFF of `size` (width, height); `inks` by their names, or `RGB`."""
    width, height = size
    rows = strip_rows(size, kind, len(inks))
    # InkSet 1 is CMYK; other sets name their inks.
    cmyk, rgb = inks == CMYK, inks == RGB
    extra: list[tuple[int, int, int, Any, bool]] = [] if rgb else [(332, 3, 1, 1 if cmyk else 2, True)]
    if not cmyk and not rgb:
        names = ("\0".join(inks) + "\0").encode()
        extra += [(333, 2, len(names), names, True), (334, 3, 1, len(inks), True)]
    with tifffile.TiffWriter(path, bigtiff=width * height * len(inks) * kind.itemsize > 3.9e9) as tiff:
        tiff.write(
            strips,
            shape=(height, width) if len(inks) == 1 else (height, width, len(inks)),
            dtype=kind,
            photometric="separated" if cmyk else "rgb" if rgb else "minisblack",
            planarconfig="contig" if len(inks) > 1 else None,
            extrasamples=None if cmyk or rgb or len(inks) == 1 else ["unspecified"] * (len(inks) - 1),
            rowsperstrip=rows,
            compression=_COMPRESSION[compression],
            predictor=compression != "none",
            resolution=(ppi, ppi),
            resolutionunit="inch",
            iccprofile=profile,
            software=f"Plinto {__version__}",
            extratags=extra,
            metadata=None,
        )
    if not cmyk and not rgb:
        _call_separated(path)


def _call_separated(path: Path) -> None:
    """Turn gray with further samples into so many inks: the writer knows separated pictures of four samples only."""
    with tifffile.TiffFile(path, mode="r+") as tiff:
        page: Any = tiff.pages[0]
        page.tags["PhotometricInterpretation"].overwrite(int(tifffile.PHOTOMETRIC.SEPARATED))
        found = page.tags.get("ExtraSamples")
        if found is None:
            return
        order, big = tiff.byteorder, tiff.is_bigtiff
        count_size, entry_size = (8, 20) if big else (2, 12)
        first = page.offset + count_size
        count = len(page.tags)
    with path.open("r+b") as file:
        # The directory without that entry: what stands behind it, and where the next directory is, moves up.
        begin = first + entry_size * ((found.offset - first) // entry_size)
        file.seek(begin + entry_size)
        rest = file.read(first + entry_size * count + (8 if big else 4) - begin - entry_size)
        file.seek(begin)
        file.write(rest)
        file.seek(page.offset)
        file.write((count - 1).to_bytes(count_size, "little" if order == "<" else "big"))


def write_film_tiff(path: Path, bands: Iterator[Codes], size: tuple[int, int], bits: int, dpi: float) -> None:
    """Bands of film rows to a gray TIFF: bytes packed from bits (1 is opaque), or gray (255 is opaque)."""
    width, height = size
    packed = (width + 7) // 8 if bits == 1 else width
    rows = max(1, min(height, _STRIP_BYTES // packed))

    def encoded() -> Iterator[bytes]:
        for strip in in_strips(bands, rows):
            yield bytes(imagecodecs.zlib_encode(strip.tobytes(), level=3))

    with tifffile.TiffWriter(path) as tiff:
        tiff.write(
            encoded(), shape=(height, width), dtype=np.dtype(np.uint8) if bits == 8 else np.dtype(bool),
            photometric="miniswhite", rowsperstrip=rows, compression="zlib", predictor=False,
            resolution=(dpi, dpi), resolutionunit="inch", software=f"Plinto {__version__}", metadata=None,
        )  # fmt: skip


def _encoded(strips: Iterator[Codes], compression: str) -> Iterator[bytes]:
    """Strips as the bytes that stand in the file, a few of them in the making at a time, in order."""

    def encode(strip: Codes) -> bytes:
        if compression == "none":
            return strip.tobytes()
        # Predictor 2: differences to the left neighbor (TIFF 6.0, section 14).
        differences = imagecodecs.delta_encode(strip, axis=1).tobytes()
        pack = imagecodecs.lzw_encode if compression == "lzw" else imagecodecs.zlib_encode
        return bytes(pack(differences))

    with ThreadPoolExecutor(_ENCODERS) as pool:
        waiting: deque[Future[bytes]] = deque()
        for strip in strips:
            waiting.append(pool.submit(encode, strip))
            if len(waiting) > _ENCODERS:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
