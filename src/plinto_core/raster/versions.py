"""New versions of artwork: the same numbers under another profile, or other numbers for the same colors."""

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import tifffile

from plinto_core import __version__
from plinto_core.errors import RecipeError
from plinto_core.files import write_whole
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.raster.layout import in_strips
from plinto_core.raster.opened import Artwork, Codes


def write_assigned(artwork: Artwork, profile: Profile | None, out: Path) -> None:
    """A TIFF of the artwork's numbers as they are, with `profile` embedded, or none. Colors change, numbers do not."""
    if profile is not None:
        _must_fit(artwork, profile)
    _write(artwork, artwork.bands(), artwork.depth, profile, out)


def write_converted(
    artwork: Artwork, source: Profile, target: Profile, out: Path, intent: str = "relative", *, bpc: bool = True,
    progress: Callable[[float], None] = lambda share: None,
) -> None:  # fmt: skip
    """A 16-bit TIFF of the same colors in `target`'s numbers. Numbers change, colors do not, as far as it reaches.

    `progress` hears the share (0…1) that is converted, and may raise `Cancelled`: nothing is left behind then.
    """
    _must_fit(artwork, source)
    if target.header.channels not in (3, 4):
        raise RecipeError(f"'{target.name}' is no space for artwork; choose an RGB or a CMYK profile.")

    def bands() -> Iterator[Codes]:
        done = 0
        for band in artwork.bands():
            done += len(band)
            progress(done / artwork.height)
            flat = band.reshape(-1, band.shape[-1])
            made = cmm.convert_codes(source, target, flat, np.dtype(np.uint16), intent, bpc)
            yield made.reshape(*band.shape[:-1], -1)

    _write(artwork, bands(), 16, target, out)


def _must_fit(artwork: Artwork, profile: Profile) -> None:
    if profile.header.space.strip() != artwork.space:
        raise RecipeError(
            f"'{profile.name}' describes {profile.header.space.strip()}, and '{artwork.name}' is {artwork.space}: "
            f"choose a profile for {artwork.space}."
        )


def _write(artwork: Artwork, bands: Iterator[Codes], depth: int, profile: Profile | None, out: Path) -> None:
    channels = profile.header.channels if profile else artwork.channels
    kind = np.dtype(np.uint8 if depth == 8 else np.uint16)
    rows = max(1, (1 << 20) // (artwork.width * channels * kind.itemsize))
    ppi = artwork.resolution_ppi

    def strips() -> Iterator[Codes]:
        for band in in_strips(bands, rows):
            yield np.ascontiguousarray(band)

    def write(part: Path) -> None:
        tifffile.imwrite(
            part, strips(), shape=(artwork.height, artwork.width, channels), dtype=kind,
            photometric="separated" if channels == 4 else "rgb", rowsperstrip=rows, metadata=None,
            bigtiff=artwork.width * artwork.height * channels * kind.itemsize > 3.9e9,
            resolution=(ppi, ppi) if ppi else None, resolutionunit="inch" if ppi else None,
            iccprofile=profile.raw if profile else None, software=f"Plinto {__version__}",
        )  # fmt: skip

    write_whole(out, write)
