"""Two machines that share nothing but a database, a queue and a store; what is killed and cut is done once all the same."""

import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from hashlib import sha256
from pathlib import Path
from typing import Any

import pytest
from outsider import Outsider
from running_house import House, askers_of, furnish, picture
from services import Services


@pytest.fixture(scope="module")
def services(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Services]:
    """Database, queue and store."""
    begun = Services(tmp_path_factory.mktemp("services"))
    try:
        begun.begin()
        yield begun
    finally:
        begun.end()


@pytest.fixture(scope="module")
def machines(services: Services, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[House, House]]:
    """A machine with a web process and a worker, and one with a web process and two; each with a data folder of its own."""
    folder = tmp_path_factory.mktemp("machines")
    # Pieces of 5 MP, so that one large picture is there for several workers.
    env = {**services.env, "PLINTO_PIECE_MEGAPIXELS": "5"}
    first, second = (House(folder / name, **env) for name in ("first", "second"))
    try:
        first.open("server", "default", "intake")
        second.open("server", "default", "default second", "intake")
        yield first, second
    finally:
        first.close()
        second.close()


@pytest.fixture(scope="module")
def work(machines: tuple[House, House]) -> tuple[tuple[Outsider, Outsider], int, dict[str, Any]]:
    """Somebody at each machine, a picture and a condition, both brought in at the first one."""
    people = machines[0].enter(), machines[1].enter()
    artwork, known = furnish(people[0])
    return people, artwork, known


def _worker_of(services: Services, run_id: int) -> int:
    """The process that carries a run out, once one does."""
    for _ in range(600):
        ((state, worker),) = services.asked("SELECT state, worker FROM runs_run WHERE id = %s", run_id)
        if state == "running":
            return int(str(worker).rsplit(" ", 2)[1])
        assert state == "queued", f"the run was {state} before its worker could be killed"
        time.sleep(0.01)
    raise TimeoutError(f"nobody takes run {run_id}")


def _kill_worker(machines: tuple[House, House], pid: int) -> None:
    """Kill the worker with this number, and start it again."""
    for house in machines:
        for name, process in house.processes.items():
            if process.pid == pid:
                house.kill(name)
                house.begin(name)
                return
    raise LookupError(f"no worker has the number {pid}")


def _written(run: dict[str, Any]) -> object:
    return run["run_sheet"]["written"]


def test_what_came_in_at_one_machine_is_there_at_the_other(machines, services, work):
    (here, there), artwork, known = work
    window = {"left": 0, "top": 0, "width": 300, "height": 200, "zoom": 0.3}
    body = {"recipe": known["recipe"], "view": {}, "window": window}
    pictures = [me.ask("POST", f"/api/bench/{artwork}/{known['slug']}/picture", body) for me in (here, there)]
    assert [status for status, _ in pictures] == [200, 200] and pictures[0][1] == pictures[1][1]
    originals = [me.ask("GET", f"/api/artworks/{artwork}/original")[1] for me in (here, there)]
    assert originals[0] == originals[1] == picture(1, 1400)
    assert sha256(originals[0]).hexdigest() in services.stored()
    # Saved at one, seen at the other at once.
    pin = there.ask("POST", f"/api/bench/{artwork}/pins", {"x": 4, "y": 5, "name": "seen"})[1]["id"]
    assert pin in [each["id"] for each in here.ask("GET", f"/api/bench/{artwork}/pins")[1]]


def test_a_worker_killed_in_each_kind_of_job_leaves_each_done_once(machines, services, work):
    people, artwork, known = work
    for kind, (_queue, ask) in askers_of(people[1], artwork, known).items():
        separated = kind.startswith(("separation", "films"))
        sound = people[0].ended(ask(7000)) if separated else None
        run_id = ask(7001)
        _kill_worker(machines, _worker_of(services, run_id))
        done = people[0].ended(run_id)
        assert done["state"] == "done", (kind, done["message"])
        ((attempts,),) = services.asked("SELECT attempts FROM runs_run WHERE id = %s", run_id)
        assert attempts == 2, kind
        if sound is not None:
            assert _written(done) == _written(sound), kind
        if kind == "opening a picture":
            named = [each for each in people[1].ask("GET", "/api/artworks")[1] if each["name"] == "7001.tif"]
            assert len(named) == 1
    assert services.asked("SELECT count(*) FROM runs_run WHERE state IN ('queued', 'running')") == [(0,)]


