"""Files belong to whoever holds them: nothing that is held goes, nothing that is not stays."""

import json
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection, transaction

from plinto_core.icc.standard import rgb_profile
from plinto_server.accounts.models import Role
from plinto_server.artworks.models import Artwork
from plinto_server.batches import keeping
from plinto_server.files import collector, holders, space, store
from plinto_server.files.models import Blob, Hold
from plinto_server.jobs.models import Run
from plinto_server.removals import bin as removals
from tests.conftest import profile_of
from tests.server.conftest import client_of, take_in, tiff_bytes, work

pytestmark = pytest.mark.django_db(transaction=True)
NOISE = np.random.default_rng(2).integers(0, 255, (64, 80, 3)).astype(np.uint8)


@pytest.fixture(autouse=True)
def own_folder(settings, tmp_path, data_folder):
    """Nothing of other tests lies here."""
    settings.DATA_DIR = tmp_path / "data"
    settings.DATA_DIR.mkdir()


def stored():
    return {path.name for path in (Path(settings.DATA_DIR) / "store").rglob("*") if path.is_file()}


def made(client, artwork, cotton, **deliver):
    recipe = {**cotton.recipe, "deliver": {**cotton.recipe["deliver"], **deliver}}
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": recipe}
    run = client.post("/api/runs", body, content_type="application/json").json()
    work()
    done = client.get(f"/api/runs/{run['id']}").json()
    assert done["state"] == "done", done["message"]
    return done, b"".join(client.get(f"/api/runs/{run['id']}/file").streaming_content)


def test_a_conditions_own_profile_dropped_on_the_artwork_shelf_leaves_the_condition_alone(client, cotton):
    """It was refused, and the condition's file deleted: profile and judgement answered 500 from then on."""
    raw = profile_of("cotton-54t").raw
    refused = client.post("/api/artworks", {"file": SimpleUploadedFile("cotton.icc", raw)})
    assert refused.status_code == 422
    assert b"".join(client.get("/api/conditions/cotton-54t/profile").streaming_content) == raw
    # And as a house profile, whichever goes first.
    kept = client.post("/api/house/profiles", {"file": SimpleUploadedFile("cotton.icc", raw)})
    assert kept.status_code == 201
    assert client.delete("/api/conditions/cotton-54t").status_code == 204
    assert store.path_of(kept.json()["sha256"]).read_bytes() == raw


def test_a_result_brought_back_as_artwork_and_removed_stays_the_runs(client, artwork, cotton):
    run, data = made(client, artwork, cotton)
    back = take_in(client, "back.tif", data)
    assert client.delete(f"/api/artworks/{back['id']}").status_code == 204
    assert b"".join(client.get(f"/api/runs/{run['id']}/file").streaming_content) == data
    film, pdf = made(client, artwork, cotton, format="pdf")
    assert client.post("/api/artworks", {"file": SimpleUploadedFile("f.pdf", pdf)}).status_code == 422
    assert b"".join(client.get(f"/api/runs/{film['id']}/file").streaming_content) == pdf


def test_versions_share_files_and_going_back_finds_them(client, artwork):
    place = f"/api/artworks/{artwork['id']}"
    versions = {"content_type": "application/json"}
    client.post(f"{place}/versions", {"action": "convert", "profile": "ROMM"}, **versions)
    work()
    converted = Artwork.objects.get().pixels_sha256
    client.post(f"{place}/version", {"number": 0}, **versions)
    assert store.path_of(converted).exists()
    assert client.post(f"{place}/version", {"number": 1}, **versions).json()["profile_name"]
    assert client.get(f"{place}/thumbnail").status_code == 200
    assert client.delete(place).status_code == 204
    removals.forget(datetime.now(UTC) + removals.KEPT)
    assert stored() == set() and not Blob.objects.exists() and not Hold.objects.exists()
    assert not store.derived_folder(converted).exists()


def test_what_a_run_needs_is_held_while_it_waits_and_let_go_when_it_failed(client, artwork, cotton):
    data = tiff_bytes(NOISE, compression="lzw", rowsperstrip=8)[:7000]
    answer = client.post("/api/artworks", {"file": SimpleUploadedFile("cut.tif", data)})
    run = Run.objects.get(id=answer.json()["run"]["id"])
    assert store.path_of(run.source_sha256).exists()
    collector.collect(datetime.now(UTC) + timedelta(days=9))
    assert store.path_of(run.source_sha256).exists()
    work()
    assert not store.path_of(run.source_sha256).exists()


