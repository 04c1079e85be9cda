"""The process that decoders run below: it imports them once and forks for every file, so that each starts warm.

Run as `python -m plinto_core.sandbox.host SOCKET`; it ends when its standard input is closed. A request is one line
of JSON: `task`, `given`, `megabytes`, `seconds`. The answers are lines of JSON: the child's process number, how
far it is (`progress`) where the task says so, then either `done` with what the task gave, or `error` with its kind.
"""

import contextlib
import gc
import json
import logging
import os
import resource
import select
import signal
import socketserver
import sys
import warnings
from pathlib import Path
from typing import Any

from plinto_core import errors
from plinto_core.sandbox.progress import listen
from plinto_core.sandbox.tasks import TASKS

_REQUEST_BYTES = 1 << 20


class _Child(socketserver.StreamRequestHandler):
    """One file, in a process forked for it."""

    def handle(self) -> None:
        """Say who works, work, say what came of it."""
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        self._say({"pid": os.getpid()})
        asked = json.loads(self.rfile.readline(_REQUEST_BYTES))
        _limit(int(asked["megabytes"]) << 20, int(asked["seconds"]))
        listen(lambda share: self._say({"progress": share}))
        try:
            done = TASKS[asked["task"]](**asked["given"])
            # What is told is kept and sent as JSON, which has no infinite numbers: found here, it is the file's fault.
            json.dumps(done, allow_nan=False)
            answer: dict[str, Any] = {"done": done}
        except errors.PlintoError as error:
            answer = {"error": type(error).__name__, "text": str(error)}
        except OSError as error:
            answer = {"error": "OSError", "errno": error.errno or 0, "text": str(error)}
        except (MemoryError, RecursionError) as error:
            answer = {"error": type(error).__name__, "text": ""}
        except Exception as error:  # noqa: BLE001 - whatever a decoder raises is the file's fault; it is told as such
            answer = {"error": "Exception", "text": f"{type(error).__name__}: {error}"}
        self._say(answer)

    def _say(self, answer: dict[str, Any]) -> None:
        self.wfile.write(json.dumps(answer, ensure_ascii=True).encode() + b"\n")
        self.wfile.flush()


def _limit(memory_bytes: int, seconds: int) -> None:
    """Private memory beyond what was there before the fork, processor time, and no core dumps."""
    with open("/proc/self/status", encoding="ascii") as status:  # noqa: PTH123 - not a file of the disk
        now = next(int(line.split()[1]) << 10 for line in status if line.startswith("VmData"))
    resource.setrlimit(resource.RLIMIT_DATA, (now + memory_bytes,) * 2)
    # The soft limit ends it (SIGXCPU); a task that knows what its file is may set another one.
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, resource.getrlimit(resource.RLIMIT_CPU)[1]))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


class _Host(socketserver.ForkingMixIn, socketserver.UnixStreamServer):
    """Forks for each request; ends with whoever started it."""

    max_children = 64
    block_on_close = False
    request_queue_size = 128

    def service_actions(self) -> None:
        """Between requests: whether the other end of standard input is still there."""
        super().service_actions()
        readable, _, _ = select.select([sys.stdin], [], [], 0)
        if readable and not os.read(sys.stdin.fileno(), 64):
            # Whoever started it may have been killed, and cannot remove what it made for the address.
            with contextlib.suppress(OSError):
                address = Path(str(self.server_address))
                address.unlink()
                address.parent.rmdir()
            os._exit(0)

    def handle_error(self, request: Any, client_address: Any) -> None:
        """The other end went away: nobody is left to tell."""


def main() -> None:
    """Serve until standard input ends."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.umask(0o077)
    # What a decoder mutters about a broken file is told to its sender, not to the server's log.
    logging.disable(logging.CRITICAL)
    warnings.simplefilter("ignore")
    # A child that searches for garbage leaves alone what was here before it: touching it would copy it.
    gc.collect()
    gc.freeze()
    with _Host(sys.argv[1], _Child) as host:
        print("ready", flush=True)
        host.serve_forever(poll_interval=1.0)


if __name__ == "__main__":
    main()
