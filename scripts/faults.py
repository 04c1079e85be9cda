"""What happens when something breaks: killed, frozen, full, held, stepped, many at once. Bounded in time; writes its
table into docs/measures.md. `--moments 5` for fewer killed workers, `--only NAME` for one part.

Everything runs as `make demo` runs it, in a folder of its own: gunicorn, two workers, SQLite, over HTTP.
"""

import argparse
import contextlib
import io
import os
import platform
import random
import shutil
import signal
import socket
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
import tifffile

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "scripts")]

from measures_file import write_section  # noqa: E402
from outsider import Outsider  # noqa: E402

from plinto_core.icc.standard import rgb_profile  # noqa: E402
from plinto_demo.build import kept  # noqa: E402
from plinto_demo.shop import CONDITIONS, measure_chart  # noqa: E402

HEADING = "## Faults"
NAME, PASSWORD = "tester", "a-long-enough-password"
COTTON = next(shop for shop in CONDITIONS if shop.slug == "cotton-54t")
RANDOM = random.Random(11)
DAY = 86_400


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
    """A running Plinto: `processes` by name, each of which can be killed and started again."""

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
        subprocess.run(
            [sys.executable, "-c", f"import django; django.setup()\n{text}"], env=self.env, cwd=ROOT, check=True
        )

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

    def open(self) -> Outsider:
        """Begin everything, and sign in."""
        self.manage("migrate", "--verbosity", "0")
        self.program(
            "from plinto_server.accounts.people import add; from plinto_server.accounts.models import Role\n"
            "from django.contrib.auth.models import User\n"
            f"User.objects.filter(username={NAME!r}).exists() or add({NAME!r}, {PASSWORD!r}, Role.ADMINISTRATOR, None)"
        )
        for name in ("server", "default", "intake"):
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


@contextmanager
def house(**env: str) -> Iterator[tuple[House, Outsider]]:
    """A house with a condition and a picture, for one part."""
    with tempfile.TemporaryDirectory(prefix="plinto-faults-") as folder:
        running = House(Path(folder) / "data", **env)
        try:
            yield running, running.open()
        finally:
            running.close()


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


def _askers(person: Outsider, artwork: int, known: dict[str, Any]) -> dict[str, tuple[str, Ask]]:
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


def killed_workers(moments: int) -> Iterator[str]:
    """The worker killed at random moments of each kind of job."""
    with house() as (running, person):
        artwork, known = furnish(person)
        for kind, (worker, ask) in _askers(person, artwork, known).items():
            begun = time.monotonic()
            sound = person.ended(ask(-1))
            usual = time.monotonic() - begun
            outcomes: Counter[str] = Counter()
            different = 0
            for number in range(moments):
                run_id = ask(number)
                time.sleep(RANDOM.uniform(0, usual))
                running.kill(worker)
                running.begin(worker)
                done = person.ended(run_id)
                outcomes[done["state"]] += 1
                same_kind = kind.startswith(("separation", "films"))
                different += same_kind and done["run_sheet"]["written"] != sound["run_sheet"]["written"]
            left = running.left_over()
            count, wrong = running.digests()
            yield (
                f"| worker killed, {moments} moments of: {kind} (usually {usual:.1f} s) | {_counts(outcomes)}"
                f"{f', {different} other bytes' if different else ''} | {wrong} of {count} files wrong; left over: "
                f"{', '.join(left) or 'nothing'} |"
            )


def _counts(of: "Counter[str] | Counter[int]") -> str:
    return ", ".join(f"{count} × {what}" for what, count in sorted(of.items()))


