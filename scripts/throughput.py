"""Many files: a batch of large pictures whose worker is killed twice, a watched folder fed by a hostile hand, a batch of
ten thousand. Real server and workers in a folder of their own, over HTTP; writes its table into docs/measures.md.

`--files 20` for a smaller batch, `--fed 100` for a folder with fewer files, `--only NAME` for one part.
"""

import argparse
import io
import os
import platform
import random
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
from running_house import House, furnish, picture  # noqa: E402

from plinto_core.icc.standard import rgb_profile  # noqa: E402
from plinto_demo.build import kept  # noqa: E402
from plinto_demo.shop import CONDITIONS  # noqa: E402

HEADING = "## Many files"
RANDOM = random.Random(5)
OVER = ("done", "failed", "refused", "cancelled")


@contextmanager
def house(**env: str) -> Iterator[tuple[House, Outsider]]:
    """A house with a condition and a picture, for one part."""
    with tempfile.TemporaryDirectory(prefix="plinto-many-") as folder:
        running = House(Path(folder) / "data", PLINTO_WATCHED=str(Path(folder) / "watched"), **env)
        try:
            yield running, running.open()
        finally:
            running.close()


def large(seed: int) -> bytes:
    """A TIFF of 20 MP that no other seed has: waves of color and a little grain, LZW."""
    y, x = np.mgrid[0:4000, 0:5000].astype(np.float32)
    waves = [np.sin(x / (90 + 7 * seed % 61) + k) * np.cos(y / (130 + 3 * seed % 47) - k) for k in range(3)]
    grain = np.random.default_rng(seed).integers(0, 3, (4000, 5000, 1), dtype=np.uint8)
    pixels = (np.stack(waves, -1) * 110 + 127).astype(np.uint8) + grain
    file = io.BytesIO()
    tifffile.imwrite(file, pixels, photometric="rgb", compression="lzw", predictor=True, rowsperstrip=64, metadata=None,
                     resolution=(300, 300), resolutionunit="inch", iccprofile=rgb_profile("sRGB").raw)  # fmt: skip
    return file.getvalue()


def _busy() -> tuple[float, float]:
    """Seconds that all cores together were busy, and could have been, since the machine began."""
    ticks = [int(word) for word in Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:9]]
    return sum(ticks) - ticks[3] - ticks[4], sum(ticks)


def large_batch(files: int, _fed: int) -> Iterator[str]:
    """Pictures of 20 MP for one condition, with the worker killed at a third and at two thirds."""
    with house() as (running, person):
        _, known = furnish(person)
        runs = [
            person.upload("/api/artworks", f"large {number}.tif", large(number))[1]["run"]["id"]
            for number in range(files)
        ]
        artworks = [person.ended(run, 3600)["artwork_id"] for run in runs]
        begun, (busy, whole) = time.monotonic(), _busy()
        made = person.ask(
            "POST", "/api/batches", {"name": "Large", "artworks": artworks, "conditions": [known["slug"]]}
        )[1]
        killed = 0
        while True:
            counts = person.ask("GET", f"/api/batches/{made['id']}")[1]["counts"]
            over = sum(counts.get(state, 0) for state in OVER)
            if over == files:
                break
            if killed < 2 and over >= (killed + 1) * files // 3:
                running.kill("default")
                running.begin("default")
                killed += 1
            time.sleep(0.2)
        seconds = time.monotonic() - begun
        busy_after, whole_after = _busy()
        share = (busy_after - busy) / (whole_after - whole)
        items = person.ask("GET", f"/api/batches/{made['id']}/items?limit=500")[1]["items"]
        # Each picture once, and each file what the sheet says of it.
        of = Counter(each["of_name"] for each in items)
        separations = [each for each in _all_runs(person) if each["kind"] == "separation"]
        wrong = 0
        for each in items:
            data = person.ask("GET", f"/api/runs/{each['run_id']}/file")[1]
            sheet = person.ask("GET", f"/api/runs/{each['run_id']}/sheet")[1]
            wrong += sheet["written"]["sha256"] != sha256(data).hexdigest()
        left = running.left_over()
        yield (
            f"| batch of {files} × 20 MP, its worker killed {killed} times | {_said(counts)} in {seconds:.0f} s "
            f"({files * 20 / seconds:.0f} MP/s), {len(separations)} runs for {len(of)} pictures, {wrong} files not what "
            f"their sheets say; left over: {', '.join(left) or 'nothing'} | "
            f"{100 * share:.0f} % of both cores busy (aim 90) |"
        )


