"""How many cores a kernel is worth."""

import contextlib
import os
import threading
from collections.abc import Callable, Iterator
from typing import Any

#: Fewer rows take a kernel less time than waking another thread does, and far less than waiting for it on a busy machine.
_FEW_ROWS = 512
_THREAD = threading.local()


def most_cores() -> int:
    """How many cores this thread may take."""
    return int(getattr(_THREAD, "most", 0)) or _cores()


def _cores() -> int:
    # Of the machine's, those that this process was given.
    return len(os.sched_getaffinity(0))


def take_at_most(most: int) -> None:
    """From now on, kernels that this thread calls take at most so many cores."""
    # Here, for what is kept as machine code runs without the compiler.
    from numba import config, set_num_threads

    _THREAD.most = max(1, min(most, _cores()))
    set_num_threads(min(_THREAD.most, int(vars(config)["NUMBA_NUM_THREADS"])))


@contextlib.contextmanager
def cores(most: int) -> Iterator[None]:
    """Within the block, kernels that this thread calls take at most so many cores, and no more than before."""
    before = most_cores()
    take_at_most(min(most, before))
    try:
        yield
    finally:
        take_at_most(before)


def on_its_cores(kernel: Callable[..., None], rows: int, *given: Any) -> None:
    """Run a kernel over `rows` rows: few of them on this thread alone, many on every core that this thread may take."""
    with cores(1) if rows < _FEW_ROWS else contextlib.nullcontext():
        kernel(*given)
