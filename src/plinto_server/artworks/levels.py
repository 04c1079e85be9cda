"""A picture's levels on the disk: built in the sandbox, in a folder of one's own, then put in place whole."""

import contextlib
import hashlib
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings

from plinto_core.raster.decoded import DecodedArtwork, decoded_artwork
from plinto_core.sandbox.client import Limits, sandbox
from plinto_server.artworks.models import Artwork
from plinto_server.files import space, store
from plinto_server.files.processes import tag

#: A picture with all its smaller levels is a third larger than the largest of them.
_ALL_LEVELS = 4 / 3
#: Levels of another version are not found, and built again. Version 1 did not say what picture they are of.
_LEVELS_VERSION = 2


def levels_bytes(facts: dict[str, Any]) -> int:
    """Bytes that a picture's levels take on the disk."""
    channels = 4 if facts["space"] == "CMYK" else 3
    width, height, depth = int(facts["width"]), int(facts["height"]), int(facts["depth"])
    return round(width * height * channels * (depth // 8) * _ALL_LEVELS)


def levels_folder(pixels_sha256: str, page: int, ground: list[float]) -> Path:
    """Where the levels of one reading of a file lie, whether they are there or not."""
    reading = hashlib.sha256(f"{_LEVELS_VERSION} {page} {ground}".encode()).hexdigest()[:12]
    return store.derived_folder(pixels_sha256) / f"levels-{reading}"


def decode(
    path: Path, name: str, facts: dict[str, Any], folder: Path,
    progress: Callable[[float], None] = lambda share: None, cancelled: Callable[[], bool] = lambda: False,
) -> None:  # fmt: skip
    """Decode a picture file with these `facts` into `folder`. Raises `PlintoError`, or OSError for a full disk."""
    channels = 4 if facts["space"] == "CMYK" else 3
    limits = Limits.for_picture(facts["width"], facts["height"], channels, facts["depth"])
    given = {
        "path": str(path), "name": name, "folder": str(folder), "page": facts["page"],
        "ground": list(facts["ground"]) or [1.0, 1.0, 1.0], "max_pixels": round(settings.MAX_MEGAPIXELS * 1_000_000),
    }  # fmt: skip
    sandbox.run("levels", given, name, limits, cancelled, progress)


def place(built: Path, pixels_sha256: str, facts: dict[str, Any]) -> Path:
    """Put built levels where they are looked for; whoever comes second finds them there and drops his own."""
    target = levels_folder(pixels_sha256, facts["page"], list(facts["ground"]))
    target.parent.mkdir(parents=True, exist_ok=True)
    with contextlib.suppress(OSError):
        # A folder is only replaced by a rename while it is empty: the first one stays.
        built.rename(target)
    shutil.rmtree(built, ignore_errors=True)
    return target


def opened(artwork: Artwork) -> DecodedArtwork:
    """The version in force, as its levels hold it: what reads the file itself runs in the sandbox."""
    return decoded_artwork(levels_of(artwork), store.path_of(artwork.pixels_sha256), artwork.name)


def levels_of(artwork: Artwork) -> Path:
    """The levels of the version in force, built again if they were cleared away."""
    folder = levels_folder(artwork.pixels_sha256, artwork.page, artwork.ground)
    if (folder / "levels.json").exists():
        (folder / "levels.json").touch()
        return folder
    facts = {name: getattr(artwork, name) for name in ("space", "width", "height", "depth", "page", "ground")}
    space.room_for(levels_bytes(facts), artwork.name)
    parent = store.derived_folder(artwork.pixels_sha256)
    parent.mkdir(parents=True, exist_ok=True)
    own = Path(tempfile.mkdtemp(dir=parent, prefix=f"{tag()}levels-"))
    try:
        decode(store.path_of(artwork.pixels_sha256), artwork.name, facts, own / "levels")
        return place(own / "levels", artwork.pixels_sha256, facts)
    finally:
        shutil.rmtree(own, ignore_errors=True)