def _all_runs(person: Outsider) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    before = ""
    while page := person.ask("GET", f"/api/runs{before}")[1]:
        found += page
        before = f"?before={page[-1]['id']}"
    return found


def _said(counts: dict[str, int]) -> str:
    return ", ".join(f"{count} {state}" for state, count in sorted(counts.items()) if count)


def _put_at_once(place: Path, name: str, data: bytes) -> None:
    (place / name).write_bytes(data)


def _put_slowly(place: Path, name: str, data: bytes) -> None:
    with (place / name).open("wb") as file:
        for at in range(0, len(data), max(len(data) // 4, 1)):
            file.write(data[at : at + max(len(data) // 4, 1)])
            file.flush()
            time.sleep(0.7)


def _put_by_rename(place: Path, name: str, data: bytes) -> None:
    part = place / f".{sha256(name.encode(errors='surrogateescape')).hexdigest()[:12]}"
    part.write_bytes(data)
    part.rename(place / name)


def _put_locked(place: Path, name: str, data: bytes) -> None:
    """Nobody may read it for a while."""
    import fcntl

    with (place / name).open("wb") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        file.write(data[: len(data) // 2])
        file.flush()
        time.sleep(1.5)
        file.write(data[len(data) // 2 :])


def _put_over(place: Path, name: str, data: bytes) -> None:
    """Something else under its name first, in whose place it is put."""
    (place / name).write_bytes(b"not yet")
    _put_by_rename(place, name, data)


WAYS: tuple[Callable[[Path, str, bytes], None], ...] = (
    _put_at_once, _put_slowly, _put_by_rename, _put_locked, _put_over,
)  # fmt: skip


#: Cut, empty of sense, a link, a pipe, a program.
JUNK: tuple[Callable[[Path], Any], ...] = (
    lambda at: at.write_bytes(picture(7, 64)[:900]),
    lambda at: at.write_bytes(b"\x00" * 5000),
    lambda at: at.symlink_to("/etc/passwd"),
    os.mkfifo,
    lambda at: at.write_text("#!/bin/sh\nrm -rf /\n"),
)


def _names(number: int) -> str:
    strange = (
        f"plain {number}.tif", f"ümläut {number}.TIF", f"Nacht 🌙 {number}.tif", f"new\nline {number}.tif",
        f"{'long ' * 45}{number}.tif"[-250:], f"-rf {number}.tif", f"'; DROP {number}.tif", f"no ending {number}",
        f"two..dots {number}..tif", f" leading {number}.tif", f"%2e%2e {number}.tif", f"con {number}.tif",
    )  # fmt: skip
    return strange[number % len(strange)]


def hostile_folder(_files: int, fed: int) -> Iterator[str]:
    """A watched folder fed by a hostile hand, with its workers killed now and then; everything comes out once, or is said
    to have failed."""
    with house() as (running, person):
        _, known = furnish(person)
        watched = person.ask("POST", "/api/batches/watched", {"name": "fed", "condition": known["slug"]})[1]
        place = Path(watched["path"])
        good, junk = [], []
        begun = time.monotonic()

        def feed(numbers: range) -> None:
            for number in numbers:
                name, dice = _names(number), RANDOM.random()
                if dice < 0.08:
                    JUNK[number % len(JUNK)](place / "in" / name)
                    junk.append(name)
                else:
                    RANDOM.choice(WAYS)(place / "in", name, picture(7000 + number, 48))
                    good.append(name)

        hands = [threading.Thread(target=feed, args=(range(at, fed, 8),)) for at in range(8)]
        for hand in hands:
            hand.start()
        kills = 0
        while True:
            now = next(each for each in person.ask("GET", "/api/batches/watched")[1] if each["id"] == watched["id"])
            over = now["counts"].get("done", 0) + now["counts"].get("failed", 0)
            waiting = [each for each in (place / "in").iterdir() if not each.name.startswith(".")]
            if not any(hand.is_alive() for hand in hands) and not waiting and over == sum(now["counts"].values()):
                break
            if kills < 4 and over > (kills + 1) * fed // 5:
                name = ("default", "intake")[kills % 2]
                running.kill(name)
                running.begin(name)
                kills += 1
            time.sleep(0.5)
        seconds = time.monotonic() - begun
        out = sorted((place / "out").iterdir())
        sheets = [each for each in out if each.name.endswith("run sheet.json")]
        failed = [each for each in (place / "failed").iterdir() if each.name.endswith(".txt")]
        lost = len(good) + len(junk) - over
        inks = {sha256(each.read_bytes()).hexdigest() for each in out if each not in sheets}
        still = [each.name for each in (place / "work").iterdir()]
        yield (
            f"| watched folder, {len(good)} good and {len(junk)} bad files by eight hands, workers killed {kills} times | "
            f"{now['counts'].get('done', 0)} done, {now['counts'].get('failed', 0)} failed with a text each "
            f"({len(failed)} texts), {len(out) - len(sheets)} files out ({len(inks)} different) with {len(sheets)} sheets, "
            f"{lost} lost, {len(still)} left under way | {seconds:.0f} s |"
        )


def ten_thousand(_files: int, _fed: int) -> Iterator[str]:
    """1,250 small pictures for the shop's eight conditions: planned, asked for, listed, cancelled."""
    with house() as (_running, person):
        slugs = []
        for shop in CONDITIONS:
            run = person.upload("/api/conditions", f"{shop.slug}.icc", kept(shop).profile.read_bytes())[1]["run_id"]
            slugs.append(person.ended(run, 600)["run_sheet"]["slug"])
        runs = [
            person.upload("/api/artworks", f"{n}.tif", picture(20_000 + n, 40))[1]["run"]["id"] for n in range(1250)
        ]
        artworks = [person.ended(run, 600)["artwork_id"] for run in runs]
        wish = {"name": "Many", "artworks": artworks, "conditions": slugs, "name_rule": "{artwork} {condition}"}
        steps = []

        def timed(what: str, act: Callable[[], Any]) -> Any:
            begun = time.monotonic()
            status, found = act()
            assert status in (200, 201), (what, status, found)
            steps.append(f"{what} {time.monotonic() - begun:.2f} s")
            return found

        planned = timed("planned in", lambda: person.ask("POST", "/api/batches/plan", wish))
        made = timed("asked for in", lambda: person.ask("POST", "/api/batches", wish))
        place = f"/api/batches/{made['id']}"
        timed("counted in", lambda: person.ask("GET", place))
        timed("a page of its list in", lambda: person.ask("GET", f"{place}/items?offset=9000&limit=100"))
        timed("the list of batches in", lambda: person.ask("GET", "/api/batches"))
        timed("paused in", lambda: person.ask("POST", f"{place}/pause"))
        timed("cancelled in", lambda: person.ask("POST", f"{place}/cancel"))
        yield f"| batch of {planned['total']:,} files, {planned['problems']} with a problem | {', '.join(steps)} | |"


PARTS = {"batch": large_batch, "folder": hostile_folder, "ten-thousand": ten_thousand}


def main() -> None:
    """Each part after the other."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--files", type=int, default=200)
    parser.add_argument("--fed", type=int, default=1000)
    parser.add_argument("--only", choices=list(PARTS), action="append")
    given = parser.parse_args()
    rows = []
    for name, part in PARTS.items():
        if given.only and name not in given.only:
            continue
        begun = time.monotonic()
        for row in part(given.files, given.fed):
            rows.append(row)
            print(row, flush=True)
        print(f"  ({name}: {time.monotonic() - begun:.0f} s)", flush=True)
    if given.only:
        return
    head = (
        f"{datetime.now(UTC):%Y-%m-%d %H:%M} UTC, {platform.machine()}, {os.cpu_count()} cores, Python "
        f"{platform.python_version()}. Printed by `make throughput`: the real server and workers, over HTTP."
    )
    write_section(HEADING, [head, "", "| what | how it ended | |", "|---|---|---|", *rows])


if __name__ == "__main__":
    main()