def test_twelve_conditions_come_and_go_and_leave_nothing(client, settings, tmp_path):
    settings.CACHE_DIR = tmp_path / "cache"
    before = stored()
    for count in range(3):
        answer = client.post("/api/conditions", {"file": SimpleUploadedFile("p.icc", profile_of("tern-news-45").raw)})
        work()
        run = Run.objects.get(id=answer.json()["run_id"])
        assert run.state == "done", run.message
        client.get(f"/api/conditions/{run.run_sheet['slug']}/judgement")
        assert client.delete(f"/api/conditions/{run.run_sheet['slug']}").status_code == 204, count
        removals.forget(datetime.now(UTC) + removals.KEPT)
        gone = client.get(f"/api/runs/{run.id}/file")
        assert gone.status_code == 404 and gone.json()["detail"] == "This file is not here any more."
    # Nothing is left, neither on the disk nor in memory.
    assert stored() == before
    assert not list((tmp_path / "cache").glob("*"))
    from plinto_server.warm import shelves

    digest = profile_of("tern-news-45").digest
    assert not any(digest in str(key) for key in shelves.lasting._values)


def test_a_file_is_kept_when_the_transaction_that_holds_it_is_tried_again():
    """A line cut between the move and the commit ended a finished run as failed, FileNotFoundError: three of twelve."""
    part = store.receive([b"made, and the line was cut"])
    with pytest.raises(OperationalError), transaction.atomic():
        store.keep(part)
        raise OperationalError("server closed the connection unexpectedly")
    assert not Blob.objects.filter(sha256=part.sha256).exists()
    with transaction.atomic():
        assert store.keep(part) == part.sha256
    assert store.path_of(part.sha256).read_bytes() == b"made, and the line was cut"
    assert Blob.objects.get(sha256=part.sha256).bytes == part.bytes
    store.path_of(part.sha256).unlink()
    with pytest.raises(FileNotFoundError), transaction.atomic():
        store.keep(part)


def test_the_collector_takes_what_nobody_holds_after_its_time_and_says_so(client, artwork):
    held = stored()
    with transaction.atomic():
        loose = store.keep_bytes(b"nobody's")
    stray = store.path_of("ab" * 32)
    stray.parent.mkdir(exist_ok=True)
    stray.write_bytes(b"without a record")
    broken = store.incoming_folder() / "broken.part"
    broken.write_bytes(b"half an upload")
    half = store.making_folder() / "run-1-1"
    half.mkdir(exist_ok=True)
    (half / "made.tif").write_bytes(b"half")
    assert not collector.collect().files
    assert store.path_of(loose).exists() and stray.exists() and broken.exists()
    import os

    long_ago = time.time() - 86_400
    for path in (stray, broken, half, half / "made.tif"):
        os.utime(path, (long_ago, long_ago))
    freed = collector.collect(datetime.now(UTC) + timedelta(hours=2))
    assert freed.files == {
        "files": 1, "files without a record": 1, "uploads broken off": 1, "files half made": 1,
    }  # fmt: skip
    assert "freed" in str(freed) and stored() == held and not half.exists()


def test_pictures_beyond_the_size_kept_go_and_come_back_when_they_are_looked_at(client, artwork, settings):
    thumbnail = client.get(f"/api/artworks/{artwork['id']}/thumbnail").content
    settings.DERIVED_BYTES = 1000
    assert collector.collect().files == {"pictures not looked at for long": 1}
    from plinto_server.warm import shelves

    shelves.forget(Artwork.objects.get().sha256)
    assert client.get(f"/api/artworks/{artwork['id']}/thumbnail").content == thumbnail


def test_an_older_data_folder_gets_its_holders(client, artwork, cotton):
    files, holds = set(Blob.objects.values_list("sha256", flat=True)), Hold.objects.count()
    Hold.objects.all().delete()
    Blob.objects.all().delete()
    holders.adopt_older_data()
    assert set(Blob.objects.values_list("sha256", flat=True)) == files and Hold.objects.count() == holds


def test_the_same_picture_from_many_hands_at_once_is_one_and_whole(client):
    """Two uploads at once shared a temporary folder: a crash, or the winner's original deleted by the loser."""
    clients = [client, *(client_of(f"hand {n}", Role.OPERATOR) for n in range(5))]
    data = tiff_bytes(NOISE, iccprofile=rgb_profile("sRGB").raw)
    answers = []

    def send(each):
        try:
            answers.append(each.post("/api/artworks", {"file": SimpleUploadedFile("same.tif", data)}))
        finally:
            connection.close()

    threads = [threading.Thread(target=send, args=(each,)) for each in clients]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert {answer.status_code for answer in answers} == {202}
    assert len({answer.json()["run"]["id"] for answer in answers}) == 1
    work()
    artwork = Artwork.objects.get()
    original = client.get(f"/api/artworks/{artwork.id}/original")
    assert b"".join(original.streaming_content) == data
    assert not list(store.incoming_folder().iterdir())


