"""Start the server and its worker, print the address, and start either again when it dies."""

import argparse
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent
RESTART_AFTER_SECONDS = 1.0


def main() -> int:
    """Run until interrupted."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=8000)
    parser.add_argument("--host", default="127.0.0.1")
    given = parser.parse_args()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "plinto_server.settings")
    commands = {
        "server": [
            str(BIN / "gunicorn"), "plinto_server.wsgi", "--bind", f"{given.host}:{given.port}",
            "--workers", "1", "--threads", "8", "--timeout", "300", "--log-level", "warning", "--no-control-socket",
        ],
        "worker": [sys.executable, str(ROOT / "manage.py"), "work"],
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
        for process in running.values():
            process.terminate()
        for process in running.values():
            process.wait(timeout=20)
    return 0


if __name__ == "__main__":
    sys.exit(main())
