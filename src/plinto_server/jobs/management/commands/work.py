"""The background worker: finds what was lost, collects what nobody holds, and works through the queue."""

import logging
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import DatabaseError, InterfaceError, close_old_connections

from plinto_server.files import collector, database, space
from plinto_server.jobs import queue
from plinto_server.jobs.brokers import broker
from plinto_server.jobs.kinds import MAKING, OPENING, begun_with_worker, looked_after
from plinto_server.jobs.wake import sleep, wake

logger = logging.getLogger("plinto.worker")
_LOOK_EVERY_SECONDS = 5.0
#: Between two looks at least, however often it is woken.
_REST_SECONDS = 0.25
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
        ends = [begin(wake) for begin in begun_with_worker]
        queues = (MAKING, OPENING) if options["queue"] == "all" else (options["queue"],)
        try:
            while not self._worked(queues, options["verbosity"]):
                time.sleep(_LOOK_EVERY_SECONDS)
        finally:
            stop.set()
            wake()
            for end in ends:
                end()

    def _worked(self, queues: tuple[str, ...], verbosity: int) -> bool:
        """Work through the queues until told to stop; False where database or queue cannot be used for now."""
        line = broker()
        try:
            line.work(queues, verbosity)
        except database.UNUSABLE as error:
            if not database.passes(error) and not space.is_full(error):
                raise
            logger.warning("the database cannot be used right now (%s); trying again", error)
        except line.unreachable as error:
            logger.warning("the queue cannot be reached right now (%s); trying again", error)
        else:
            return True
        close_old_connections()
        return False

    def _watch(self, stop: threading.Event) -> None:
        passing: tuple[type[Exception], ...] = (DatabaseError, InterfaceError, OSError, *broker().unreachable)
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
            except passing:
                # A locked database, a full disk or a cut line passes; the next look comes soon.
                logger.exception("lost runs and files could not be looked for")
            close_old_connections()
            sleep(_LOOK_EVERY_SECONDS)
            if stop.wait(_REST_SECONDS):
                return