def killed_server(moments: int) -> Iterator[str]:
    """The server killed in an upload."""
    with house() as (running, me):
        data = picture(3, 2600)
        begun = time.monotonic()
        me.upload("/api/artworks", "whole.tif", data)
        usual = time.monotonic() - begun
        answers: Counter[str] = Counter()
        for number in range(moments):
            ends: list[int] = []
            sent = data + bytes([number])

            def send(me: Outsider = me, sent: bytes = sent, number: int = number, ends: list[int] = ends) -> None:
                ends.append(me.upload("/api/artworks", f"{number}.tif", sent)[0])

            thread = threading.Thread(target=send)
            thread.start()
            time.sleep(RANDOM.uniform(0, usual))
            running.kill("server")
            thread.join()
            running.begin("server")
            me = running.enter()  # noqa: PLW2901 - a new server, a new session
            answers["taken" if ends[0] in (200, 202) else "broken off"] += 1
        runs = me.ask("GET", "/api/runs")[1]
        for run in runs:
            me.ended(run["id"])
        taken = len(me.ask("GET", "/api/artworks")[1])
        left = running.left_over()
        count, wrong = running.digests()
        yield (
            f"| server killed, {moments} moments of an upload of {len(data) >> 20} MB | {_counts(answers)} for the sender; "
            f"{taken} pictures there, {len(runs)} runs, all ended | {wrong} of {count} files wrong; left over: "
            f"{', '.join(left) or 'nothing'} |"
        )


def frozen_worker(_moments: int) -> Iterator[str]:
    """A worker stopped for longer than the silence allowed, and woken after another one finished."""
    with house() as (running, person):
        artwork, known = furnish(person)
        ask = _askers(person, artwork, known)["films, halftoned"][1]
        sound = person.ended(ask(-1))
        run_id = ask(0)
        while person.ask("GET", f"/api/runs/{run_id}")[1]["state"] == "queued":
            time.sleep(0.05)
        time.sleep(0.3)
        os.killpg(running.processes["default"].pid, signal.SIGSTOP)
        running.begin("default second")
        done = person.ended(run_id)
        os.killpg(running.processes["default"].pid, signal.SIGCONT)
        time.sleep(6)
        after = person.ask("GET", f"/api/runs/{run_id}")[1]
        same = after["run_sheet"] and after["run_sheet"]["written"] == sound["run_sheet"]["written"]
        file = person.ask("GET", f"/api/runs/{run_id}/file")[0]
        yield (
            f"| worker frozen in a run, another one finishes, the first wakes | {done['state']} by the second, "
            f"{after['state']} after waking, {'the same' if same else 'other'} bytes, download {file} | left over: "
            f"{', '.join(running.left_over()) or 'nothing'} |"
        )


def held_database(_moments: int) -> Iterator[str]:
    """Another process holds the database for half a minute."""
    with house() as (running, person):
        artwork, known = furnish(person)
        askers = _askers(person, artwork, known)
        run_id = askers["films, halftoned"][1](0)
        other = sqlite3.connect(running.data / "plinto.sqlite3", isolation_level=None, timeout=30)
        other.execute("BEGIN EXCLUSIVE")
        begun = time.monotonic()
        reads: list[float] = []
        statuses: Counter[int] = Counter()
        saved: list[tuple[int, float]] = []

        def save() -> None:
            at = time.monotonic()
            body = {"medium": {"name": "While held", "width_mm": 900, "length_m": 10, "price": 9, "currency": "EUR"}}
            saved.append((person.ask("POST", "/api/conditions/media", body)[0], time.monotonic() - at))

        thread = threading.Thread(target=save)
        thread.start()
        reader = Outsider(running.address)
        reader._jar = person._jar
        reader._opener = person._opener
        while time.monotonic() - begun < 30:
            at = time.monotonic()
            statuses[reader.ask("GET", "/api/runs")[0]] += 1
            reads.append(time.monotonic() - at)
            time.sleep(0.2)
        other.execute("COMMIT")
        thread.join()
        done = person.ended(run_id)
        yield (
            f"| database held by another for 30 s | lists: {_counts(statuses)}, largest {max(reads) * 1000:.0f} ms; a save "
            f"answered {saved[0][0]} after {saved[0][1]:.0f} s; the run under way: {done['state']} | left over: "
            f"{', '.join(running.left_over()) or 'nothing'}; processes that died: {sum(running.died.values())} |"
        )


