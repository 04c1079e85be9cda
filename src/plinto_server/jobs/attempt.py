"""One attempt at a run: its token, its folder, its signs of life, and whether somebody wants it stopped."""

import shutil
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from typing import TypeVar

from django.db import connection
from django.db.models import QuerySet

from plinto_server.files import database, store
from plinto_server.files.processes import tag
from plinto_server.jobs.models import Run

T = TypeVar("T")

_BEAT_SECONDS = 0.4
_LIFE_SECONDS = 5.0
#: How long a worker waits for a database that is held or out of reach, before it gives up.
PATIENCE_SECONDS = 300.0


class SupersededError(Exception):
    """This attempt was taken for dead and another one goes on, or the run has ended: write nothing, stop."""


def patiently(act: Callable[[], T]) -> T:
    """Do something with the database, again and again while it is held or out of reach. Raises what lasts longer."""
    until = time.monotonic() + PATIENCE_SECONDS
    while True:
        try:
            return act()
        except database.UNUSABLE as error:
            if not database.passes(error) or time.monotonic() > until:
                raise
            time.sleep(0.5)
            database.renew()


class Attempt:
    """A context that ends with its folder removed. The sign of life comes from a thread: decoding a large picture can
    take longer than the silence allowed."""

    def __init__(self, run: Run) -> None:
        self.run_id, self.token = run.id, run.attempts
        self.folder = store.making_folder() / f"{tag()}run-{run.id}-{run.attempts}"
        self._last, self._cancelled, self._lost = 0.0, False, False
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)

    def __enter__(self) -> "Attempt":
        shutil.rmtree(self.folder, ignore_errors=True)
        self.folder.mkdir()
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()
        shutil.rmtree(self.folder, ignore_errors=True)

    def mine(self) -> "QuerySet[Run]":
        """The run, as long as this attempt is the one that holds it."""
        return Run.objects.filter(id=self.run_id, state=Run.State.RUNNING, attempts=self.token)

    def _beat(self, **more: object) -> None:
        now = datetime.now(UTC)
        if not self.mine().update(heartbeat_at=now, **more):
            self._lost = True

    def _live(self) -> None:
        while not self._over.wait(_LIFE_SECONDS):
            try:
                self._beat()
            except database.UNUSABLE:
                # Held or out of reach; the next beat comes soon, and a run is lost after a minute only.
                database.renew()
        connection.close()

    def progress(self, share: float) -> None:
        """Say how far it is (0…1). Raises `SupersededError` where the run is somebody else's by now."""
        now = time.monotonic()
        if now - self._last >= _BEAT_SECONDS:
            self._last = now
            patiently(lambda: self._beat(progress=share, changed_at=datetime.now(UTC)))
            self._cancelled = patiently(lambda: self.mine().filter(cancel_asked=True).exists())
        if self._lost:
            raise SupersededError

    def cancelled(self) -> bool:
        """Whether somebody asked for it to stop."""
        return self._cancelled
