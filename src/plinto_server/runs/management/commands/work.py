"""The background worker: picks up what a killed one left, then works through the queue."""

import logging
import threading
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import DatabaseError, close_old_connections

from plinto_server.runs import service

logger = logging.getLogger("plinto.worker")
_LOOK_EVERY_SECONDS = 10.0


class Command(BaseCommand):
    """`manage.py work`."""

    help = "Carry out runs until stopped. Any number of these may run at once."

    def handle(self, *args: Any, **options: Any) -> None:
        """Watch for abandoned runs in a thread, and hand the rest to the task queue's own worker."""
        stop = threading.Event()
        watcher = threading.Thread(target=self._watch, args=(stop,), daemon=True)
        watcher.start()
        try:
            call_command("db_worker", interval=0.2, startup_delay=False, verbosity=options["verbosity"])
        finally:
            stop.set()

    def _watch(self, stop: threading.Event) -> None:
        while True:
            try:
                if count := service.recover():
                    logger.warning("%d run(s) had lost their worker", count)
            except DatabaseError:
                # A locked database passes; the next look comes soon.
                logger.exception("abandoned runs could not be looked for")
            close_old_connections()
            if stop.wait(_LOOK_EVERY_SECONDS):
                return
