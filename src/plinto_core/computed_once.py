"""A property that is computed once for each instance, under a lock of that instance.

`functools.cached_property` locks for the whole class up to Python 3.11, so that two threads that compute it for two
different objects wait for each other, and not at all from 3.12 on, so that both compute it for one.
"""

import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from functools import cached_property as computed_once
else:

    class computed_once:  # noqa: N801 - it stands where `property` stands
        """The value lies in the instance's own dictionary; from then on nothing of this is in the way."""

        def __init__(self, make: Callable[[Any], Any]) -> None:
            self._make, self.__doc__ = make, make.__doc__

        def __set_name__(self, owner: type, name: str) -> None:
            self._name = name

        def __get__(self, instance: Any, owner: type | None = None) -> Any:
            if instance is None:
                return self
            kept = instance.__dict__
            # A copy that differs in what none of these depend on: whichever computes first computes for both.
            if (first := kept.get("computed_with")) is not None:
                return getattr(first, self._name)
            # One step of the interpreter: two threads get the same lock.
            with kept.setdefault(f"_{self._name}_lock", threading.RLock()):
                if self._name not in kept:
                    kept[self._name] = self._make(instance)
                return kept[self._name]


__all__ = ["computed_once"]
