"""A Plinto of one's own to measure and to break: its processes by name, as `make demo` runs them, over HTTP."""

import io
import os
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from outsider import Outsider

from plinto_core.icc.standard import rgb_profile
from plinto_demo.build import kept
from plinto_demo.shop import CONDITIONS, measure_chart

ROOT = Path(__file__).resolve().parents[1]
NAME, PASSWORD = "tester", "a-long-enough-password"
COTTON = next(shop for shop in CONDITIONS if shop.slug == "cotton-54t")


def picture(seed: int, side: int = 900) -> bytes:
    """A TIFF of noise and gradients that no other seed has."""
    random_ = np.random.default_rng(seed)
    pixels = random_.integers(0, 255, (side, side, 3)).astype(np.uint8)
    pixels[: side // 2] = np.linspace(0, 255, side)[None, :, None].astype(np.uint8)
    pixels[0, 0] = seed % 251, seed // 251 % 251, 7
    file = io.BytesIO()
    tifffile.imwrite(file, pixels, photometric="rgb", compression="zlib", rowsperstrip=64, metadata=None,
                     resolution=(300, 300), resolutionunit="inch", iccprofile=rgb_profile("sRGB").raw)  # fmt: skip
    return file.getvalue()


class House:
    """A running Plinto: `processes` by name, each of which can be killed and started again. `env` is added to theirs."""

    def __init__(self, data: Path, **env: str) -> None:
        self.data = data
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        shared = {name: os.environ.get(name, str(ROOT / "var" / folder)) for name, folder in
                  (("NUMBA_CACHE_DIR", "kernels"), ("PLINTO_SHOP", "shop"))}  # fmt: skip
        self.env = {**os.environ, **shared, "PLINTO_DATA": str(data), "PLINTO_CACHE": str(data / "cache"),
                    "PLINTO_LEAST_FREE_MB": "1", "DJANGO_SETTINGS_MODULE": "plinto_server.settings",
                    "PYTHONPATH": str(ROOT / "src"), **env}  # fmt: skip
        self.processes: dict[str, subprocess.Popen[bytes]] = {}
        self.killed: set[str] = set()
        self.died: Counter[str] = Counter()
        self.closed = threading.Event()
        self.log = (data.parent / f"{data.name}.log").open("ab")

    def manage(self, *words: str) -> str:
        """A management command."""
        done = subprocess.run([sys.executable, str(ROOT / "manage.py"), *words], env=self.env, cwd=ROOT, check=True,
                              capture_output=True, text=True)  # fmt: skip
        return done.stdout

    def program(self, text: str) -> None:
        """Python inside Django."""
        print(self.told(text), end="")

    def told(self, text: str) -> str:
        """What Python inside Django prints."""
        words = [sys.executable, "-c", f"import django; django.setup()\n{text}"]
        return subprocess.run(words, env=self.env, cwd=ROOT, check=True, stdout=subprocess.PIPE, text=True).stdout

    def begin(self, name: str) -> None:
        """Start a process: 'server', or a worker named by its queue."""
        gunicorn = [str(Path(sys.executable).parent / "gunicorn"), "plinto_server.wsgi", "--bind",
                    f"127.0.0.1:{self.port}", "--workers", "1", "--threads", "32", "--timeout", "300",
                    "--log-level", "warning", "--no-control-socket"]  # fmt: skip
        queue = name.split(maxsplit=1)[0]
        command = (
            gunicorn if name == "server" else [sys.executable, str(ROOT / "manage.py"), "work", "--queue", queue]
        )
        self.processes[name] = subprocess.Popen(
            command, env=self.env, cwd=ROOT, stdout=self.log, stderr=self.log, start_new_session=True
        )
        self.killed.discard(name)

    def kill(self, name: str) -> None:
        """End a process and what it started, without a word."""
        self.killed.add(name)
        process = self.processes[name]
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()

    def open(self, *names: str) -> Outsider:
        """Begin everything, or the processes that are named, and sign in."""
        self.manage("migrate", "--verbosity", "0")
        self.program(
            "from plinto_server.accounts.people import add; from plinto_server.accounts.models import Role\n"
            "from django.contrib.auth.models import User\n"
            f"User.objects.filter(username={NAME!r}).exists() or add({NAME!r}, {PASSWORD!r}, Role.ADMINISTRATOR, None)"
        )
        for name in names or ("server", "default", "intake"):
            self.begin(name)
        threading.Thread(target=self._supervise, daemon=True).start()
        return self.enter()

    def _supervise(self) -> None:
        """What dies by itself is started again, as `scripts/serve.py` does; what a part kills it starts itself."""
        while not self.closed.wait(1.0):
            for name, process in list(self.processes.items()):
                if process.poll() is not None and name not in self.killed:
                    self.died[name] += 1
                    self.begin(name)

    def enter(self) -> Outsider:
        """Sign in, once the server answers."""
        for _ in range(300):
            person = Outsider(self.address)
            if person.sign_in(NAME, PASSWORD)[0] == 200:
                return person
            time.sleep(0.2)
        raise TimeoutError("the server does not answer")

    def close(self) -> None:
        """End everything."""
        self.closed.set()
        for name, process in self.processes.items():
            if process.poll() is None:
                self.kill(name)
        self.log.close()
        if keep := os.environ.get("FAULTS_LOG"):
            shutil.copy(self.data.parent / f"{self.data.name}.log", keep)

    def left_over(self) -> list[str]:
        """What lies about after a round of collecting."""
        self.manage("collect")
        found = [*(self.data / "making").glob("*"), *(self.data / "incoming").glob("*")]
        found += [path for path in (self.data / "derived").glob("*/*") if not path.name.startswith("levels-")]
        return [str(path.relative_to(self.data)) for path in found]

    def digests(self) -> tuple[int, int]:
        """Files of the store, and how many of them are not what they are called."""
        files = [path for path in (self.data / "store").rglob("*") if path.is_file()]
        return len(files), sum(sha256(path.read_bytes()).hexdigest() != path.name for path in files)


def furnish(person: Outsider) -> tuple[int, dict[str, Any]]:
    """Take in Cotton 54T and a picture; the picture's number and the condition's recipe."""
    condition = kept(COTTON).profile.read_bytes()
    run = person.upload("/api/conditions", "cotton.icc", condition)[1]
    done = person.ended(run["run_id"])
    assert done["state"] == "done", done
    taken = person.upload("/api/artworks", "first.tif", picture(1, 1400))[1]
    opened = person.ended(taken["run"]["id"])
    assert opened["state"] == "done", opened
    artwork = opened["artwork_id"]
    recipe = person.ask("GET", f"/api/bench/{artwork}/{done['run_sheet']['slug']}/recipe")[1]["recipe"]
    return artwork, {"slug": done["run_sheet"]["slug"], "recipe": recipe}


Ask = Callable[[int], int]


def askers_of(person: Outsider, artwork: int, known: dict[str, Any]) -> dict[str, tuple[str, Ask]]:
    """Kinds of jobs: the worker that does it, and how it is asked for (a number to its run)."""

    def separation(**deliver: Any) -> Ask:
        recipe = {**known["recipe"], "deliver": {**known["recipe"]["deliver"], **deliver}}
        body = {"artwork_id": artwork, "condition": known["slug"], "recipe": recipe}
        return lambda number: int(person.ask("POST", "/api/runs", body)[1]["id"])

    def opening(number: int) -> int:
        return int(person.upload("/api/artworks", f"{number}.tif", picture(1000 + number, 1200))[1]["run"]["id"])

    text = measure_chart(COTTON, 400).to_cgats().encode()

    def profile(number: int) -> int:
        return int(person.upload("/api/conditions", f"{number}.txt", text)[1]["run_id"])

    return {
        "separation to TIFF": ("default", separation()),
        "films, halftoned": ("default", separation(format="films", film={"dpi": 400, "ruling_lpi": 40})),
        "opening a picture": ("intake", opening),
        "profile from measurements": ("default", profile),
    }