def full_disk(_moments: int) -> Iterator[str]:
    """The disk full at each step, on a disk of its own."""
    with tempfile.TemporaryDirectory(prefix="plinto-full-") as folder:
        disk = Path(folder) / "disk"
        disk.mkdir()
        mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=260m", "tmpfs", str(disk)], check=False,
                                 capture_output=True)  # fmt: skip
        if mounted.returncode:
            yield "| disk full | not measured: a disk of its own cannot be mounted here | |"
            return
        running = House(disk / "data")
        try:
            person = running.open()
            artwork, known = furnish(person)
            running.manage("collect")
            yield from _full_steps(running, person, disk, artwork, known)
        finally:
            running.close()
            subprocess.run(["umount", "-l", str(disk)], check=False)
        shutil.rmtree(folder, ignore_errors=True)


def _full_steps(
    running: House, person: Outsider, disk: Path, artwork: int, known: dict[str, Any]
) -> Iterator[str]:  # fmt: skip
    ballast = disk / "ballast"

    def fill(leave: int) -> None:
        for path in (ballast, disk / "last bytes"):
            path.unlink(missing_ok=True)
        free = shutil.disk_usage(disk).free
        with ballast.open("wb") as file:
            os.posix_fallocate(file.fileno(), 0, max(free - leave, 4096))
        if leave == 0:
            with contextlib.suppress(OSError), (disk / "last bytes").open("wb", buffering=0) as file:
                while file.write(b"\0" * 512):
                    pass

    askers = _askers(person, artwork, known)
    extra = person.ended(person.upload("/api/artworks", "extra.tif", picture(77, 1100))[1]["run"]["id"])["artwork_id"]
    said: list[str] = []
    fill(3 << 20)
    status, answer = person.upload("/api/artworks", "large.tif", picture(5, 1500))
    said.append(f"upload: {status}")
    fill(9 << 20)
    status, answer = person.upload("/api/artworks", "decoded.tif", picture(6, 1500))
    state = person.ended(answer["run"]["id"]) if status == 202 else {"state": f"{status}", "message": str(answer)}
    said.append(f"room for the file and not its levels: {state['state']}")
    fill(6 << 20)
    run = person.ended(askers["films, halftoned"][1](0))
    said.append(f"films: {run['state']} ({run['message'][:24]}…)" if run["message"] else f"films: {run['state']}")
    fill(0)
    for name, (method, path, body) in {
        "saving rules": ("POST", "/api/house/rules", {"rules": {"name": "Full"}}),
        "reading lists": ("GET", "/api/artworks", None),
        "signing in": ("POST", "/api/session", {"user": NAME, "password": PASSWORD}),
        "removing": ("DELETE", f"/api/artworks/{extra}", None),
    }.items():
        other = Outsider(running.address) if name == "signing in" else person
        said.append(f"{name}: {other.ask(method, path, body)[0]}")
    freed = shutil.disk_usage(disk).free
    for path in (ballast, disk / "last bytes"):
        path.unlink(missing_ok=True)
    after = person.ended(askers["separation to TIFF"][1](0))
    count, wrong = running.digests()
    yield (
        f"| disk full, at 0 bytes for the last four | {'; '.join(said)}; {freed >> 20} MB free after removing; with room "
        f"again a separation is {after['state']} | {wrong} of {count} files wrong; left over: "
        f"{', '.join(running.left_over()) or 'nothing'} |"
    )


