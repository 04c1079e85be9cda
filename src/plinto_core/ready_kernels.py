"""Kernels over rows as machine code that is kept: compiled once, and called from then on without their compiler.

Loading numba takes two seconds, which is more than a small picture takes altogether. What it compiled is kept as an object
file, and llvmlite alone puts that into memory.
"""

import contextlib
import ctypes
import hashlib
import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, wait
from functools import cache
from importlib.metadata import version
from importlib.util import find_spec
from itertools import count
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.cores import most_cores
from plinto_core.files import write_whole

#: Rows that a thread takes at a time: long enough to be worth a call, short enough that none waits for the last one.
ROWS = 1 << 16
#: Bytes of a SHA-256 before the object file.
_DIGEST = 32
_Given = NDArray[Any] | int | float
_Called = Callable[..., None]
_PASSED: dict[str, Any] = {"int64": ctypes.c_int64, "float64": ctypes.c_double}


class ReadyKernel:
    """The kernel `name` of `module`: a plain function of a first row, the row after the last, and what it is given.

    It is called with a count of rows, and with arrays (C order; the kernel sees their addresses, see `numba.carray`), whole
    numbers (int64) and others (float64). Rows are shared out to as many cores as the calling thread may take (see
    `cores`), by blocks of `ROWS`; on one core they are one block.
    """

    def __init__(self, module: str, name: str) -> None:
        self._module, self._name = module, name
        self._ready: dict[tuple[str, ...], _Called] = {}
        self._making = threading.Lock()

    def __call__(self, rows: int, *given: _Given) -> None:
        if not rows:
            return
        called, passed = self._found(given)
        starts = range(0, rows, ROWS)
        threads = min(most_cores(), len(starts))
        if threads <= 1:
            called(0, rows, *passed)
            return
        turns = count()

        def take() -> None:
            while (turn := next(turns)) < len(starts):
                called(starts[turn], min(starts[turn] + ROWS, rows), *passed)

        others = [_pool().submit(take) for _ in range(threads - 1)]
        take()
        wait(others)

    def in_order(self, rows: int, *given: _Given) -> None:
        """As a call, for a kernel whose rows depend on those before them: all of them in one go, by the calling thread."""
        if not rows:
            return
        called, passed = self._found(given)
        called(0, rows, *passed)

    def _found(self, given: tuple[_Given, ...]) -> tuple[_Called, list[int | float]]:
        """The code for what is given, and that as it takes it."""
        kinds = tuple(_kind_of(each) for each in given)
        passed = [each.ctypes.data if isinstance(each, np.ndarray) else each for each in given]
        return self._ready.get(kinds) or self._made(kinds), passed

    def _made(self, kinds: tuple[str, ...]) -> _Called:
        with self._making:
            if kinds not in self._ready:
                address = _loaded(_object_code(self._module, self._name, kinds), self._name)
                arguments = [_PASSED.get(kind, ctypes.c_void_p) for kind in kinds]
                self._ready[kinds] = ctypes.CFUNCTYPE(None, ctypes.c_int64, ctypes.c_int64, *arguments)(address)
            return self._ready[kinds]


def _kind_of(given: _Given) -> str:
    if not isinstance(given, np.ndarray):
        return "float64" if isinstance(given, float) else "int64"
    if not given.flags.c_contiguous or not given.dtype.isnative:
        raise ValueError("A kernel takes arrays in C order and in the machine's own byte order. Make them so before.")
    return f"{given.dtype.name}*"


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(os.cpu_count(), thread_name_prefix="kernel")


def _object_code(module: str, name: str, kinds: tuple[str, ...]) -> bytes:
    """The kernel's object file, from the disk or compiled and kept there."""
    folder, file = _folder(), f"{name}-{_key(module, name, kinds)}.o"
    if folder and (kept := _read(folder / file)) is not None:
        return kept
    # The compiler is loaded here, and nowhere else on a kernel's way.
    from plinto_core.compiled_kernels import compiled

    code = compiled(module, name, kinds)
    # Where nothing can be kept, the next process compiles it again.
    if folder:
        with contextlib.suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            write_whole(folder / file, lambda part: _write(part, code))
    return code


def _read(path: Path) -> bytes | None:
    """What was kept; None where there is nothing, or something damaged, which would take the process along."""
    with contextlib.suppress(OSError):
        kept = path.read_bytes()
        if hashlib.sha256(kept[_DIGEST:]).digest() == kept[:_DIGEST]:
            return kept[_DIGEST:]
    return None


def _write(part: Path, code: bytes) -> None:
    part.write_bytes(hashlib.sha256(code).digest() + code)


def _folder() -> Path | None:
    """Where object files are kept: beside what numba keeps, or with what else is computed once; None for nobody's home."""
    if told := os.environ.get("NUMBA_CACHE_DIR"):
        return Path(told) / "ready"
    with contextlib.suppress(RuntimeError):
        return Path(os.environ.get("PLINTO_CACHE") or Path.home() / ".cache" / "plinto") / "kernels"
    return None


def _key(module: str, name: str, kinds: tuple[str, ...]) -> str:
    """A digest, 24 hexadecimal digits, of all that could make another object file."""
    from llvmlite.binding import get_host_cpu_features, get_host_cpu_name

    libraries = [version(each) for each in ("numba", "llvmlite", "numpy")]
    machine = [get_host_cpu_name(), get_host_cpu_features().flatten()]
    told = "\n".join([module, name, *kinds, *libraries, *machine, _sources(module.rpartition(".")[0])])
    return hashlib.sha256(told.encode()).hexdigest()[:24]


@cache
def _sources(package: str) -> str:
    """A digest of the package that a kernel stands in: a kernel calls into its own package at most."""
    found = find_spec(package)
    assert found is not None and found.submodule_search_locations
    told = hashlib.sha256()
    for path in sorted(Path(found.submodule_search_locations[0]).glob("*.py")):
        told.update(path.read_bytes())
    return told.hexdigest()


_ENGINES: list[Any] = []
_LOADING = threading.Lock()


def _loaded(code: bytes, name: str) -> int:
    """Put an object file into memory; the address of its function `name`."""
    from llvmlite import binding

    with _LOADING:
        binding.initialize_native_target()
        binding.initialize_native_asmprinter()
        machine = binding.Target.from_default_triple().create_target_machine(jit=True)
        engine = binding.create_mcjit_compiler(binding.parse_assembly(""), machine)
        engine.add_object_file(binding.ObjectFileRef.from_data(code))
        engine.finalize_object()
        # The code lives as long as its engine.
        _ENGINES.append(engine)
        return int(engine.get_function_address(name))
