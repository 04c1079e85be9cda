"""Files written whole, their digests, and names that are safe to write under."""

import contextlib
import hashlib
import os
import re
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import numpy as np

_NAME_BYTES = 120
_UNSAFE = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]+')

#: Endings that programs give to what they are still writing into a folder that is watched.
UNFINISHED = (".part", ".tmp", ".crdownload", ".download", ".filepart", ".partial")


def safe_name(text: str, otherwise: str) -> str:
    """`text` as a file name that is safe on every file system: one part, no control characters, not hidden, at most 120
    bytes; `otherwise` where nothing is left. No text from a file or a person gets into a path but through here."""
    kept = _UNSAFE.sub("-", text).strip(" .")
    return kept.encode("utf-8", "ignore")[:_NAME_BYTES].decode("utf-8", "ignore").strip(" .") or otherwise


def reserved_map(path: Path, kind: "np.dtype[Any]", shape: tuple[int, ...]) -> "np.memmap[Any, Any]":
    """A new array on the disk, mapped for writing, its space taken beforehand: a full disk is an OSError here, not a
    crash (SIGBUS) at some later write."""
    # Here, for names and digests do without it.
    import numpy as np

    mapped = np.lib.format.open_memmap(path, "w+", kind, shape)
    with path.open("r+b") as file:
        os.posix_fallocate(file.fileno(), 0, path.stat().st_size)
    return mapped


def file_digest(path: Path) -> str:
    """SHA-256 of a file, hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def write_whole(path: Path, write: Callable[[Path], None]) -> None:
    """Let `write` fill a temporary file, flush it to disk, and rename it: it appears whole or not at all."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:60]}-", suffix=".part")
    os.close(handle)
    part = Path(name)
    try:
        write(part)
        with part.open("rb") as file:
            os.fsync(file.fileno())
            part.replace(path)
    except BaseException:
        with contextlib.suppress(FileNotFoundError):
            part.unlink()
        raise


def _umask() -> int:
    # There is no way to ask for it but to set it; /proc says it without (proc(5), status).
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("Umask:"):
            return int(line.split()[1], 8)
    return 0o077
