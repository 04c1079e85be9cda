"""Asking the sandbox: one call a file, with an error in words whatever the file does to its decoder."""

import atexit
import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plinto_core import errors
from plinto_core.errors import BusyError, Cancelled, DecoderError, PlintoError

_ANSWER_BYTES = 16 << 20
_START_SECONDS = 120.0
_POLL_SECONDS = 0.2


@dataclass(frozen=True)
class Limits:
    """Of one decoding: private memory in megabytes, processor time and time by the clock in seconds."""

    megabytes: int = 1024
    seconds: int = 8
    clock_seconds: float = 9.5

    @classmethod
    def for_picture(cls, width: int, height: int, channels: int, depth: int) -> "Limits":
        """For decoding a picture of this size: the slowest pace and the most memory that honest files take."""
        megapixels = width * height / 1e6
        # Twice its bytes (decoded, and turned or mixed), and the coefficients of a progressive JPEG: two a value.
        megabytes = 600 + megapixels * channels * (2 * depth // 8 + 2)
        seconds = round(20 + megapixels / 4)
        return cls(round(megabytes), seconds, seconds * 1.5)


#: Headers, profiles and measurement files: somebody waits for the answer.
QUICK = Limits()


class Sandbox:
    """The host process, started when it is first needed and again when it has died; shared by threads."""

    def __init__(self, at_once: int = 4) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._places = threading.BoundedSemaphore(at_once)

    def start(self) -> None:
        """Have the host ready; otherwise the first file waits for its imports."""
        with self._lock:
            self._address()

    def run(
        self, task: str, given: dict[str, Any], name: str, limits: Limits = QUICK,
        cancelled: Callable[[], bool] = lambda: False, progress: Callable[[float], None] = lambda share: None,
    ) -> dict[str, Any]:  # fmt: skip
        """What the task (of `tasks.TASKS`) gave for the file called `name`.

        Raises the `PlintoError` that the task raised, `DecoderError` where the file needs more than its limits or
        breaks its decoder, `BusyError` where others keep every place, `Cancelled`, or OSError where the disk is full.
        """
        with self._place(name, limits, cancelled):
            with self._lock:
                address = self._address()
            with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as line:
                line.connect(address)
                asked = {"task": task, "given": given, "megabytes": limits.megabytes, "seconds": limits.seconds}
                line.sendall(json.dumps(asked).encode() + b"\n")
                answer = _answer(line, name, limits.clock_seconds, cancelled, progress)
        if "done" in answer:
            done: dict[str, Any] = answer["done"]
            return done
        # Where a file lies here is nobody's business who sent it.
        for value in given.values():
            if isinstance(value, str) and value.startswith("/"):
                answer["text"] = str(answer.get("text", "")).replace(value, name)
        raise _error(answer, name)

    @contextlib.contextmanager
    def _place(self, name: str, limits: Limits, cancelled: Callable[[], bool]) -> Iterator[None]:
        """One of the places, waited for as long as the file itself may take."""
        until = time.monotonic() + limits.clock_seconds
        while not self._places.acquire(timeout=_POLL_SECONDS):
            if cancelled():
                raise Cancelled(f"'{name}' was stopped before it was opened.")
            if time.monotonic() > until:
                raise BusyError(
                    f"So many files are being looked at that '{name}' found no place. Try again in a moment."
                )
        try:
            yield
        finally:
            self._places.release()

    def _address(self) -> str:
        if self._process is not None and self._process.poll() is None:
            assert self._folder is not None
            return f"{self._folder.name}/host"
        self.close()
        self._folder = tempfile.TemporaryDirectory(prefix="plinto-sandbox-")
        address = f"{self._folder.name}/host"
        # One thread each: what is forked must find no lock held by a thread that is not there.
        env = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
        self._process = subprocess.Popen(
            [sys.executable, "-m", "plinto_core.sandbox.host", address],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, env=env, start_new_session=True,
        )  # fmt: skip
        assert self._process.stdout is not None
        if self._process.stdout.readline().strip() != b"ready":
            raise RuntimeError("the decoders' process did not start; its output says why")
        return address

    def close(self) -> None:
        """End the host."""
        if self._process is not None:
            for pipe in (self._process.stdin, self._process.stdout):
                if pipe:
                    pipe.close()
            self._process.terminate()
            self._process.wait()
            self._process = None
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None


def _answer(
    line: socket.socket, name: str, seconds: float, cancelled: Callable[[], bool], progress: Callable[[float], None]
) -> dict[str, Any]:
    """The last line that the child says, or what became of it; a child that has not answered by then is ended."""
    pid = 0
    try:
        for said in _lines(line, name, time.monotonic() + seconds, cancelled):
            if "pid" in said:
                pid = int(said["pid"])
            elif "progress" in said:
                progress(float(said["progress"]))
            else:
                # A child that answered ends by itself.
                pid = 0
                return said
        # Killed by its limit on processor time, by the system, or by a fault in a decoder's own code.
        return {"error": "Died"}
    except _TooMuchError as error:
        return {"error": str(error)}
    finally:
        if pid:
            with contextlib.suppress(ProcessLookupError, PermissionError):
                os.kill(pid, signal.SIGKILL)


class _TooMuchError(Exception):
    """It took too long, or said too much."""


def _lines(
    line: socket.socket, name: str, until: float, cancelled: Callable[[], bool]
) -> Iterator[dict[str, Any]]:  # fmt: skip
    """What comes through the socket, line by line, to its end."""
    line.settimeout(_POLL_SECONDS)
    rest, taken = b"", 0
    while True:
        if cancelled():
            raise Cancelled(f"'{name}' was stopped while it was opened.")
        if time.monotonic() > until:
            raise _TooMuchError("Timeout")
        try:
            piece = line.recv(1 << 16)
        except TimeoutError:
            continue
        except ConnectionError:
            return
        if not piece:
            return
        taken += len(piece)
        if taken > _ANSWER_BYTES:
            raise _TooMuchError("MemoryError")
        *lines, rest = (rest + piece).split(b"\n")
        yield from map(json.loads, lines)


def _error(answer: dict[str, Any], name: str) -> PlintoError | OSError:
    kind, text = answer["error"], answer.get("text", "")
    if kind == "OSError" and answer.get("errno"):
        return OSError(answer["errno"], text)
    known = getattr(errors, kind, None)
    if isinstance(known, type) and issubclass(known, PlintoError):
        error = known.__new__(known)
        PlintoError.__init__(error, text)
        return error
    causes = {
        "Timeout": "takes far longer to read than a file of its size does",
        "Died": "takes far more work to read than a file of its size does",
        "MemoryError": "needs far more memory to read than a file of its size does",
        "RecursionError": "is nested too deep to be read",
    }
    cause = causes.get(kind, f"is damaged and cannot be read ({text[:200]})")
    return DecoderError(f"'{name}' {cause}. Export it again.")


sandbox = Sandbox()
atexit.register(sandbox.close)


def check_file(task: str, path: Path, name: str, limits: Limits = QUICK) -> dict[str, Any]:
    """The facts of a profile, a measurement file or a set of house rules (`task`), read in the sandbox."""
    given = {"path": str(path)} if task == "profile" else {"path": str(path), "name": name}
    return sandbox.run(task, given, name, limits)
