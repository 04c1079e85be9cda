"""Having the worker look before its time: when something came in, when a run has ended."""

import threading

_woken = threading.Event()


def wake() -> None:
    """Have this process's worker look soon."""
    _woken.set()


def sleep(seconds: float) -> None:
    """Until somebody wakes, or for so long."""
    _woken.wait(seconds)
    _woken.clear()
