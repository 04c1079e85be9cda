"""Figures of a whole artwork are worked out behind the pictures that somebody waits for."""

import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from typing import ParamSpec, TypeVar

from plinto_core.cores import take_at_most
from plinto_server.warm.turns import look_for_left

P = ParamSpec("P")
T = TypeVar("T")

#: To the scheduler a tenth of what a picture counts, where both want the same core.
_NICE = 10


def _step_back() -> None:
    """One core for this thread, and only what pictures leave of it (Linux counts niceness by thread)."""
    take_at_most(1)
    me = threading.get_native_id()
    # A server that is nicer than that already may not come forward.
    os.setpriority(os.PRIO_PROCESS, me, max(_NICE, os.getpriority(os.PRIO_PROCESS, me)))


_BEHIND = ThreadPoolExecutor(os.cpu_count(), thread_name_prefix="behind", initializer=_step_back)


def behind(work: Callable[P, T], *given: P.args, **named: P.kwargs) -> T:
    """What `work` gives, worked out on a core that pictures take first. It may not ask the database.

    Raises `AskerLeftError` where nobody is left to be told once there is a core for it: while a control moves, figures
    of states that have passed do not stand before those of the one that holds.
    """

    def begun() -> T:
        look_for_left()
        return work(*given, **named)

    # The request's own line goes along into the other thread.
    return _BEHIND.submit(copy_context().run, begun).result()
