"""Backup and restore: the database by SQLite's own online copy, then every file it names; consistent while running.

The database comes first: files that it names cannot have gone by then, since the copy of it is older than what the
collector looks at, and a file that went meanwhile is told. Files are linked where the disk is the same one, else copied.
"""

import json
import os
import shutil
import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings

from plinto_core import __version__
from plinto_core.errors import RecipeError
from plinto_core.files import file_digest, write_whole
from plinto_server.files import store

_DATABASE, _KEY, _ABOUT = "plinto.sqlite3", "secret-key", "backup.json"


@dataclass(frozen=True)
class Backed:
    """What was written: files and bytes, and the digests of files that were not there any more."""

    files: int
    bytes: int
    missing: tuple[str, ...]


def backup(folder: Path) -> Backed:
    """Copy database, store and key to `folder`, which must be new or an earlier backup. Raises `RecipeError`."""
    if settings.DATABASES["default"]["ENGINE"] != "django.db.backends.sqlite3" or settings.STORE_ELSEWHERE:
        raise RecipeError(
            "This house keeps its database or its files elsewhere; back them up where they are: docs/machines.md says how."
        )
    if folder.exists() and any(folder.iterdir()) and not (folder / _ABOUT).exists():
        raise RecipeError(f"'{folder}' holds something else. Name a new folder, or one that was backed up to before.")
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    write_whole(folder / _DATABASE, _copy_database)
    count, size, missing = 0, 0, []
    digests = _named(folder / _DATABASE)
    for sha256 in digests:
        target = folder / "store" / sha256[:2] / sha256
        if not target.exists() and not _take(store.path_of(sha256), target):
            missing.append(sha256)
            continue
        count, size = count + 1, size + target.stat().st_size
    _drop_others(folder, set(digests))
    key = Path(settings.DATA_DIR) / _KEY
    if key.exists():
        shutil.copy2(key, folder / _KEY)
    about = {"plinto": __version__, "made_at": datetime.now(UTC).isoformat(timespec="seconds"), "files": count,
             "bytes": size, "missing": missing}  # fmt: skip
    write_whole(folder / _ABOUT, lambda part: _write_text(part, json.dumps(about, indent=1)))
    return Backed(count, size, tuple(missing))


def restore(folder: Path) -> Backed:
    """Put a backup in place of an empty data folder. Raises `RecipeError`; every file is held against its digest first."""
    data = Path(settings.DATA_DIR)
    if not (folder / _ABOUT).exists():
        raise RecipeError(f"'{folder}' is no backup: there is no {_ABOUT} in it.")
    if (data / _DATABASE).exists():
        raise RecipeError(
            f"There is a database in '{data}' already. Stop Plinto, move that folder away, then restore."
        )
    digests = _named(folder / _DATABASE)
    sources = {sha256: folder / "store" / sha256[:2] / sha256 for sha256 in digests}
    missing = [sha256 for sha256, path in sources.items() if not path.exists()]
    broken = [sha256 for sha256, path in sources.items() if path.exists() and file_digest(path) != sha256]
    if broken:
        raise RecipeError(f"{len(broken)} files of the backup are not what they were, {broken[0][:16]}… first.")
    data.mkdir(parents=True, exist_ok=True, mode=0o700)
    size = 0
    for sha256 in set(digests) - set(missing):
        target = store.path_of(sha256)
        _copy(sources[sha256], target)
        size += target.stat().st_size
    if (folder / _KEY).exists():
        shutil.copy2(folder / _KEY, data / _KEY)
    # Last: a folder without a database is not taken for one that was restored.
    write_whole(data / _DATABASE, lambda part: _write_copy(folder / _DATABASE, part))
    return Backed(len(digests) - len(missing), size, tuple(missing))


def _copy_database(part: Path) -> None:
    source = sqlite3.connect(str(settings.DATABASES["default"]["NAME"]))
    target = sqlite3.connect(part)
    try:
        source.backup(target)
    finally:
        target.close()
        source.close()


def _named(database: Path) -> list[str]:
    connection = sqlite3.connect(f"file:{database}?mode=ro", uri=True)
    try:
        return [row[0] for row in connection.execute("SELECT sha256 FROM files_blob ORDER BY sha256")]
    finally:
        connection.close()


def _take(source: Path, target: Path) -> bool:
    target.parent.mkdir(parents=True, exist_ok=True)
    try:
        os.link(source, target)
    except FileNotFoundError:
        return False
    except OSError:
        # Another disk, or one that knows no links.
        return _copy(source, target)
    return True


def _copy(source: Path, target: Path) -> bool:
    target.parent.mkdir(parents=True, exist_ok=True)
    try:
        write_whole(target, lambda part: _write_copy(source, part))
    except FileNotFoundError:
        return False
    return True


def _drop_others(folder: Path, named: set[str]) -> None:
    for path in (folder / "store").rglob("*"):
        if path.is_file() and path.name not in named:
            path.unlink()


def _write_copy(source: Path, part: Path) -> None:
    shutil.copyfile(source, part)


def _write_text(part: Path, text: str) -> None:
    part.write_text(text + "\n", encoding="utf-8")
