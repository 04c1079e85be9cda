"""How fast 1, 2 and 3 workers make a batch over PostgreSQL, Redis and a store; what one run takes of each; and where a
model of that bends. Writes its part of docs/machines.md. Needs `make .venv/.machines` and the two Debian packages.
"""

import os
import re
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "scripts")]

from running_house import House, askers_of, furnish, picture  # noqa: E402
from services import Services  # noqa: E402

RUNS = 24
LARGE_SIDE = 6000
TARGET = ROOT / "docs" / "machines.md"
#: A network of 1 Gbit/s to the store, as it is used.
STORE_BYTES_A_SECOND = 100e6
HANDS = """
import threading, time
from datetime import UTC, datetime
from django.db import connection, transaction
from plinto_server.files.models import Blob
def hand(n):
    for each in range(250):
        with transaction.atomic():
            Blob.objects.update_or_create(sha256=f'rate-{n}-{each}', defaults={'bytes': 0, 'touched_at': datetime.now(UTC)})
    connection.close()
hands = [threading.Thread(target=hand, args=(n,)) for n in range(4)]
begun = time.monotonic()
[each.start() for each in hands]; [each.join() for each in hands]
print('TRANSACTIONS A SECOND', 1000 / (time.monotonic() - begun))
Blob.objects.filter(sha256__startswith='rate-').delete()
"""


def main() -> None:
    """Measure, fit, write."""
    with tempfile.TemporaryDirectory(prefix="plinto-machines-") as folder:
        services = Services(Path(folder))
        house = House(Path(folder) / "data", **services.env)
        try:
            services.begin()
            person = house.open("server", "default", "intake")
            artwork, known = furnish(person)
            ask = askers_of(person, artwork, known)["separation to TIFF"][1]
            person.ended(ask(0))
            curve: dict[int, float] = {}
            for workers in (1, 2, 3):
                if workers > 1:
                    house.begin(f"default {workers}")
                    time.sleep(6)
                    # What a worker compiles and bakes the first time is not the rate of its work.
                    _batch(person, ask, 2 * workers)
                curve[workers] = _batch(person, ask, RUNS)
            moved = _moved(person)
            before = services.count_locks(True)
            time.sleep(1)
            _batch(person, ask, RUNS)
            locks = (services.count_locks(False) - before) / RUNS
            rate = float(re.findall(r"SECOND ([\d.]+)", house.told(HANDS))[0])
            pieces = _one_picture(house, person, known)
        finally:
            house.close()
            services.end()
    _write(curve, locks, rate, moved, pieces)


def _one_picture(house: House, person, known) -> dict[str, float]:  # type: ignore[no-untyped-def]
    """Seconds for one large picture: by one worker whole, in pieces by one and by two."""
    taken = person.upload("/api/artworks", "large.tif", picture(77, LARGE_SIDE))[1]
    artwork = person.ended(taken["run"]["id"])["artwork_id"]
    body = {"artwork_id": artwork, "condition": known["slug"], "recipe": known["recipe"]}
    workers = [name for name in house.processes if name.startswith("default")]
    found = {}
    for told, megapixels, count in (
        ("whole", "0", 1),
        ("in pieces, one worker", "6", 1),
        ("in pieces, two workers", "6", 2),
    ):
        for name in set(workers) - house.killed:
            house.kill(name)
        house.env["PLINTO_PIECE_MEGAPIXELS"] = megapixels
        for name in workers[:count]:
            house.begin(name)
        seconds = []
        for _ in range(3):
            begun = time.monotonic()
            done = person.ended(person.ask("POST", "/api/runs", body)[1]["id"], 600)
            assert done["state"] == "done", done
            seconds.append(time.monotonic() - begun)
        # The first time each worker starts, compiles and bakes.
        found[told] = min(seconds[1:])
    return found


def _batch(person, ask, count: int) -> float:  # type: ignore[no-untyped-def]
    """Runs a second."""
    begun = time.monotonic()
    asked = [ask(number) for number in range(count)]
    for run_id in asked:
        done = person.ended(run_id)
        assert done["state"] == "done", done
    return count / (time.monotonic() - begun)


def _moved(person) -> float:  # type: ignore[no-untyped-def]
    """Bytes of a run that go to the store and come from it."""
    run = person.ask("GET", "/api/runs?limit=1")[1][0]
    return float(run["result_bytes"])


def _write(curve: dict[int, float], locks: float, rate: float, moved: float, pieces: dict[str, float]) -> None:
    one = curve[1]
    lock = locks / rate
    lines = [
        f"{os.cpu_count()} cores for all of it, {RUNS} separations of 2 MP (8 bit, LZW) after a warm-up, over HTTP:",
        "",
        "| workers | runs a second | × one |",
        "|---|---|---|",
        *(f"| {count} | {found:.2f} | {found / one:.2f} |" for count, found in curve.items()),
        "",
        f"One run takes the lock of the house {locks:.0f} times (reading and signs of life go without it); four hands at "
        f"once get {rate:.0f} transactions a second through it; "
        f"{moved / 1e6:.1f} MB go to the store. More workers than cores gain nothing here: one run uses both cores.",
        "",
        "The model: a machine with two cores makes "
        f"*r* = {one:.2f} runs a second, and all machines together no more than the lock lets through, "
        f"1 / {lock * 1000:.0f} ms = {1 / lock:.0f} runs a second, nor than the network to the store carries, "
        f"{STORE_BYTES_A_SECOND / moved:.0f} a second at 100 MB/s. With *W* machines, 1 / (1 / (*W* · *r*) + lock):",
        "",
        "| machines | runs a second | a day |",
        "|---|---|---|",
    ]
    for machines in (1, 2, 5, 10, 20, 50):
        found = min(1 / (1 / (machines * one) + lock), STORE_BYTES_A_SECOND / moved)
        lines.append(f"| {machines} | {found:.1f} | {found * 86_400:,.0f} |")
    needed = next(count for count in range(1, 1000) if 1 / (1 / (count * one) + lock) * 86_400 > 1e5)
    store = STORE_BYTES_A_SECOND / moved
    first, why = (
        (store, "the network to the store is full") if store < 1 / lock else (1 / lock, "one waits for the lock")
    )
    lines += [
        "",
        f"10⁵ files a day of this size need {needed} machine{'s' if needed > 1 else ''}. It bends where *W* · *r* comes "
        f"near {first:.0f} a second, at about {first / one:.0f} machines: then {why}; the lock alone would carry "
        f"{1 / lock / one:.0f} machines. Larger pictures take as few transactions for more work and more bytes.",
    ]
    whole = pieces["whole"]
    lines += [
        "",
        f"One picture of {LARGE_SIDE**2 / 1e6:.0f} MP (8 bit, LZW, noise) on the same two cores, in pieces of 6 MP:",
        "",
        "| | seconds | × whole |",
        "|---|---|---|",
        *(f"| {told} | {seconds:.1f} | {seconds / whole:.2f} |" for told, seconds in pieces.items()),
        "",
        "What pieces cost on one machine (they go to the store and come from it, and are joined) is what the second row "
        "has more than the first. Whoever joins writes and measures the whole file: many machines do not bring it below "
        "that.",
    ]
    text = TARGET.read_text()
    head = text[: text.index("## Measured")]
    TARGET.write_text(f"{head}## Measured\n\nPrinted by `scripts/bench_machines.py`.\n\n" + "\n".join(lines) + "\n")


if __name__ == "__main__":
    main()
