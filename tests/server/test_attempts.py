"""Attempts at a run carry a token: whoever is not the owner any more writes nothing; what the queue lost is found."""

import os
import threading
import time
from datetime import UTC, datetime, timedelta

import pytest
from django.conf import settings
from django.db import OperationalError, connection, transaction
from django_tasks_db.models import DBTaskResult

from plinto_server.files.models import Blob
from plinto_server.files.processes import is_gone, process_name
from plinto_server.jobs import attempt as attempts
from plinto_server.jobs import carry_out as carrying
from plinto_server.jobs import kinds, queue
from plinto_server.jobs.attempt import Attempt, SupersededError
from plinto_server.jobs.kinds import Done, Kind
from plinto_server.jobs.models import Run

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def kind():
    """A kind of job that does what a test says."""
    told = []

    def register(act):
        kinds.register(Kind("test", act, ended=told.append))
        return told

    yield register
    kinds._kinds.pop("test", None)


def asked(**fields):
    run = Run.objects.create(kind="test", artwork_name="a", condition_name="c", file_name="f", recipe={}, **fields)
    return queue.enqueue(run)


def state_of(run):
    return Run.objects.get(id=run.id)


def test_a_worker_that_froze_and_woke_writes_nothing_over_what_its_successor_finished(kind):
    """It once turned a finished run into a failed one."""
    run = asked()
    successor = []

    def slow(mine, attempt):
        (attempt.folder / "half").write_bytes(b"half")
        if not successor:
            # Frozen for longer than the silence allowed: another worker takes over and finishes.
            long_ago = datetime.now(UTC) - timedelta(minutes=5)
            Run.objects.filter(id=run.id).update(heartbeat_at=long_ago)
            assert queue.recover() == 1
            successor.append(True)
            carrying.carry_out(run.id)
            raise OSError("what a woken worker stumbles over")
        return Done(sheet={"made by": attempt.token})

    kind(slow)
    with pytest.raises(OSError, match="woken"):
        carrying.carry_out(run.id)
    found = state_of(run)
    assert (found.state, found.attempts, found.run_sheet) == ("done", 2, {"made by": 2})
    assert list((settings.DATA_DIR / "making").glob(f"*run-{run.id}-*")) == []


def test_a_woken_worker_that_would_finish_is_turned_away_and_leaves_nothing(kind, monkeypatch):
    monkeypatch.setattr(attempts, "_BEAT_SECONDS", 0.0)
    run = asked()
    entered = []

    def late(mine, attempt):
        path = attempt.folder / "made"
        path.write_bytes(b"late")
        Run.objects.filter(id=run.id).update(attempts=7)
        with pytest.raises(SupersededError):
            attempt.progress(0.5)
        from plinto_server.files import store

        return Done(store.part_of(path), commit=entered.append)

    told = kind(late)
    blobs = Blob.objects.count()
    carrying.carry_out(run.id)
    assert state_of(run).state == "running" and not entered and not told
    assert Blob.objects.count() == blobs


def test_a_run_that_the_queue_lost_is_queued_again_and_one_that_waits_is_not(kind):
    """Only running ones were looked for: a lost one waited for ever."""
    kind(lambda run, attempt: Done())
    run = asked()
    assert DBTaskResult.objects.count() == 1 and queue.recover() == 0
    Run.objects.update(queued_at=datetime.now(UTC) - timedelta(minutes=1))
    assert queue.recover() == 0
    DBTaskResult.objects.all().delete()
    assert queue.recover() == 1
    assert DBTaskResult.objects.count() == 1
    assert state_of(run).task_id == str(DBTaskResult.objects.get().id)


def test_a_worker_that_is_gone_is_noticed_at_once_and_a_living_one_is_left_alone(kind):
    kind(lambda run, attempt: Done())
    run = asked()
    child = os.fork()
    if child == 0:
        time.sleep(30)
        os._exit(0)
    name = process_name(child)
    now = datetime.now(UTC)
    Run.objects.update(state="running", attempts=1, worker=name, heartbeat_at=now)
    assert not is_gone(name) and queue.recover() == 0
    os.kill(child, 9)
    os.waitpid(child, 0)
    assert is_gone(name) and queue.recover() == 1
    assert state_of(run).state == "queued"
    assert not is_gone("another machine 1 2") and not is_gone("")


def test_three_attempts_and_no_more(kind):
    told = kind(lambda run, attempt: Done())
    run = asked(state="running", attempts=3, heartbeat_at=datetime.now(UTC) - timedelta(hours=1))
    assert queue.recover() == 1
    assert state_of(run).state == "failed" and "stopped 3 times" in state_of(run).message and told == [run]


