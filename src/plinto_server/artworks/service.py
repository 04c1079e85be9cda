"""Taking artwork in, and finding it again."""

import hashlib
import shutil
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction

from plinto_core.artwork.opened import open_artwork
from plinto_core.artwork.pyramid import build_pyramid
from plinto_core.errors import ArtworkError, PlintoError
from plinto_server import store
from plinto_server.artworks import versions
from plinto_server.artworks.models import Artwork
from plinto_server.errors import ConflictError, MissingError, TooLargeError
from plinto_server.runs.models import Run


def clean_name(name: str) -> str:
    """A name fit for showing and for file names: no paths, no control characters, at most 120 characters."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    kept = "".join(c for c in last if c.isprintable()).strip()
    stem, dot, ending = kept.rpartition(".")
    return f"{stem[:110]}{dot}{ending[:9]}" if dot else kept[:120] or "artwork"


def take_in(upload: "UploadedFile[bytes]", user: User | None) -> Artwork:
    """Store an upload, decode it once, enter it, and apply the house rules. Raises `PlintoError`; nothing is kept then."""
    name = clean_name(upload.name or "artwork")
    if upload.size is not None and upload.size > settings.MAX_UPLOAD_BYTES:
        raise TooLargeError(
            f"'{name}' has {upload.size >> 20} MB; the limit is {settings.MAX_UPLOAD_BYTES >> 20} MB."
        )
    if not upload.size:
        raise ArtworkError(f"'{name}' is empty. Export it again.")
    sha256 = store.keep_chunks(upload.chunks(1 << 20))
    if (known := Artwork.objects.filter(sha256=sha256).first()) is not None:
        return known
    try:
        artwork = _enter(name, sha256, user)
        return versions.apply_house_rules(artwork, user)
    except (PlintoError, OSError):
        Artwork.objects.filter(sha256=sha256).delete()
        store.forget(sha256)
        raise


def _enter(name: str, sha256: str, user: User | None) -> Artwork:
    opened = open_artwork(store.path_of(sha256), name, settings.MAX_MEGAPIXELS * 1_000_000)
    facts = versions.facts_of(opened, sha256)
    artwork = Artwork(
        name=name,
        sha256=sha256,
        bytes=store.path_of(sha256).stat().st_size,
        taken_in_by=user,
        **facts,
    )
    build_levels(artwork)
    with transaction.atomic():
        found, made = Artwork.objects.get_or_create(
            sha256=sha256,
            defaults={"name": name, "bytes": artwork.bytes, "taken_in_by": user, **facts},
        )
        return versions.add_version(found, "taken in", "As it came.", {}, user) if made else found


def build_levels(artwork: Artwork) -> Path:
    """The pyramid of the version in force, built if it is not there; whole or not at all."""
    reading = hashlib.sha256(f"{artwork.page} {artwork.ground}".encode()).hexdigest()[:12]
    folder = store.derived_folder(artwork.pixels_sha256) / f"levels-{reading}"
    if not (folder / "levels.json").exists():
        part = folder.with_name(f"{folder.name}.part")
        shutil.rmtree(part, ignore_errors=True)
        build_pyramid(versions.opened(artwork), part)
        shutil.rmtree(folder, ignore_errors=True)
        part.replace(folder)
    return folder


def artwork_by_id(artwork_id: int) -> Artwork:
    """Raises `MissingError`."""
    found = Artwork.objects.filter(id=artwork_id).first()
    if found is None:
        raise MissingError("This artwork is not here any more. Go back to the list of artwork.")
    return found


@transaction.atomic
def remove(artwork: Artwork) -> None:
    """Remove artwork with its versions and recipes; refused while a run needs it."""
    if Run.objects.filter(artwork=artwork, state__in=("queued", "running")).exists():
        raise ConflictError(f"'{artwork.name}' is being separated. Wait for the run, or cancel it first.")
    files = {artwork.sha256, *(version.facts["pixels_sha256"] for version in artwork.versions.all())}
    artwork.delete()
    for sha256 in files:
        store.forget(sha256)