def test_removing_works_on_a_full_disk_and_everything_else_says_507(client, artwork, monkeypatch):
    from django.db import OperationalError

    space.keep_reserve()
    reserve = Path(space._reserve())
    assert reserve.stat().st_size == space.RESERVE_BYTES
    room = {"left": 0}

    real = removals.Collector.collect

    def collect(self, *args, **more):
        if reserve.exists():
            raise OperationalError("database or disk is full")
        room["left"] = 1
        return real(self, *args, **more)

    monkeypatch.setattr(removals.Collector, "collect", collect)
    assert client.delete(f"/api/artworks/{artwork['id']}").status_code == 204
    assert room["left"] == 1 and not Artwork.objects.exists()

    def full(*_args, **_more):
        raise OperationalError("database or disk is full")

    monkeypatch.setattr("plinto_server.house.service.make", full)
    answer = client.post("/api/house/rules", {"rules": {"name": "A"}}, content_type="application/json")
    assert answer.status_code == 507 and "Remove what is not needed" in answer.json()["detail"]


def test_an_upload_that_would_fill_the_disk_is_refused_before_it_is_read(client, settings):
    settings.LEAST_FREE_BYTES = 10**15
    answer = client.post("/api/artworks", {"file": SimpleUploadedFile("a.tif", tiff_bytes(NOISE))})
    assert answer.status_code == 507 and "have to stay free" in answer.json()["detail"]
    settings.LEAST_FREE_BYTES = 0
    settings.QUOTA_BYTES = 10_000
    answer = client.post("/api/artworks", {"file": SimpleUploadedFile("a.tif", tiff_bytes(NOISE))})
    assert answer.status_code == 413 and "ask the administrator" in answer.json()["detail"]
    assert not list(store.incoming_folder().iterdir()) and not Run.objects.exists()


def test_results_hold_the_profiles_they_were_made_with_so_that_they_can_be_made_again(client, artwork, cotton):
    run, data = made(client, artwork, cotton)
    assert client.delete("/api/conditions/cotton-54t").status_code == 204
    again = client.post(f"/api/runs/{run['id']}/again")
    assert again.status_code == 201, again.content
    work()
    done = client.get(f"/api/runs/{again.json()['id']}").json()
    assert (done["state"], done["message"]) == ("done", "The same file to the last bit.")
    assert b"".join(client.get(f"/api/runs/{done['id']}/file").streaming_content) == data
    assert done["again_of_id"] == run["id"]
    client.delete(f"/api/artworks/{artwork['id']}")
    missing = client.post(f"/api/runs/{run['id']}/again")
    assert missing.status_code == 404 and "'photo.tif'" in missing.json()["detail"]
    assert json.loads(client.get(f"/api/runs/{run['id']}/sheet").content)["run_sheet"] == 4


def test_files_of_runs_go_by_the_rule_of_the_house_and_are_made_again_from_their_runs(client, artwork, cotton):
    run, data = made(client, artwork, cotton)
    sha256 = Run.objects.get(id=run["id"]).result_sha256
    rules = client.post("/api/house/rules", {"rules": {"name": "A month", "results_days": 30}}, "application/json")
    assert client.post(f"/api/house/rules/{rules.json()['id']}/use").status_code == 200
    now = datetime.now(UTC)
    assert keeping.let_go(now + timedelta(days=29)) == 0 and store.path_of(sha256).exists()
    assert keeping.let_go(now + timedelta(days=31)) == 1 and not store.path_of(sha256).exists()
    told = client.get(f"/api/runs/{run['id']}").json()
    assert (told["state"], told["has_file"], told["result_bytes"]) == ("done", False, 0)
    refused = client.get(f"/api/runs/{run['id']}/file")
    assert refused.status_code == 409 and "Removed after 30 days, as the house rules 'A month' say" in str(
        refused.json()
    )
    assert client.get(f"/api/runs/{run['id']}/sheet").status_code == 200
    again = client.post(f"/api/runs/{run['id']}/again").json()
    work()
    done = client.get(f"/api/runs/{again['id']}").json()
    assert done["message"] == "The same file to the last bit." and done["has_file"]
    assert b"".join(client.get(f"/api/runs/{again['id']}/file").streaming_content) == data
    bad = client.post("/api/house/rules", {"rules": {"name": "Never", "results_days": 0}}, "application/json")
    assert bad.status_code == 422 and "1 to 3650 days" in str(bad.json())
