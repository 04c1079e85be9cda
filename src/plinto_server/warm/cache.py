"""A cache sized in bytes, in which two threads that want the same thing wait for one computation."""

import sys
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar, cast

import numpy as np

T = TypeVar("T")

_LEAST_BYTES = 1024
#: A value is measured again once it has rested for this long after use, and while it never rests, after this long.
_RESTED_SECONDS, _UNRESTED_SECONDS = 5.0, 30.0


def bytes_of(value: object, elsewhere: tuple[type, ...] = (), seen: "set[int] | None" = None) -> int:
    """About how much memory a value holds: its arrays, byte strings and containers, each counted once.

    Pictures that are mapped from the disk count for nothing, nor do values of types that are kept `elsewhere`.
    """
    seen = set() if seen is None else seen
    if id(value) in seen or (elsewhere and isinstance(value, elsewhere)):
        return 0
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        return 0 if isinstance(value, np.memmap) else int(value.nbytes)
    if isinstance(value, bytes | str | bytearray):
        return sys.getsizeof(value)
    parts: Iterable[object]
    if isinstance(value, dict):
        parts = list(value.values())
    elif isinstance(value, list | tuple | set | frozenset):
        parts = value
    elif is_dataclass(value) and not isinstance(value, type):
        # What was computed on the way (cached properties) lies in the instance's own dictionary.
        own = [getattr(value, field.name, None) for field in fields(value)]
        parts = [*own, *getattr(value, "__dict__", {}).values()]
    else:
        parts = list(getattr(value, "__dict__", {}).values())
    return 64 + sum(bytes_of(part, elsewhere, seen) for part in parts)


class ByteCache:
    """The most recently used results by key, up to `limit` bytes together.

    Values grow while they are used (what is computed on the way stays with them), so those that were used are measured
    again when one is added: only those, and once they rest, for where twenty people move sliders, measuring everything
    took a sixth of the time. What they share with another cache, by its types `elsewhere`, is that one's.
    """

    def __init__(self, limit: int, elsewhere: tuple[type, ...] = ()) -> None:
        self._limit, self._elsewhere = limit, elsewhere
        self._values: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._busy: dict[Hashable, threading.Lock] = {}
        self._lock = threading.Lock()
        #: When each was first and last used since it was measured.
        self._used: dict[Hashable, tuple[float, float]] = {}
        self.bytes = 0

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The value for `key`, made if it is not there. What `make` raises is raised, and nothing kept."""
        with self._lock:
            if key in self._values:
                return cast(T, self._found(key))
            busy = self._busy.setdefault(key, threading.Lock())
        with busy:
            with self._lock:
                if key in self._values:
                    return cast(T, self._found(key))
            try:
                value = make()
                self._put(key, value)
            finally:
                with self._lock:
                    self._busy.pop(key, None)
            return value

    def _found(self, key: Hashable) -> Any:
        """The value that is there: used now, and the last to go."""
        now = time.monotonic()
        self._used[key] = self._used.get(key, (now, now))[0], now
        self._values.move_to_end(key)
        return self._values[key][0]

    def _put(self, key: Hashable, value: object) -> None:
        with self._lock:
            now = time.monotonic()
            grown = [
                each
                for each, (first, last) in self._used.items()
                if now - last > _RESTED_SECONDS or now - first > _UNRESTED_SECONDS
            ]
            for each in grown:
                del self._used[each]
                self._measure(each, self._values[each][0])
            self._measure(key, value)
            # It was not yet used, only made: what is computed on the way comes now.
            self._used[key] = now, now
            while self.bytes > self._limit and len(self._values) > 1:
                self._drop(next(iter(self._values)))

    def _measure(self, key: Hashable, value: object) -> None:
        size = max(bytes_of(value, self._elsewhere), _LEAST_BYTES)
        self.bytes += size - self._values.get(key, (None, 0))[1]
        self._values[key] = value, size

    def _drop(self, key: Hashable) -> None:
        self.bytes -= self._values.pop(key)[1]
        self._used.pop(key, None)

    def forget(self, part: Hashable) -> None:
        """Let go of every value that has `part` in its key."""
        with self._lock:
            gone = [key for key in self._values if key == part or (isinstance(key, tuple) and part in key)]
            for key in gone:
                self._drop(key)

    def __len__(self) -> int:
        return len(self._values)
