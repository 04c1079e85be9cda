"""A picture that was decoded before: its levels on the disk stand in for the file, and no decoder runs again."""

import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from plinto_core.errors import ArtworkError
from plinto_core.icc.profile import parse
from plinto_core.raster.layout import Codes, Layout, band_rows
from plinto_core.raster.opened import Artwork, Flattening

_PROFILE = "profile.icc"


@dataclass(frozen=True)
class DecodedArtwork(Artwork):
    """Artwork whose bands come from the whole picture in `levels`, upright and flattened already."""

    levels: Path = Path()

    def bands(self) -> Iterator[Codes]:
        """Codes in bands of rows, as the file's decoder gave them. Raises `ArtworkError` where they are gone."""
        return self.rows(0, self.height)

    def rows(self, first: int, last: int) -> Iterator[Codes]:
        """The same of some rows; the others are not looked at."""
        try:
            whole = np.load(self.levels / "0.npy", mmap_mode="r")
        except FileNotFoundError as error:
            raise ArtworkError(f"The pixels of '{self.name}' were cleared away meanwhile. Try again.") from error
        rows = band_rows(self.width)
        for top in range(first, last, rows):
            yield np.ascontiguousarray(whole[top : min(top + rows, last)])


def described(artwork: Artwork, folder: Path) -> dict[str, Any]:
    """What `decoded_artwork` has to know of artwork whose levels lie in `folder`; its profile is put beside them."""
    if artwork.profile is not None:
        (folder / _PROFILE).write_bytes(artwork.profile.raw)
    # Its levels are upright, and what was transparent lies on the ground.
    layout = replace(
        artwork.layout, width=artwork.width, height=artwork.height, orientation=1, inverted=False, icc=None
    )
    flattening = {"page": artwork.flattening.page, "ground": artwork.flattening.ground}
    return {"layout": asdict(layout), "flattening": flattening, "notes": artwork.notes}


def decoded_artwork(folder: Path, path: Path, name: str) -> DecodedArtwork:
    """The artwork whose levels lie in `folder`; `path` is the file that they were decoded from, which is not opened."""
    plain = json.loads((folder / "levels.json").read_text())
    profile = folder / _PROFILE
    page, (red, green, blue) = plain["flattening"]["page"], plain["flattening"]["ground"]
    return DecodedArtwork(
        path,
        name,
        Layout(**plain["layout"] | {"notes": tuple(plain["layout"]["notes"])}),
        Flattening(page, (red, green, blue)),
        parse(profile.read_bytes()) if profile.exists() else None,
        tuple(plain["notes"]),
        folder,
    )
