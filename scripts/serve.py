"""Start the server and its workers, print the address, and start again whichever of them dies."""

import argparse
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent
RESTART_AFTER_SECONDS = 1.0
#: A run that is under way is finished within this, or found by the next worker.
END_WITHIN_SECONDS = 20.0


def _port_is_free(host: str, port: int) -> bool:
    with socket.socket() as tried:
        tried.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            tried.bind((host, port))
        except OSError:
            return False
    return True


def _end(running: dict[str, "subprocess.Popen[bytes]"]) -> None:
    for process in running.values():
        process.terminate()
    until = time.monotonic() + END_WITHIN_SECONDS
    for process in running.values():
        try:
            process.wait(timeout=max(until - time.monotonic(), 0.1))
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def main() -> int:
    """Run until interrupted; ends with 1 where the port is taken."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8000)
    parser.add_argument("--host", default="127.0.0.1")
    given = parser.parse_args()
    if not _port_is_free(given.host, given.port):
        print(
            f"Port {given.port} of {given.host} is taken: another Plinto may run there already. End it, or choose "
            f"another port: make demo PORT={given.port + 1}",
            file=sys.stderr,
        )
        return 1
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plinto_server.settings")
    commands = {
        "server": [
            str(BIN / "gunicorn"), "plinto_server.wsgi", "--bind", f"{given.host}:{given.port}",
            "--workers", "1", "--threads", "32", "--timeout", "300", "--log-level", "warning", "--no-control-socket",
        ],
        "worker": [sys.executable, str(ROOT / "manage.py"), "work", "--queue", "default"],
        "worker for opening files": [sys.executable, str(ROOT / "manage.py"), "work", "--queue", "intake"],
    }  # fmt: skip
    running = {name: subprocess.Popen(command, cwd=ROOT) for name, command in commands.items()}
    print(f"Plinto is at http://{given.host}:{given.port}   (Ctrl C ends it)", flush=True)

    def end(_signal: int, _frame: object) -> None:
        raise KeyboardInterrupt

    signal.signal(signal.SIGTERM, end)
    try:
        while True:
            time.sleep(RESTART_AFTER_SECONDS)
            for name, process in running.items():
                if process.poll() is not None:
                    print(f"The {name} ended with {process.returncode} and is started again.", flush=True)
                    running[name] = subprocess.Popen(commands[name], cwd=ROOT)
    except KeyboardInterrupt:
        _end(running)
    return 0


if __name__ == "__main__":
    sys.exit(main())