def stepped_clock(_moments: int) -> Iterator[str]:
    """The clock set a day on, and two days back, in the middle of a run, for the server and both workers."""
    with tempfile.TemporaryDirectory() as folder:
        off = Path(folder) / "seconds off"
        off.write_text("0")
        paths = os.pathsep.join(map(str, (ROOT / "scripts" / "stepped_clock", ROOT / "src")))
        with house(PLINTO_STEPPED_CLOCK=str(off), PYTHONPATH=paths) as (running, person):
            artwork, known = furnish(person)
            askers = _askers(person, artwork, known)
            sound = person.ended(askers["films, halftoned"][1](-1))
            said = []
            for number, (step, seconds) in enumerate({"a day on": DAY, "two days back": -DAY}.items()):
                runs = [askers["films, halftoned"][1](0), askers["opening a picture"][1](number)]
                time.sleep(1.0)
                off.write_text(str(seconds))
                films, opened = (running.enter().ended(run) for run in runs)
                same = films["run_sheet"] and films["run_sheet"]["written"] == sound["run_sheet"]["written"]
                said.append(f"{step}: films {films['state']}, {'the same' if same else 'other'} bytes, a picture "
                            f"opened: {opened['state']}")  # fmt: skip
            yield (
                f"| clock stepped in a run | {'; '.join(said)} | left over: "
                f"{', '.join(running.left_over()) or 'nothing'} |"
            )


