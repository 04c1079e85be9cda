"""Files by their content: written to `incoming/`, flushed, then renamed to their SHA-256 inside a transaction.

A file comes into the store together with the row that holds it, in one transaction, or not at all. What the server
answered as taken is on the disk: the file and its folder are flushed before the transaction ends.
"""

import contextlib
import hashlib
import os
import re
import shutil
import tempfile
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings
from django.db import transaction

from plinto_server.errors import MissingError
from plinto_server.files import elsewhere
from plinto_server.files.models import Blob
from plinto_server.files.processes import tag

_READ_BYTES = 1 << 20
_DIGEST = re.compile("[0-9a-f]{64}")


@dataclass(frozen=True)
class Part:
    """A whole file that is not in the store yet, under a temporary path on the same disk."""

    path: Path
    sha256: str
    bytes: int

    def discard(self) -> None:
        """Remove it if it is still there."""
        with contextlib.suppress(FileNotFoundError):
            self.path.unlink()


def path_of(sha256: str) -> Path:
    """Where the file with this content lies, whether it is there or not; a copy is fetched where the store is elsewhere."""
    path = place_of(sha256)
    if settings.STORE_ELSEWHERE:
        try:
            # The copies that nobody used for longest go first.
            os.utime(path)
        except FileNotFoundError:
            elsewhere.fetch(sha256, path)
    return path


def place_of(sha256: str) -> Path:
    """The file's place in this data folder; nothing is fetched.

    Raises `MissingError` for what is no digest: it may have come over the line, and must not lead anywhere else.
    """
    if not _DIGEST.fullmatch(sha256):
        raise MissingError("This file is not here any more.")
    return Path(settings.DATA_DIR) / "store" / sha256[:2] / sha256


def is_here(sha256: str) -> bool:
    """Whether the file with this content is at hand; False for what is no digest."""
    return bool(_DIGEST.fullmatch(sha256)) and path_of(sha256).exists()


def derived_folder(sha256: str) -> Path:
    """Where what was computed from that file is kept; it can be computed again."""
    return Path(settings.DATA_DIR) / "derived" / sha256


def incoming_folder() -> Path:
    """Where files lie while they arrive."""
    folder = Path(settings.DATA_DIR) / "incoming"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def making_folder() -> Path:
    """Where files lie while they are made."""
    folder = Path(settings.DATA_DIR) / "making"
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def receive(chunks: Iterable[bytes]) -> Part:
    """Bytes as a file in `incoming/`, hashed while they are written; nothing is left of it when they fail."""
    digest, size = hashlib.sha256(), 0
    with tempfile.NamedTemporaryFile(dir=incoming_folder(), prefix=tag(), suffix=".part", delete=False) as file:
        try:
            for chunk in chunks:
                digest.update(chunk)
                size += len(chunk)
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
        except BaseException:
            Path(file.name).unlink()
            raise
    return Part(Path(file.name), digest.hexdigest(), size)


def part_of(path: Path) -> Part:
    """A finished file on the store's disk, hashed and flushed."""
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
        os.fsync(file.fileno())
    return Part(path, digest, path.stat().st_size)


def keep(part: Part) -> str:
    """Move a part into the store; call it in the transaction that makes the row which holds it.

    The collector removes under the same lock of the database, so that a file that is being taken in is never taken
    away. When that transaction is undone and tried again, the file is where the first try put it. Returns the SHA-256.
    """
    if not transaction.get_connection().in_atomic_block:
        raise RuntimeError("a file is kept in the transaction that makes its holder")
    note(part.sha256, part.bytes)
    target = place_of(part.sha256)
    moved = not part.path.exists() and target.exists()
    if settings.STORE_ELSEWHERE:
        elsewhere.put(target if moved else part.path, part.sha256)
    if not moved:
        target.parent.mkdir(parents=True, exist_ok=True)
        part.path.chmod(0o600)
        part.path.replace(target)
    _flush_folder(target.parent)
    return part.sha256


def note(sha256: str, size: int) -> None:
    """Record that these bytes came in now."""
    Blob.objects.update_or_create(sha256=sha256, defaults={"bytes": size, "touched_at": datetime.now(UTC)})


def keep_bytes(data: bytes) -> str:
    """Store small data; see `keep`."""
    part = receive([data])
    try:
        return keep(part)
    finally:
        part.discard()


def _flush_folder(folder: Path) -> None:
    # A rename is only there after a power loss once its folder is (POSIX fsync on a directory).
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def unlink(sha256: str) -> int:
    """Take a file and what was derived from it off the disk; only the collector calls it. Returns bytes freed."""
    path, freed = place_of(sha256), 0
    if settings.STORE_ELSEWHERE:
        elsewhere.remove(sha256)
    with contextlib.suppress(FileNotFoundError):
        freed = path.stat().st_size
        path.unlink()
    return freed + remove_folder(derived_folder(sha256))


def remove_folder(folder: Path) -> int:
    """Remove a folder of what can be computed again. Returns bytes freed."""
    freed = folder_bytes(folder)
    shutil.rmtree(folder, ignore_errors=True)
    return freed


def folder_bytes(folder: Path) -> int:
    """Bytes of all files below a folder; files that vanish meanwhile count for nothing."""
    total = 0
    for path in folder.rglob("*"):
        with contextlib.suppress(FileNotFoundError):
            total += path.stat().st_size if path.is_file() else 0
    return total
