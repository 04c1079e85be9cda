"""What a house on several machines sets, without the machines; `tests/scale` has those."""

from pathlib import Path

import pytest
from django.core.exceptions import ImproperlyConfigured

from plinto_core.errors import RecipeError
from plinto_server import machines
from plinto_server.files.backup import backup
from plinto_server.files.processes import tag, tagged_by_the_dead


def test_one_address_each_and_nothing_else_is_taken():
    assert machines.database("", Path("/data"))["NAME"] == Path("/data/plinto.sqlite3")
    found = machines.database("postgresql://me:se%40cret@db:5433/house", Path("/data"))
    assert (found["ENGINE"], found["HOST"], found["PORT"]) == ("plinto_server.one_writer", "db", "5433")
    assert (found["USER"], found["PASSWORD"], found["NAME"]) == ("me", "se@cret", "house")
    tasks, lines = machines.queue("redis://queue:6379/2")
    assert set(tasks["QUEUES"]) == set(lines) == {"default", "intake", "default-behind", "intake-behind"}
    # RQ ends a job after three minutes unless it is told not to.
    assert all(line["DEFAULT_TIMEOUT"] == -1 for line in lines.values())
    store = machines.blobs("s3://bucket/a/house?endpoint=https://store:9000")
    assert store is not None and store["OPTIONS"]["location"] == "a/house"
    assert machines.blobs("") is None and machines.queue("")[1] == {}
    for read, wrong in (
        (lambda text: machines.database(text, Path()), "mysql://db/house"),
        (lambda text: machines.database(text, Path()), "postgresql://db"),
        (machines.queue, "amqp://queue"),
        (machines.blobs, "s3:///folder"),
        (machines.blobs, "s3://bucket?secret=x"),
    ):
        with pytest.raises(ImproperlyConfigured, match=r"PLINTO_\w+ is an address like"):
            read(wrong)


def test_what_another_machine_writes_is_not_taken_for_left_behind():
    """On a shared folder a process of the other machine was looked for by its number on this one, and its files removed."""
    mine = tag()
    number, started, machine, _ = mine.split("-", 3)
    assert not tagged_by_the_dead(f"{mine}upload.part")
    assert tagged_by_the_dead(f"{number}-{int(started) + 1}-{machine}-upload.part")
    assert not tagged_by_the_dead(f"{number}-{int(started) + 1}-0badc0de-upload.part")
    assert not tagged_by_the_dead("run-7-1") and not tagged_by_the_dead("p1-2")


def test_a_house_that_keeps_its_files_elsewhere_is_not_said_to_be_backed_up(settings, tmp_path):
    settings.STORE_ELSEWHERE = True
    with pytest.raises(RecipeError, match="back them up where they are"):
        backup(tmp_path / "backup")
    assert not (tmp_path / "backup").exists()
