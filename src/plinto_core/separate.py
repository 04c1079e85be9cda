"""Making the file: artwork through a chain into a TIFF of inks, with a run sheet that says how."""

import hashlib
import platform
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from importlib.metadata import version
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile

from plinto_core import __version__
from plinto_core.artwork.figures import CoverageMeter
from plinto_core.artwork.opened import Artwork, Codes
from plinto_core.chain.compiled import Chain
from plinto_core.chain.library import write_whole
from plinto_core.errors import Cancelled

_COMPRESSION = {"none": None, "lzw": "lzw", "deflate": "zlib"}
_STRIP_BYTES = 1 << 20
_ENCODERS = 2


@dataclass(frozen=True)
class Outcome:
    """What was written, measured on what was written."""

    sha256: str
    bytes: int
    largest_percent: float
    largest_at: tuple[int, int]
    mean_percent: list[float]


def separate(
    artwork: Artwork,
    chain: Chain,
    out: Path,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Outcome:
    """Write `artwork` as ink codes to the TIFF `out`, in bands. It appears whole or not at all.

    Raises `Cancelled`, `ArtworkError`, or OSError when the disk is full; nothing is left behind then.
    """
    depth = chain.recipe.deliver.depth
    meter = CoverageMeter(len(chain.condition.model.inks), depth)

    def inks() -> Iterator[Codes]:
        done = 0
        for band in artwork.bands():
            if cancelled():
                raise Cancelled(f"'{artwork.name}' was stopped after {done} of {artwork.height} rows.")
            codes = chain.link.inks_of(band, depth)
            meter.add(codes)
            yield codes
            done += len(band)
            progress(done / artwork.height)

    write_whole(out, lambda part: _write_tiff(part, artwork, chain, inks()))
    limit = np.floor(chain.link.total * meter.top + 1e-6)
    if meter.largest_code_sum > limit:
        out.unlink()
        raise AssertionError(f"{meter.largest_code_sum} codes of ink where {limit:.0f} are the limit")
    return Outcome(
        file_digest(out),
        out.stat().st_size,
        meter.largest_percent,
        (meter.largest_at % artwork.width, meter.largest_at // artwork.width),
        meter.mean_percent,
    )


def file_digest(path: Path) -> str:
    """SHA-256 of a file, hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _write_tiff(path: Path, artwork: Artwork, chain: Chain, bands: Iterator[Codes]) -> None:
    deliver = chain.recipe.deliver
    kind = np.dtype(np.uint8 if deliver.depth == 8 else np.uint16)
    inks = chain.condition.model.inks
    rows = max(1, min(artwork.height, _STRIP_BYTES // (artwork.width * len(inks) * kind.itemsize)))
    ppi = artwork.resolution_ppi or 72.0
    # InkSet 1 is CMYK; other sets name their inks (TIFF 6.0, section 16).
    extra: list[tuple[int, int, int, Any, bool]] = [(332, 3, 1, 1 if inks == ("C", "M", "Y", "K") else 2, True)]
    if inks != ("C", "M", "Y", "K"):
        names = "\0".join(inks) + "\0"
        extra += [(333, 2, len(names), names, True), (334, 3, 1, len(inks), True)]
    with tifffile.TiffWriter(
        path, bigtiff=artwork.width * artwork.height * len(inks) * kind.itemsize > 3.9e9
    ) as tiff:
        tiff.write(
            _encoded(_strips(bands, rows), deliver.compression),
            shape=(artwork.height, artwork.width, len(inks)),
            dtype=kind,
            photometric="separated",
            planarconfig="contig",
            rowsperstrip=rows,
            compression=_COMPRESSION[deliver.compression],
            predictor=deliver.compression != "none",
            resolution=(ppi, ppi),
            resolutionunit="inch",
            iccprofile=chain.condition.profile.raw if deliver.embed_profile else None,
            software=f"Plinto {__version__}",
            extratags=extra,
            metadata=None,
        )


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


def _strips(bands: Iterator[Codes], rows: int) -> Iterator[Codes]:
    """Bands of any height cut and joined to strips of `rows`; the last one may be shorter."""
    held: list[Codes] = []
    count = 0
    for band in bands:
        held.append(band)
        count += len(band)
        while count >= rows:
            joined = np.concatenate(held) if len(held) > 1 else held[0]
            yield np.ascontiguousarray(joined[:rows])
            held, count = [joined[rows:]], count - rows
    if count:
        yield np.concatenate(held)


def run_sheet(artwork: Artwork, artwork_sha256: str, chain: Chain, outcome: Outcome, name: str) -> dict[str, Any]:
    """How the file was made, completely: with it and the profiles it names, the same bytes can be made again."""
    source, target = chain.source.profile, chain.condition.profile
    return {
        "run_sheet": 1,
        "written": {"name": name, "sha256": outcome.sha256, "bytes": outcome.bytes},
        "artwork": {
            "name": artwork.name,
            "sha256": artwork_sha256,
            "format": artwork.format,
            "width": artwork.width,
            "height": artwork.height,
            "depth": artwork.depth,
            "resolution_ppi": artwork.resolution_ppi,
            "notes": list(artwork.notes),
        },
        "source_profile": {"name": source.name, "sha256": source.digest},
        "condition": {
            "name": target.name,
            "sha256": target.digest,
            "inks": list(chain.condition.model.inks),
            "profile_embedded": chain.recipe.deliver.embed_profile,
        },
        "recipe": chain.recipe.to_json(),
        "recipe_digest": chain.recipe.digest,
        "link_digest": chain.link.digest,
        "black_point_lab": [round(float(v), 3) for v in chain.inverse.black_point_lab] if chain.rebuilt else None,
        "total_ink_limit_percent": chain.recipe.ink.limits.total_percent if chain.rebuilt else None,
        "largest_coverage_percent": round(outcome.largest_percent, 3),
        "largest_coverage_at": list(outcome.largest_at),
        "mean_coverage_percent": dict(
            zip(chain.condition.model.inks, (round(v, 3) for v in outcome.mean_percent), strict=True)
        ),
        "versions": {
            "plinto": __version__,
            "python": platform.python_version(),
            **{part: version(part) for part in ("numpy", "scipy", "numba", "imagecodecs", "tifffile")},
        },
    }
