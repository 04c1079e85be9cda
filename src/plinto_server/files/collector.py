"""Removing what nobody holds: at once where a row let go of its last file, after a grace time everywhere else."""

import contextlib
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.db import transaction
from django.dispatch import Signal

from plinto_server.files import elsewhere, store
from plinto_server.files.models import Blob
from plinto_server.files.processes import tagged_by_the_dead

#: A file without a holder may be one that is being taken in; after this it was left behind.
GRACE = timedelta(hours=1)
#: A hidden or temporary file that has not been written to for so long belongs to nobody that lives.
ABANDONED_SECONDS = 6 * 3600.0
_DAY_SECONDS = 24 * 3600.0


#: Sent with `sha256` when a file is gone, for whoever keeps something that was made of it.
released = Signal()


@dataclass
class Freed:
    """What a round of collecting removed: files and bytes by the kind of place."""

    files: dict[str, int] = field(default_factory=dict)
    bytes: int = 0

    def add(self, kind: str, size: int) -> None:
        """Count one removed thing of a kind with its bytes."""
        self.files[kind] = self.files.get(kind, 0) + 1
        self.bytes += size

    def __str__(self) -> str:
        parts = ", ".join(f"{count} {kind}" for kind, count in sorted(self.files.items()))
        return f"freed {self.bytes / 1e6:.1f} MB: {parts}" if parts else "nothing to free"


def release_after_commit(digests: Iterable[str]) -> None:
    """Remove those of the files that nobody holds any more, once the transaction is through."""
    gone = sorted(digests)
    transaction.on_commit(lambda: release(gone))


def release(digests: Iterable[str]) -> Freed:
    """Remove those of the files that nobody holds."""
    freed = Freed()
    for sha256 in digests:
        # One short transaction each: a taking-in waits here, or this sees that it has come.
        with transaction.atomic():
            if Blob.objects.filter(sha256=sha256, holds=None).delete()[0]:
                freed.add("files", store.unlink(sha256))
                released.send(sender=Blob, sha256=sha256)
    return freed


def collect(now: datetime | None = None) -> Freed:
    """One round over the whole data folder. Files that are held stay, whatever their age."""
    moment = now or datetime.now(UTC)
    old = Blob.objects.filter(holds=None, touched_at__lt=moment - GRACE).values_list("sha256", flat=True)
    freed = release(list(old))
    # A clock that was wrong may have left a time to come: it counts from now on.
    Blob.objects.filter(touched_at__gt=moment + GRACE).update(touched_at=moment)
    _collect_unknown(freed, moment)
    _collect_abandoned(freed)
    _collect_derived(freed)
    if settings.STORE_ELSEWHERE:
        _collect_fetched(freed)
        _collect_unknown_elsewhere(freed, moment)
    return freed


def _old(path: Path, seconds: float) -> bool:
    with contextlib.suppress(FileNotFoundError):
        return time.time() - path.stat().st_mtime > seconds
    return False


def _entries(folder: Path) -> Iterator[Path]:
    if folder.is_dir():
        yield from list(folder.iterdir())


def _collect_unknown(freed: Freed, moment: datetime) -> None:
    """Files of the store without a record: what a process left that was killed between rename and commit."""
    for folder in _entries(Path(settings.DATA_DIR) / "store"):
        for path in _entries(folder) if folder.is_dir() else [folder]:
            if _old(path, GRACE.total_seconds()):
                with transaction.atomic():
                    if not Blob.objects.filter(sha256=path.name).exists():
                        size = path.stat().st_size
                        path.unlink()
                        freed.add("files without a record", size)


def _collect_abandoned(freed: Freed) -> None:
    data = Path(settings.DATA_DIR)
    for kind, folder, seconds in (
        ("uploads broken off", data / "incoming", GRACE.total_seconds()),
        ("files half made", data / "making", ABANDONED_SECONDS),
    ):
        for path in _entries(folder):
            if path.is_dir():
                newest = max((p.stat().st_mtime for p in path.rglob("*")), default=path.stat().st_mtime)
                if time.time() - newest > seconds or tagged_by_the_dead(path.name):
                    freed.add(kind, store.remove_folder(path))
            elif _old(path, seconds) or tagged_by_the_dead(path.name):
                size = path.stat().st_size
                path.unlink(missing_ok=True)
                freed.add(kind, size)


def _collect_derived(freed: Freed) -> None:
    """Pictures in sizes: of files that are gone, half made ones, and the longest unused beyond the limit."""
    kept: list[tuple[float, int, Path]] = []
    for folder in _entries(Path(settings.DATA_DIR) / "derived"):
        if not Blob.objects.filter(sha256=folder.name).exists() and _old(folder, GRACE.total_seconds()):
            freed.add("pictures of files that are gone", store.remove_folder(folder))
            continue
        for levels in _entries(folder):
            described = levels / "levels.json"
            if not levels.name.startswith("levels-") or not described.exists():
                if _old(levels, ABANDONED_SECONDS) or tagged_by_the_dead(levels.name):
                    freed.add("pictures half made", store.remove_folder(levels))
            else:
                kept.append((described.stat().st_mtime, store.folder_bytes(levels), levels))
    over = sum(size for _, size, _ in kept) - settings.DERIVED_BYTES
    for _used, size, levels in sorted(kept, key=lambda each: each[0]):
        if over <= 0:
            break
        over -= size
        freed.add("pictures not looked at for long", store.remove_folder(levels))


def _collect_fetched(freed: Freed) -> None:
    """Copies of files whose store is elsewhere: the longest unused beyond the limit, but none of the last hour."""
    copies = [
        (path.stat(), path)
        for folder in _entries(Path(settings.DATA_DIR) / "store")
        for path in _entries(folder)
        if _old(path, GRACE.total_seconds())
    ]
    over = store.folder_bytes(Path(settings.DATA_DIR) / "store") - settings.FETCHED_BYTES
    for status, path in sorted(copies, key=lambda each: each[0].st_mtime):
        if over <= 0:
            break
        over -= status.st_size
        path.unlink(missing_ok=True)
        freed.add("copies not used for long", status.st_size)


def _collect_unknown_elsewhere(freed: Freed, moment: datetime) -> None:
    """Files of a store elsewhere without a record; each of its files is asked for, so this is done once a day."""
    looked = Path(settings.DATA_DIR) / "store-looked-through"
    if looked.exists() and not _old(looked, _DAY_SECONDS):
        return
    looked.touch()
    for sha256, brought_at, size in elsewhere.kept_there():
        if brought_at < moment - GRACE:
            with transaction.atomic():
                if not Blob.objects.filter(sha256=sha256).exists():
                    elsewhere.remove(sha256)
                    freed.add("files without a record", size)
