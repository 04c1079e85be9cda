"""Room on the disk: what has to stay free, what a person may bring in, and a reserve for removing when all is full."""

import errno
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import ParamSpec, TypeVar

from django.conf import settings
from django.db import OperationalError

from plinto_server.errors import FullError

P = ParamSpec("P")
T = TypeVar("T")

#: Kept in a file of zeros: given back to the disk when even a removal finds no room for the database's log.
RESERVE_BYTES = 24 << 20
FULL = "The disk of the server is full; nothing was kept. Remove what is not needed any more, then try again."


def is_full(error: BaseException) -> bool:
    """Whether an error says that the disk is full, by whatever name it goes."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    said = str(error)
    signs = ("disk is full", "disk I/O error", "No space left on device")
    return isinstance(error, OperationalError) and any(sign in said for sign in signs)


def _reserve() -> Path:
    return Path(settings.DATA_DIR) / "reserve"


def keep_reserve() -> None:
    """Set the reserve aside, if the disk has room for it twice over."""
    path = _reserve()
    if path.exists() or shutil.disk_usage(settings.DATA_DIR).free < 2 * RESERVE_BYTES:
        return
    with path.open("wb") as file:
        os.posix_fallocate(file.fileno(), 0, RESERVE_BYTES)
    path.chmod(0o600)


def give_back_reserve() -> bool:
    """Give the reserve to the disk, for whoever has to go on; False where it is gone already."""
    try:
        _reserve().unlink()
    except FileNotFoundError:
        return False
    return True


def room_for(size: int, name: str) -> None:
    """Raises `FullError` where `size` bytes would not leave the disk its margin."""
    free = shutil.disk_usage(settings.DATA_DIR).free
    if size + settings.LEAST_FREE_BYTES > free:
        raise FullError(
            f"'{name}' needs {size / 1e6:.0f} MB, and the server's disk has {free / 1e6:.0f} MB left, of which "
            f"{settings.LEAST_FREE_BYTES / 1e6:.0f} MB have to stay free. Remove what is not needed, then try again."
        )


def even_when_full(act: Callable[P, T]) -> Callable[P, T]:
    """Decorate what makes room: where the disk is full it is tried again with the reserve given back."""

    def tried(*args: P.args, **more: P.kwargs) -> T:
        try:
            return act(*args, **more)
        except (OSError, OperationalError) as error:
            if not is_full(error) or not give_back_reserve():
                raise
        done = act(*args, **more)
        keep_reserve()
        return done

    return tried
