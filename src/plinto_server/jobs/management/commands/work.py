"""The background worker: finds what was lost, collects what nobody holds, and works through the queue."""

import logging
import threading
import time
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import DatabaseError, OperationalError, close_old_connections

from plinto_server.files import collector, space
from plinto_server.jobs import queue
from plinto_server.jobs.kinds import MAKING, OPENING, looked_after

logger = logging.getLogger("plinto.worker")
_LOOK_EVERY_SECONDS = 5.0
_COLLECT_EVERY_SECONDS = 600.0


class Command(BaseCommand):
    """`manage.py work`."""

    help = "Carry out runs until stopped. Any number of these may run at once."

    def add_arguments(self, parser: CommandParser) -> None:
        """One kind of queue, or both."""
        parser.add_argument("--queue", choices=(MAKING, OPENING, "all"), default="all")

    def handle(self, *args: Any, **options: Any) -> None:
        """Watch in a thread, and hand the rest to the task queue's own worker."""
        stop = threading.Event()
        watcher = threading.Thread(target=self._watch, args=(stop,), daemon=True)
        watcher.start()
        queues = f"{MAKING},{OPENING}" if options["queue"] == "all" else options["queue"]
        try:
            while not self._worked(queues, options["verbosity"]):
                time.sleep(_LOOK_EVERY_SECONDS)
        finally:
            stop.set()

    def _worked(self, queues: str, verbosity: int) -> bool:
        """Work through the queues until told to stop; False where somebody holds the database for too long."""
        try:
            call_command("db_worker", queue_name=queues, interval=0.2, startup_delay=False, verbosity=verbosity)
        except OperationalError as error:
            if "locked" not in str(error) and not space.is_full(error):
                raise
            logger.warning("the database cannot be used right now (%s); trying again", error)
            close_old_connections()
            return False
        return True

    def _watch(self, stop: threading.Event) -> None:
        collected = -_COLLECT_EVERY_SECONDS
        while True:
            try:
                if count := queue.recover():
                    logger.warning("%d run(s) had lost their worker or their place in the queue", count)
                for look in looked_after:
                    look()
                if time.monotonic() - collected > _COLLECT_EVERY_SECONDS:
                    collected = time.monotonic()
                    space.keep_reserve()
                    freed = collector.collect()
                    if freed.files:
                        logger.info("%s", freed)
            except (DatabaseError, OSError):
                # A locked database or a full disk passes; the next look comes soon.
                logger.exception("lost runs and files could not be looked for")
            close_old_connections()
            if stop.wait(_LOOK_EVERY_SECONDS):
                return