def test_a_batch_over_all_workers_with_the_lines_cut_is_complete_and_right(machines, services, work):
    """Every connection to database and queue is broken three times while twelve pictures are separated."""
    people, _, known = work
    taken = [people[n % 2].upload("/api/artworks", f"many {n}.tif", picture(400 + n, 1800))[1] for n in range(12)]
    artworks = [people[0].ended(each["run"]["id"])["artwork_id"] for each in taken]
    asked = []
    for number, artwork in enumerate(artworks):
        body = {"artwork_id": artwork, "condition": known["slug"], "recipe": known["recipe"]}
        status, run = people[number % 2].ask("POST", "/api/runs", body)
        assert status == 201, run
        asked.append(run["id"])
    cut = []
    for _ in range(3):
        time.sleep(0.7)
        # Right after a cut, who waits to connect again has no line that could be cut.
        cut.append(services.cut_connections())
    assert cut[0][0] > 0 and cut[0][1] > 0, cut
    assert services.asked("SELECT count(*) > 0 FROM runs_run WHERE state IN ('queued', 'running')") == [(True,)]
    done = [people[0].ended(run_id) for run_id in asked]
    assert [run["state"] for run in done] == ["done"] * 12, [run["message"] for run in done]
    for run in done:
        status, file = people[1].ask("GET", f"/api/runs/{run['id']}/file")
        assert status == 200 and sha256(file).hexdigest() == _written(run)["sha256"]
    # Once each: nothing else was made, and no worker had to be started again.
    assert services.asked("SELECT count(*) FROM runs_run WHERE id > %s", max(asked)) == [(0,)]
    workers = services.asked("SELECT count(DISTINCT worker) FROM runs_run WHERE id = ANY(%s)", asked)
    assert workers[0][0] > 1


def test_one_picture_over_all_workers_is_what_one_makes(machines, services, work, tmp_path):
    """A picture of 36 MP in pieces on three workers; one dies at a piece, then the one that joins them."""
    people, _, known = work
    data = picture(77, 6000)
    taken = people[0].upload("/api/artworks", "large.tif", data)[1]
    artwork = people[0].ended(taken["run"]["id"])["artwork_id"]
    body = {"artwork_id": artwork, "condition": known["slug"], "recipe": known["recipe"]}
    run_id = people[1].ask("POST", "/api/runs", body)[1]["id"]
    maker = _worker_of(services, run_id)
    at_work: set[int] = set()
    killed = False
    for _ in range(6000):
        rows = services.asked("SELECT worker, state FROM runs_run WHERE piece_of_id = %s AND worker <> ''", run_id)
        at_work |= {int(str(worker).rsplit(" ", 2)[1]) for worker, _ in rows}
        others = [int(str(w).rsplit(" ", 2)[1]) for w, state in rows if state == "running"]
        if not killed and (other := next((pid for pid in others if pid != maker), None)) is not None:
            _kill_worker(machines, other)
            killed = True
        if killed and sum(state == "done" for _, state in rows) >= 2:
            break
        time.sleep(0.02)
    assert killed and len(at_work) > 1, at_work
    _kill_worker(machines, maker)
    done = people[0].ended(run_id, 120)
    assert done["state"] == "done", done["message"]
    ((attempts, pieces),) = services.asked(
        "SELECT attempts, (SELECT count(*) FROM runs_run p WHERE p.piece_of_id = r.id) FROM runs_run r WHERE id = %s",
        run_id,
    )
    assert (attempts, pieces) == (2, 0)
    # Made again by one, on the command line, from its sheet: the same to the last bit.
    (tmp_path / "large.tif").write_bytes(data)
    (tmp_path / "press.icc").write_bytes(people[0].ask("GET", f"/api/conditions/{known['slug']}/profile")[1])
    (tmp_path / "sheet.json").write_text(json.dumps(people[0].ask("GET", f"/api/runs/{run_id}/sheet")[1]))
    again = [str(Path(sys.executable).parent / "plinto"), "again", str(tmp_path / "sheet.json")]
    assert subprocess.run(again, check=False, capture_output=True, text=True).returncode == 0


