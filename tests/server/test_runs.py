"""Runs: made in the background, cancelled, recovered from a killed worker, downloaded."""

import io
import json
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
import tifffile
from django.conf import settings
from django_tasks_db.models import DBTaskResult

from plinto_server.artworks.models import Artwork
from plinto_server.files import store
from plinto_server.jobs import attempt, queue
from plinto_server.jobs.models import Run
from tests.server.conftest import take_in, tiff_bytes, work

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def asked(client, artwork, cotton):
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": {**cotton.recipe}}
    body["recipe"]["deliver"] = {**cotton.recipe["deliver"], "name_rule": "{artwork} {limit} {intent}"}
    answer = client.post("/api/runs", body, content_type="application/json")
    assert answer.status_code == 201, answer.content
    return answer.json()


def test_a_run_writes_the_file_and_its_sheet(client, asked, photo):
    assert asked["state"] == "queued"
    assert asked["file_name"] == "photo 230 relative.tif"
    assert client.get(f"/api/runs/{asked['id']}/file").status_code == 409
    work()
    done = client.get(f"/api/runs/{asked['id']}").json()
    assert (done["state"], done["progress"]) == ("done", 1.0)
    data = b"".join(client.get(f"/api/runs/{asked['id']}/file").streaming_content)
    inks = tifffile.imread(io.BytesIO(data)).astype(int)
    assert inks.shape == (*photo.shape[:2], 4)
    assert inks.sum(axis=-1).max() <= 2.3 * 255
    sheet = json.loads(client.get(f"/api/runs/{asked['id']}/sheet").content)
    assert sheet["largest_coverage_percent"] == pytest.approx(inks.sum(axis=-1).max() / 2.55, abs=1e-3)
    assert sheet["artwork"]["sha256"] == Artwork.objects.get().sha256
    page = client.get(f"/runs/{asked['id']}/sheet").content.decode()
    assert sheet["recipe_digest"] in page and "photo.tif" in page
    assert list((settings.DATA_DIR / "making").iterdir()) == []


def test_no_decoder_runs_outside_the_sandbox(client, asked, artwork, cotton):
    """A worker decoded for every separation what the sandbox had decoded at intake, and the web process read headers.

    The file is taken away once it is decoded: whoever opened it again would fail.
    """
    path = store.path_of(Artwork.objects.get().pixels_sha256)
    raw = path.read_bytes()
    work()
    first = client.get(f"/api/runs/{asked['id']}").json()
    path.write_bytes(b"no picture any more")
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": cotton.recipe}
    second = client.post("/api/runs", body, content_type="application/json").json()
    converted = client.post(
        f"/api/artworks/{artwork['id']}/versions", {"action": "convert", "profile": "ROMM"},
        content_type="application/json",
    ).json()  # fmt: skip
    work()
    answers = [client.get(f"/api/runs/{run['id']}").json() for run in (second, converted)]
    assert [answer["state"] for answer in answers] == ["done", "done"]
    assert answers[0]["run_sheet"]["written"]["sha256"] == first["run_sheet"]["written"]["sha256"]
    assert client.get(f"/api/artworks/{artwork['id']}/thumbnail").status_code == 200
    path.write_bytes(raw)


def test_a_waiting_run_can_be_cancelled_and_an_ended_one_cannot(client, asked):
    answer = client.post(f"/api/runs/{asked['id']}/cancel")
    assert answer.json()["state"] == "cancelled"
    work()
    assert client.get(f"/api/runs/{asked['id']}").json()["state"] == "cancelled"
    assert client.post(f"/api/runs/{asked['id']}/cancel").status_code == 409


def test_a_run_is_cancelled_while_it_works(client, asked, monkeypatch):
    monkeypatch.setattr(attempt, "_BEAT_SECONDS", 0.0)
    progress = attempt.Attempt.progress

    def cancel_early(self, share):
        Run.objects.update(cancel_asked=True)
        progress(self, share)

    monkeypatch.setattr(attempt.Attempt, "progress", cancel_early)
    work()
    run = client.get(f"/api/runs/{asked['id']}").json()
    assert (run["state"], run["message"]) == ("cancelled", "Cancelled; nothing was kept.")
    assert list((settings.DATA_DIR / "making").iterdir()) == []


