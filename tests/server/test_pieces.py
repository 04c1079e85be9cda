"""One picture over all workers: pieces that any of them takes, joined to the bytes that one alone makes."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from plinto_core.errors import ArtworkError
from plinto_core.icc.standard import rgb_profile
from plinto_server.bench import pieces
from plinto_server.files.models import Blob
from plinto_server.jobs import queue, runs
from plinto_server.jobs.carry_out import carry_out
from plinto_server.jobs.models import Run
from tests.server.conftest import take_in, tiff_bytes, work

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def large(client):
    noise = np.random.default_rng(8).integers(0, 256, (1000, 900, 3), np.uint8)
    return take_in(client, "large.tif", tiff_bytes(noise, iccprofile=rgb_profile("sRGB").raw))


@pytest.fixture
def ask(client, large, cotton):
    def asked():
        body = {"artwork_id": large["id"], "condition": "cotton-54t", "recipe": cotton.recipe}
        answer = client.post("/api/runs", body, content_type="application/json")
        assert answer.status_code == 201, answer.content
        return answer.json()["id"]

    return asked


def test_pieces_come_to_the_same_file_and_go_with_the_end_of_their_run(client, ask, settings):
    alone = ask()
    work()
    settings.PIECE_MEGAPIXELS = 0.25
    before = Blob.objects.count()
    together = ask()
    work()
    first, second = (client.get(f"/api/runs/{run}").json() for run in (alone, together))
    assert (second["state"], second["run_sheet"]["written"]) == ("done", first["run_sheet"]["written"])
    assert second["run_sheet"]["largest_coverage_percent"] == first["run_sheet"]["largest_coverage_percent"]
    # Nothing is left of them, neither rows nor files.
    assert not Run.objects.filter(kind="piece").exists() and Blob.objects.count() == before


def test_a_maker_that_died_leaves_its_pieces_to_the_next_attempt(client, ask, settings, monkeypatch):
    settings.PIECE_MEGAPIXELS = 0.25
    run_id = ask()
    made = []
    write = pieces.write_piece

    def dies(artwork, chain, piece, *more):
        if len(made) == 2 and "dead" not in made:
            # Killed: its rows stay as they are, and nobody writes what became of them.
            made.append("dead")
            Run.objects.filter(state="running").update(heartbeat_at=datetime.now(UTC) - timedelta(minutes=5))
            assert queue.recover() >= 2
            raise KeyboardInterrupt
        made.append(piece.first)
        return write(artwork, chain, piece, *more)

    monkeypatch.setattr(pieces, "write_piece", dies)
    with pytest.raises(KeyboardInterrupt):
        carry_out(run_id)
    assert Run.objects.filter(kind="piece", state="done").count() == 2
    # People see the one run that they asked for.
    assert "piece" not in {run["kind"] for run in client.get("/api/runs").json()}
    work()
    done = client.get(f"/api/runs/{run_id}").json()
    assert done["state"] == "done" and Run.objects.get(id=run_id).attempts == 2
    rows = [each for each in made if each != "dead"]
    assert len(rows) == len(set(rows)) >= 3, "each piece once"


def test_cancelling_or_a_piece_that_fails_ends_the_whole_and_leaves_nothing(client, ask, settings, monkeypatch):
    settings.PIECE_MEGAPIXELS = 0.25
    write = pieces.write_piece
    blobs = Blob.objects.count()

    def cancels(artwork, chain, piece, *more):
        runs.cancel(Run.objects.get(kind="separation", state="running"))
        return write(artwork, chain, piece, *more)

    monkeypatch.setattr(pieces, "write_piece", cancels)
    # The maker does not look again before the piece has ended: it once called the whole failed.
    monkeypatch.setattr("plinto_server.jobs.attempt._BEAT_SECONDS", 60.0)
    run_id = ask()
    work()
    stopped = client.get(f"/api/runs/{run_id}").json()
    assert (stopped["state"], stopped["message"]) == ("cancelled", "Cancelled; nothing was kept.")

    def fails(artwork, chain, piece, *more):
        raise ArtworkError("'large.tif' is damaged after row 300.")

    monkeypatch.setattr(pieces, "write_piece", fails)
    run_id = ask()
    work()
    failed = client.get(f"/api/runs/{run_id}").json()
    assert failed["state"] == "failed" and "is damaged after row 300" in failed["message"]
    assert not Run.objects.filter(kind="piece").exists() and Blob.objects.count() == blobs
