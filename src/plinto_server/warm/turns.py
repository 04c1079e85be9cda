"""Whose turn it is: places for pictures, given in the order in which they were asked for, to whoever still wants one."""

import contextlib
import select
import socket
import threading
from collections import deque
from collections.abc import Callable, Iterator
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponseBase

#: How often somebody who waits looks whether anybody is left to wait for.
_LOOK_SECONDS = 0.25
#: The line to whoever asked for what this thread works out; only some servers tell of it.
_line: ContextVar[socket.socket | None] = ContextVar("line", default=None)


class AskerLeftError(Exception):
    """Whoever asked has gone away, or wants something newer: nobody is left to be answered."""


def asker_left() -> bool:
    """Whether the other end of the request under way has been closed."""
    line = _line.get()
    if line is None:
        return False
    looked = select.poll()
    try:
        looked.register(line, select.POLLRDHUP)
    except ValueError:
        # Closed at this end.
        return True
    return bool(looked.poll(0))


def look_for_left() -> None:
    """Raises `AskerLeftError` where nobody waits for the answer any more."""
    if asker_left():
        raise AskerLeftError


def know_asker(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[[HttpRequest], HttpResponseBase]:
    """Middleware: remembers the line of a request for as long as it is being answered."""

    def answered(request: HttpRequest) -> HttpResponseBase:
        before = _line.set(request.META.get("gunicorn.socket"))
        try:
            return get_response(request)
        finally:
            _line.reset(before)

    return answered


class Turns:
    """A number of places, first come, first served: a semaphore lets whoever comes at the right moment go before others."""

    def __init__(self, at_once: int) -> None:
        self._places = self._free = at_once
        self._lock = threading.Lock()
        self._waiting: deque[threading.Event] = deque()

    @contextlib.contextmanager
    def turn(self) -> Iterator[bool]:
        """A place while the block runs, and whether it is the only one that is taken by then.

        Raises `AskerLeftError` where nobody is left once it is free.
        """
        mine = threading.Event()
        with self._lock:
            if self._free and not self._waiting:
                self._free -= 1
                mine.set()
            else:
                self._waiting.append(mine)
        try:
            while not mine.wait(_LOOK_SECONDS):
                look_for_left()
            look_for_left()
            yield self._free == self._places - 1
        finally:
            self._leave(mine)

    def _leave(self, mine: threading.Event) -> None:
        """The place goes to whoever has waited longest; whoever still waited only goes away."""
        with self._lock:
            if not mine.is_set():
                self._waiting.remove(mine)
            elif self._waiting:
                self._waiting.popleft().set()
            else:
                self._free += 1