def many_uploads(_moments: int) -> Iterator[str]:
    """Fifty clients send ten files each, five of them the same, at once, for a minute."""
    with house() as (running, person):
        shared = [picture(n, 300) for n in range(5)]
        statuses: Counter[int] = Counter()
        sent: dict[str, bytes] = {}
        lock = threading.Lock()
        running.program(
            "from plinto_server.accounts.people import add; from plinto_server.accounts.models import Role\n"
            "[add(f'hand {n}', 'a-long-enough-password', Role.OPERATOR, None) for n in range(50)]"
        )
        until = time.monotonic() + 60

        def client(number: int) -> None:
            me = Outsider(running.address)
            while me.sign_in(f"hand {number}", PASSWORD)[0] not in (200,):
                time.sleep(0.3)
            for count in range(10):
                if time.monotonic() > until and count >= 10:
                    return
                data = shared[count] if count < 5 else picture(10_000 + 50 * count + number, 300)
                status, _ = me.upload("/api/artworks", f"{number}-{count}.tif", data)
                with lock:
                    statuses[status] += 1
                    if status in (200, 202):
                        sent[sha256(data).hexdigest()] = data

        begun = time.monotonic()
        threads = [threading.Thread(target=client, args=(number,)) for number in range(50)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        took = time.monotonic() - begun
        while any(run["state"] in ("queued", "running") for run in person.ask("GET", "/api/runs?limit=200")[1]):
            time.sleep(0.5)
        there = {}
        for artwork in person.ask("GET", "/api/artworks")[1]:
            there[sha256(person.ask("GET", f"/api/artworks/{artwork['id']}/original")[1]).hexdigest()] = artwork
        lacking = len(sent.keys() - there.keys())
        count, wrong = running.digests()
        yield (
            f"| 50 clients × 10 files at once, 5 of them the same | {sum(statuses.values())} uploads in {took:.0f} s: "
            f"{_counts(statuses)}; {len(there)} different pictures of {len(sent)} there byte for byte, {lacking} lacking | "
            f"{wrong} of {count} files wrong; left over: {', '.join(running.left_over()) or 'nothing'} |"
        )


def many_viewers(_moments: int) -> Iterator[str]:
    """Twenty clients ask for pictures for a minute; what everybody else waits for meanwhile."""
    with house() as (running, person):
        artwork, known = furnish(person)
        slug, recipe = known["slug"], known["recipe"]
        until = time.monotonic() + 60
        pictures: list[float] = []
        others: dict[str, list[float]] = {}
        bad: Counter[int] = Counter()

        def viewer(number: int) -> None:
            me = running.enter()
            turn = 0
            while time.monotonic() < until:
                turn += 1
                moved = {**recipe, "ink": {**recipe["ink"], "limits": {"total_percent": 180 + (7 * number + turn) % 50,
                                                                      "per_ink_percent": []}}}  # fmt: skip
                body = {"recipe": moved, "view": {}, "window": {"left": 0, "top": 0, "width": 900, "height": 600,
                                                                "zoom": 0.6}}  # fmt: skip
                at = time.monotonic()
                status, _ = me.ask("POST", f"/api/bench/{artwork}/{slug}/picture", body)
                pictures.append(time.monotonic() - at)
                bad[status] += status != 200

        threads = [threading.Thread(target=viewer, args=(number,)) for number in range(20)]
        for thread in threads:
            thread.start()

        def timed(name: str, act: Callable[[], tuple[int, Any]]) -> Any:
            at = time.monotonic()
            status, answer = act()
            others.setdefault(name, []).append(time.monotonic() - at)
            bad[status] += status >= 400 or status == 0
            return answer

        time.sleep(3)
        count = 0
        while time.monotonic() < until - 2:
            count += 1
            other = Outsider(running.address)
            timed("signing in", lambda other=other: other.sign_in(NAME, PASSWORD))
            for path in ("/api/artworks", "/api/conditions", "/api/runs"):
                timed("lists", lambda path=path: person.ask("GET", path))
            body = {"x": count, "y": 1, "name": "pin"}
            made = timed("saving", lambda body=body: person.ask("POST", f"/api/bench/{artwork}/pins", body))
            gone = f"/api/bench/{artwork}/pins/{made['id']}"
            timed("removing", lambda gone=gone: person.ask("DELETE", gone))
            time.sleep(0.2)
        for thread in threads:
            thread.join()
        told = "; ".join(
            f"{name} p95 {_p95(times):.2f} s, largest {max(times):.2f} s" for name, times in others.items()
        )
        yield (
            f"| 20 clients ask for pictures for a minute | {told}; {len(pictures)} pictures, median "
            f"{statistics.median(pictures):.2f} s, p95 {_p95(pictures):.2f} s | refused or failed: "
            f"{sum(bad.values())} |"
        )


def _p95(times: list[float]) -> float:
    return float(np.percentile(times, 95))


PARTS = {
    part.__name__: part
    for part in (
        killed_workers, killed_server, frozen_worker, held_database, full_disk, stepped_clock, many_uploads, many_viewers,
    )
}  # fmt: skip


#: No part goes on for longer; killed workers are eighty runs.
LONGEST_SECONDS = {"killed_workers": 1800}


def _too_long(_signal: int, _frame: object) -> None:
    raise TimeoutError


def main() -> None:
    """Each part after the other."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--moments", type=int, default=20)
    parser.add_argument("--only", choices=list(PARTS), action="append")
    given = parser.parse_args()
    signal.signal(signal.SIGALRM, _too_long)
    rows = []
    for name, part in PARTS.items():
        if given.only and name not in given.only:
            continue
        begun = time.monotonic()
        most = LONGEST_SECONDS.get(name, 420)
        signal.alarm(most)
        try:
            for row in part(given.moments):
                rows.append(row)
                print(row, flush=True)
        except TimeoutError:
            rows.append(f"| {name.replace('_', ' ')} | did not come to an end within {most} s | |")
            print(rows[-1], flush=True)
        finally:
            signal.alarm(0)
        print(f"  ({name}: {time.monotonic() - begun:.0f} s)", flush=True)
    if given.only:
        return
    head = (
        f"{datetime.now(UTC):%Y-%m-%d %H:%M} UTC, {platform.machine()}, {os.cpu_count()} cores, Python "
        f"{platform.python_version()}. Printed by `make faults`: the real server and workers in a folder of their own, "
        "over HTTP."
    )
    write_section(HEADING, [head, "", "| what broke | how it ended | afterwards |", "|---|---|---|", *rows])


if __name__ == "__main__":
    main()