def test_a_queue_that_forgot_everything_is_filled_again(machines, services, work):
    """Redis keeps its line in memory: a run that waits is in the database, and is handed over again."""
    people, artwork, known = work
    pids = [house.processes[name].pid for house in machines for name in house.processes if name != "server"]
    for pid in pids:
        os.kill(pid, signal.SIGSTOP)
    body = {"artwork_id": artwork, "condition": known["slug"], "recipe": known["recipe"]}
    run_id = people[0].ask("POST", "/api/runs", body)[1]["id"]
    services.redis().flushall()
    for pid in pids:
        os.kill(pid, signal.SIGCONT)
    done = people[1].ended(run_id, 90)
    assert done["state"] == "done", done


def test_what_nobody_holds_goes_from_the_store_and_from_both_machines(machines, services, work):
    (here, there), _, _ = work
    data = picture(990, 500)
    taken = here.upload("/api/artworks", "to be removed.tif", data)[1]
    artwork = here.ended(taken["run"]["id"])["artwork_id"]
    digest = sha256(data).hexdigest()
    assert there.ask("GET", f"/api/artworks/{artwork}/original")[1] == data and digest in services.stored()
    assert there.ask("DELETE", f"/api/artworks/{artwork}")[0] in (200, 204)
    # It can be brought back at first; after that it is gone for good.
    assert digest in services.stored()
    machines[1].program(
        "from datetime import UTC, datetime\nfrom plinto_server.removals import bin as removals\n"
        "removals.forget(datetime.now(UTC) + removals.KEPT)"
    )
    assert digest not in services.stored()
    assert here.ask("GET", f"/api/artworks/{artwork}/original")[0] == 404
    # A copy that one machine still has is taken away once it is an hour old.
    copies = [path for house in machines if (path := house.data / "store" / digest[:2] / digest).exists()]
    for path in copies:
        os.utime(path, (time.time() - 7200,) * 2)
    for house in machines:
        house.manage("collect")
    assert not any(path.exists() for path in copies)
    counted = [house.digests() for house in machines]
    assert all(wrong == 0 for _, wrong in counted) and all(house.left_over() == [] for house in machines)


def test_one_writer_at_a_time(machines, services):
    """Sixteen hands count and write in transactions beside each other: no count is read twice."""
    program = """
import threading
from django.db import connection, transaction
from plinto_server.files.models import Blob
from datetime import UTC, datetime

def hand(prefix):
    for _ in range(20):
        with transaction.atomic():
            count = Blob.objects.filter(sha256__startswith='count-').count()
            Blob.objects.create(sha256=f'count-{count:05d}', bytes=0, touched_at=datetime.now(UTC))
    connection.close()

hands = [threading.Thread(target=hand, args=(n,)) for n in range(8)]
[each.start() for each in hands]
[each.join() for each in hands]
"""
    both = [threading.Thread(target=house.program, args=(program,)) for house in machines]
    begun = time.monotonic()
    for each in both:
        each.start()
    for each in both:
        each.join()
    took = time.monotonic() - begun
    names = sorted(
        str(row[0]) for row in services.asked("SELECT sha256 FROM files_blob WHERE sha256 LIKE 'count-%%'")
    )
    assert names == [f"count-{number:05d}" for number in range(320)], f"{len(names)} in {took:.1f} s"
    services.asked("DELETE FROM files_blob WHERE sha256 LIKE 'count-%%' RETURNING 1")


def test_a_shared_folder_instead_of_a_store(services: Services, tmp_path: Path):
    """The same database and queue, blobs in a folder that both machines mount."""
    env = {name: value for name, value in services.env.items() if name != "PLINTO_STORE"}
    env["PLINTO_DATABASE"] = services.database.replace("/plinto", "/shared")
    env["PLINTO_QUEUE"] = services.queue.replace("/0", "/1")
    services.create_database("shared")
    houses = [House(tmp_path / "shared", **env) for _ in range(2)]
    try:
        houses[0].open("server", "default")
        houses[1].open("server", "intake")
        people = [house.enter() for house in houses]
        artwork, known = furnish(people[0])
        body = {"artwork_id": artwork, "condition": known["slug"], "recipe": known["recipe"]}
        done = people[1].ended(people[1].ask("POST", "/api/runs", body)[1]["id"])
        assert done["state"] == "done", done
        files = [me.ask("GET", f"/api/runs/{done['id']}/file")[1] for me in people]
        assert files[0] == files[1] and sha256(files[0]).hexdigest() == _written(done)["sha256"]
        assert houses[1].left_over() == []
    finally:
        for house in houses:
            house.close()
