"""How far a task of the sandbox is, said to whoever waits for it."""

from collections.abc import Callable

#: The host sets it for each file.
_listener: list[Callable[[float], None]] = []


def listen(listener: Callable[[float], None]) -> None:
    """Have `report` heard by this listener."""
    _listener[:] = [listener]


def report(share: float) -> None:
    """Say how far the task is (0…1)."""
    for listener in _listener:
        listener(share)