def test_what_a_killed_worker_left_is_made_by_the_next_one(client, asked):
    # As a worker leaves it that was killed in the middle: claimed, silent, its task lost.
    DBTaskResult.objects.all().delete()
    long_ago = datetime.now(UTC) - timedelta(minutes=5)
    Run.objects.update(state="running", attempts=1, heartbeat_at=long_ago, progress=0.4)
    assert queue.recover() >= 1
    work()
    assert client.get(f"/api/runs/{asked['id']}").json()["state"] == "done"
    Run.objects.update(state="running", attempts=3, heartbeat_at=long_ago)
    queue.recover()
    failed = client.get(f"/api/runs/{asked['id']}").json()
    assert failed["state"] == "failed" and "stopped 3 times" in failed["message"]


def test_a_full_disk_fails_the_run_in_words(client, asked, monkeypatch):
    def full(*_args, **_more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("plinto_server.bench.separations.separate", full)
    work()
    run = client.get(f"/api/runs/{asked['id']}").json()
    assert run["state"] == "failed" and "disk is full" in run["message"]


def test_artwork_in_the_making_cannot_be_removed(client, asked, artwork):
    answer = client.delete(f"/api/artworks/{artwork['id']}")
    assert answer.status_code == 409 and "cancel it first" in answer.json()["detail"]
    work()
    assert client.delete(f"/api/artworks/{artwork['id']}").status_code == 204
    assert client.get(f"/api/runs/{asked['id']}").json()["artwork_name"] == "photo.tif"


def test_artwork_without_a_profile_is_refused_when_asked(client, cotton):
    untagged = take_in(client, "u.tif", tiff_bytes(np.ones((20, 20, 3), np.uint8)))
    body = {"artwork_id": untagged["id"], "condition": "cotton-54t", "recipe": cotton.recipe}
    answer = client.post("/api/runs", body, content_type="application/json")
    assert answer.status_code == 422 and "choose a source" in answer.json()["detail"]
    assert not Run.objects.filter(kind="separation").exists()


@pytest.mark.parametrize(
    ("deliver", "name", "kind", "start"),
    [
        ({"format": "jpeg"}, "photo Cotton 54T.jpg", "image/jpeg", b"\xff\xd8"),
        ({"format": "pdf"}, "photo Cotton 54T.pdf", "application/pdf", b"%PDF"),
        ({"format": "hard-proof"}, "photo Cotton 54T hard proof.pdf", "application/pdf", b"%PDF"),
        ({"format": "films", "film": {"dpi": 600, "ruling_lpi": 45, "container": "tiff"}},
         "photo Cotton 54T films.zip", "application/zip", b"PK"),
        ({"format": "negative", "negative": {"film": {"halftone": False, "container": "tiff"}}},
         "photo Cotton 54T negative.tif", "image/tiff", b"II*"),
    ],
)  # fmt: skip
def test_every_format_is_written_named_and_measured(client, artwork, cotton, deliver, name, kind, start):
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": {**cotton.recipe, "deliver": deliver}}
    run = client.post("/api/runs", body, content_type="application/json").json()
    work()
    done = client.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["file_name"]) == ("done", name), done["message"]
    answer = client.get(f"/api/runs/{run['id']}/file")
    assert answer["Content-Type"] == kind
    assert b"".join(answer.streaming_content).startswith(start)
    assert client.get(f"/runs/{run['id']}/sheet").status_code == 200
    assert done["run_sheet"]["recipe"]["deliver"]["format"] == deliver["format"]
    assert list((settings.DATA_DIR / "making").iterdir()) == []


def test_a_run_keeps_to_the_version_it_was_asked_for(client, asked, artwork):
    place = f"/api/artworks/{artwork['id']}"
    client.post(f"{place}/versions", {"action": "remove"}, content_type="application/json")
    work()
    done = client.get(f"/api/runs/{asked['id']}").json()
    assert done["state"] == "done"
    assert done["run_sheet"]["artwork"]["version"] == 0
    assert done["run_sheet"]["source_profile"]["name"] == "opRGB"
