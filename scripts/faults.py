"""What happens when something breaks: killed, frozen, full, held, stepped, many at once. Bounded in time; writes its
table into docs/measures.md. `--moments 5` for fewer killed workers, `--only NAME` for one part.

Everything runs as `make demo` runs it, in a folder of its own: gunicorn, two workers, SQLite, over HTTP.
"""

import argparse
import contextlib
import os
import platform
import random
import shutil
import signal
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

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "scripts")]

from measures_file import write_section  # noqa: E402
from outsider import Outsider  # noqa: E402
from running_house import NAME, PASSWORD, House, askers_of, furnish, picture  # noqa: E402

from plinto_demo.artwork import PAINTINGS, write_painting  # noqa: E402

HEADING = "## Faults"
RANDOM = random.Random(11)
DAY = 86_400


@contextmanager
def house(**env: str) -> Iterator[tuple[House, Outsider]]:
    """A house with a condition and a picture, for one part."""
    with tempfile.TemporaryDirectory(prefix="plinto-faults-") as folder:
        running = House(Path(folder) / "data", **env)
        try:
            yield running, running.open()
        finally:
            running.close()


def killed_workers(moments: int) -> Iterator[str]:
    """The worker killed at random moments of each kind of job."""
    with house() as (running, person):
        artwork, known = furnish(person)
        for kind, (worker, ask) in askers_of(person, artwork, known).items():
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
        ask = askers_of(person, artwork, known)["films, halftoned"][1]
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
        askers = askers_of(person, artwork, known)
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

    askers = askers_of(person, artwork, known)
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
            askers = askers_of(person, artwork, known)
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
    """Twenty clients move an ink limit over a painting for a minute and never rest, each picture with settings that
    nobody had; what everybody else waits for meanwhile."""
    with house() as (running, person), tempfile.TemporaryDirectory() as folder:
        _, known = furnish(person)
        painted = write_painting(PAINTINGS[0], Path(folder))
        taken = person.upload("/api/artworks", painted.name, painted.read_bytes())[1]
        artwork = person.ended(taken["run"]["id"])["artwork_id"]
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
                limits = {"total_percent": 180 + (1000 * number + turn) * 0.618 % 50, "per_ink_percent": []}
                moved = {**recipe, "ink": {**recipe["ink"], "limits": limits}}
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
            points = {"recipe": recipe, "points": [[count % 900, 40 * k % 900] for k in range(6)]}
            timed("read-outs", lambda points=points: person.ask("POST", f"/api/bench/{artwork}/{slug}/trace", points))
            time.sleep(0.2)
        for thread in threads:
            thread.join()
        told = "; ".join(
            f"{name} p95 {_p95(times):.2f} s, largest {max(times):.2f} s" for name, times in others.items()
        )
        yield (
            f"| 20 clients ask for pictures for a minute, a new ink limit each | {told}; {len(pictures)} pictures, median "
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