def test_a_database_that_somebody_holds_is_waited_for(kind, monkeypatch):
    """Held for half a minute it failed runs."""
    kind(lambda run, attempt: Done(sheet={"fine": True}))
    run = asked()
    refused = []
    real = carrying._finish

    def held(*args):
        if len(refused) < 2:
            refused.append(True)
            raise OperationalError("database is locked")
        return real(*args)

    monkeypatch.setattr(carrying, "_finish", held)
    monkeypatch.setattr(attempts.time, "sleep", lambda seconds: None)
    carrying.carry_out(run.id)
    assert state_of(run).state == "done" and len(refused) == 2


def test_a_condition_is_computed_before_anything_is_locked(client, monkeypatch):
    """It was computed inside a write transaction: every write of everyone waited four seconds."""
    from django.core.files.uploadedfile import SimpleUploadedFile

    from plinto_server.conditions import service
    from tests.conftest import profile_of
    from tests.server.conftest import work

    inside = []
    real = service.prepared

    def prepared(*args):
        inside.append(connection.in_atomic_block)
        return real(*args)

    monkeypatch.setattr(service, "prepared", prepared)
    client.post("/api/conditions", {"file": SimpleUploadedFile("p.icc", profile_of("tern-news-45").raw)})
    work()
    assert inside == [False] and Run.objects.get().state == "done", Run.objects.get().message


def test_reading_writes_nothing(client, kind, django_assert_num_queries):
    kind(lambda run, attempt: Done())
    asked(heartbeat_at=None)
    with transaction.atomic():
        pass
    statements = []

    def record(execute, sql, params, many, context):
        statements.append(sql)
        return execute(sql, params, many, context)

    with connection.execute_wrapper(record):
        for path in ("/api/runs", "/api/artworks", "/api/conditions", "/api/house/rules", "/api/session"):
            assert client.get(path).status_code == 200
    assert not [sql for sql in statements if not sql.startswith(("SELECT", "PRAGMA"))], statements


def test_lists_cost_the_same_however_long_they_are(client, cotton, django_assert_max_num_queries):
    """GET /conditions took 17 queries for 8 conditions; the list of runs carried every sheet."""
    for count in range(6):
        Run.objects.create(kind="separation", artwork_name="a", condition_name="c", file_name=f"{count}", recipe={},
                           run_sheet={"largest_coverage_percent": 200 + count, "long": "x" * 10_000})  # fmt: skip
    # Two for the session and the person who asks.
    with django_assert_max_num_queries(3):
        conditions = client.get("/api/conditions").json()
    assert conditions[0]["version"] == 0 and "report" not in conditions[0]
    with django_assert_max_num_queries(3):
        answer = client.get("/api/runs")
    assert len(answer.content) < 6000
    assert [run["figures"]["largest_coverage_percent"] for run in answer.json()] == [205, 204, 203, 202, 201, 200]
    newest = max(run["changed_at"] for run in answer.json())
    fourth = answer.json()[2]["id"]
    Run.objects.update(changed_at=datetime.now(UTC) - timedelta(hours=1))
    Run.objects.filter(id=fourth).update(changed_at=datetime.now(UTC))
    since = client.get("/api/runs", {"since": newest}).json()
    assert [run["id"] for run in since] == [fourth]
    assert [run["id"] for run in client.get("/api/runs", {"before": fourth, "limit": 2}).json()] == [
        fourth - 1, fourth - 2,
    ]  # fmt: skip


def test_heartbeats_go_on_beside_long_work(kind, monkeypatch):
    monkeypatch.setattr(attempts, "_LIFE_SECONDS", 0.05)
    run = asked()
    seen = []

    def long(mine, attempt):
        for _ in range(10):
            time.sleep(0.05)
            seen.append(state_of(run).heartbeat_at)
        return Done()

    kind(long)
    carrying.carry_out(run.id)
    assert len(set(seen)) >= 3
    assert threading.active_count() < 30


def test_attempts_have_a_folder_of_their_own_that_goes_with_them(kind):
    run = asked()
    found = []

    def look(mine, attempt: Attempt):
        found.append(attempt.folder)
        assert attempt.folder.is_dir()
        return Done()

    kind(look)
    carrying.carry_out(run.id)
    assert found[0].name.endswith(f"run-{run.id}-1") and not found[0].exists()
