"""A store that several machines reach over the network (S3-compatible); the data folder then keeps copies of its files.

A file is there before the transaction that makes its record ends. What a copy here holds is held against its digest
when it is fetched.
"""

import contextlib
import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

from django.conf import settings
from django.core.files import File
from django.core.files.storage import Storage, storages

from plinto_server.files.processes import tag


def _there() -> Storage:
    return storages["blobs"]


def _name(sha256: str) -> str:
    return f"{sha256[:2]}/{sha256}"


def put(path: Path, sha256: str) -> None:
    """Bring a whole file there; bytes that are there already are not sent again."""
    there = _there()
    if there.exists(_name(sha256)):
        return
    with path.open("rb") as file:
        there.save(_name(sha256), File(file))


def fetch(sha256: str, target: Path) -> None:
    """Bring a copy of a file here, whole or not at all; nothing happens where it is not there. Raises `OSError`."""
    there = _there()
    incoming = Path(settings.DATA_DIR) / "incoming"
    incoming.mkdir(parents=True, exist_ok=True)
    with contextlib.suppress(FileNotFoundError), there.open(_name(sha256), "rb") as source:
        handle, name = tempfile.mkstemp(dir=incoming, prefix=tag(), suffix=".part")
        part = Path(name)
        try:
            with os.fdopen(handle, "w+b") as file:
                shutil.copyfileobj(source, file, 1 << 20)
                file.flush()
                file.seek(0)
                if hashlib.file_digest(file, "sha256").hexdigest() != sha256:
                    raise OSError(f"the store gave other bytes than {sha256[:16]}…; nothing was kept")
            target.parent.mkdir(parents=True, exist_ok=True)
            part.replace(target)
        finally:
            part.unlink(missing_ok=True)


def remove(sha256: str) -> None:
    """Take a file away there."""
    _there().delete(_name(sha256))


def kept_there() -> Iterator[tuple[str, datetime, int]]:
    """Digest, time and bytes of each file there."""
    there = _there()
    for folder in there.listdir("")[0]:
        for sha256 in there.listdir(folder)[1]:
            name = f"{folder}/{sha256}"
            yield sha256, there.get_modified_time(name), there.size(name)
