"""How many cores a kernel is worth."""

import contextlib
from collections.abc import Callable, Iterator
from typing import Any

from numba import get_num_threads, set_num_threads

#: Fewer rows take a kernel less time than waking another thread does, and far less than waiting for it on a busy machine.
_FEW_ROWS = 512


@contextlib.contextmanager
def cores(most: int) -> Iterator[None]:
    """Within the block, kernels that this thread calls take at most so many cores."""
    before = get_num_threads()
    set_num_threads(max(1, min(most, before)))
    try:
        yield
    finally:
        set_num_threads(before)


def on_its_cores(kernel: Callable[..., None], rows: int, *given: Any) -> None:
    """Run a kernel over `rows` rows: few of them on this thread alone, many on every core that this thread may take."""
    with cores(1) if rows < _FEW_ROWS else contextlib.nullcontext():
        kernel(*given)
