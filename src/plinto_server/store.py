"""Files by their content: written to a temporary name, then renamed to their SHA-256."""

import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings


def path_of(sha256: str) -> Path:
    """Where the file with this content lies, whether it is there or not."""
    return Path(settings.DATA_DIR) / "store" / sha256[:2] / sha256


def derived_folder(sha256: str) -> Path:
    """Where what was computed from that file is kept; it can be computed again."""
    return Path(settings.DATA_DIR) / "derived" / sha256


def keep_chunks(chunks: Iterable[bytes]) -> str:
    """Store the bytes and return their SHA-256; the file appears whole or not at all."""
    digest = hashlib.sha256()
    folder = Path(settings.DATA_DIR) / "store"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder, suffix=".part", delete=False) as part:
        try:
            for chunk in chunks:
                digest.update(chunk)
                part.write(chunk)
            part.flush()
            os.fsync(part.fileno())
        except BaseException:
            Path(part.name).unlink()
            raise
    keep_file(Path(part.name), digest.hexdigest())
    return digest.hexdigest()


def keep_file(path: Path, sha256: str) -> None:
    """Move a finished file, whose SHA-256 is known, into the store."""
    target = path_of(sha256)
    target.parent.mkdir(parents=True, exist_ok=True)
    path.replace(target)


def forget(sha256: str) -> None:
    """Remove a file and what was derived from it; the caller knows that nobody else needs it."""
    path_of(sha256).unlink(missing_ok=True)
    shutil.rmtree(derived_folder(sha256), ignore_errors=True)
