"""Intake: what is kept, and that bad input is named and nothing of it kept."""

from datetime import UTC, datetime

import numpy as np
import pytest
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

from plinto_server.artworks.models import Artwork
from plinto_server.files import store
from plinto_server.removals import bin as removals
from tests.server.conftest import take_in, tiff_bytes, work


def _send(client, name, data):
    return client.post("/api/artworks", {"file": SimpleUploadedFile(name, data)})


def _stored():
    return sorted(path.name for path in (settings.DATA_DIR / "store").rglob("*") if path.is_file())


def test_artwork_is_kept_as_it_came(client, artwork, photo):
    assert (artwork["width"], artwork["height"], artwork["depth"]) == (320, 240, 16)
    assert artwork["profile_name"] == "opRGB"
    answer = client.get(f"/api/artworks/{artwork['id']}/original")
    original = b"".join(answer.streaming_content)
    assert original == store.path_of(Artwork.objects.get().sha256).read_bytes()
    again = _send(client, "again.tif", original)
    assert again.status_code == 200 and again.json()["artwork"]["id"] == artwork["id"]
    assert "'again.tif' is here already as 'photo.tif'" in again.json()["said"]
    assert [each["name"] for each in client.get("/api/artworks").json()] == ["photo.tif"]
    png = client.get(f"/api/artworks/{artwork['id']}/thumbnail")
    assert png.content[:4] == b"\x89PNG"


NOISE = np.random.default_rng(1).integers(0, 255, (90, 90, 3)).astype(np.uint8)
BAD = {
    "text": (b"no picture at all", 422, "neither TIFF, PNG, JPEG nor OpenRaster"),
    "empty": (b"", 422, ""),
    "two channels": (b"\x89PNG\r\n\x1a\n" + b"\0" * 40, 422, "damaged"),
}


@pytest.mark.parametrize("kind", list(BAD))
def test_bad_pictures_are_named_and_nothing_is_kept(client, kind):
    data, status, words = BAD[kind]
    before = _stored()
    answer = _send(client, "Plakat 🌙.tif", data)
    assert answer.status_code == status
    assert words in str(answer.json()["detail"])
    assert Artwork.objects.count() == 0
    assert _stored() == before


@pytest.mark.django_db(transaction=True)
def test_a_picture_whose_pixels_break_off_is_named_by_its_run_and_nothing_is_kept(client):
    before = _stored()
    answer = _send(client, "Plakat 🌙.tif", tiff_bytes(NOISE, compression="lzw", rowsperstrip=9)[:9000])
    assert answer.status_code == 202
    work()
    run = client.get(f"/api/runs/{answer.json()['run']['id']}").json()
    assert run["state"] == "failed" and "'Plakat 🌙.tif' is damaged after row 9 of 90" in run["message"]
    assert Artwork.objects.count() == 0
    assert _stored() == before
    assert list((settings.DATA_DIR / "making").iterdir()) == []


def test_limits_are_said_with_the_right_status(client, monkeypatch):
    data = tiff_bytes(np.ones((40, 40, 3), np.uint8))
    monkeypatch.setattr(settings, "MAX_MEGAPIXELS", 0.001)
    assert "megapixels" in _send(client, "a.tif", data).json()["detail"]
    monkeypatch.setattr(settings, "MAX_UPLOAD_BYTES", 100)
    assert _send(client, "a.tif", data).status_code == 413
    assert Artwork.objects.count() == 0


def test_a_full_disk_is_said_and_nothing_is_kept(client, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    before = _stored()
    monkeypatch.setattr("plinto_server.files.uploads.os.fsync", full)
    answer = _send(client, "a.tif", tiff_bytes(np.ones((40, 40, 3), np.uint8)))
    assert answer.status_code == 507
    assert _stored() == before
    assert list((settings.DATA_DIR / "incoming").iterdir()) == []


def test_a_picture_of_two_columns_has_a_thumbnail(client):
    """Its width was rounded to none."""
    tall = take_in(client, "tall.tif", tiff_bytes(np.full((1500, 2, 3), 90, np.uint8)))
    assert client.get(f"/api/artworks/{tall['id']}/thumbnail").content[:4] == b"\x89PNG"


NAMES = [
    "../../etc/passwd.tif",
    "a\"b'c<d>.tif",
    "🌙" * 200 + ".tif",
    "x" * 4000 + ".tif",
    "\n\t.tif",
    "C:\\art\\moth.tif",
]


def test_a_name_beyond_what_a_request_may_hold_is_refused_in_words(client):
    answer = _send(client, "🌙" * 300, tiff_bytes(np.ones((8, 8, 3), np.uint8)))
    assert answer.status_code == 400
    assert "shorten it" in answer.json()["detail"]


@pytest.mark.parametrize("name", NAMES)
def test_names_are_made_harmless(client, name):
    data = tiff_bytes(np.full((8, 8, 3), len(name) % 251, np.uint8))
    kept = take_in(client, name, data)["name"]
    assert 1 <= len(kept) <= 120
    assert "/" not in kept and "\\" not in kept and "\n" not in kept


@pytest.mark.django_db(transaction=True)
def test_removing_takes_the_file_along(client, artwork):
    sha256 = Artwork.objects.get().sha256
    assert client.delete(f"/api/artworks/{artwork['id']}").status_code == 204
    assert client.get(f"/api/artworks/{artwork['id']}").status_code == 404
    # Once it cannot be brought back any more.
    assert store.path_of(sha256).exists()
    removals.forget(datetime.now(UTC) + removals.KEPT)
    assert not store.path_of(sha256).exists()


def test_nobody_gets_in_without_signing_in(db, client, artwork):
    stranger = Client(enforce_csrf_checks=True)
    for path in ("/api/artworks", "/api/conditions", "/api/runs", f"/api/artworks/{artwork['id']}/original"):
        assert stranger.get(path).status_code == 401
    answer = stranger.post("/api/session", {"user": "tester", "password": "wrong"}, content_type="application/json")
    assert answer.status_code == 403


def test_signing_in_and_out(db, client):
    browser = Client()
    assert browser.get("/api/session").json() == {"user": None, "role": None, "may": [], "demo": None}
    given = {"user": "tester", "password": "wrong"}
    refused = browser.post("/api/session", given, content_type="application/json")
    assert refused.status_code == 401 and "do not belong together" in refused.json()["detail"]
    given["password"] = "a-long-password"
    assert browser.post("/api/session", given, content_type="application/json").json()["user"] == "tester"
    browser.delete("/api/session")
    assert browser.get("/api/session").json()["user"] is None


def test_changes_without_the_token_are_refused(client, artwork):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(get_user_model().objects.get(), backend="plinto_server.accounts.signing_in.HouseBackend")
    assert strict.delete(f"/api/artworks/{artwork['id']}").status_code == 403
    assert Artwork.objects.count() == 1


def test_the_demo_account_is_offered_in_the_demo_only(db, client, monkeypatch):
    assert Client().get("/api/session").json()["demo"] is None
    monkeypatch.setattr(settings, "DEMO", True)
    assert Client().get("/api/session").json()["demo"]["user"] == "quillmere"
    assert client.get("/api/session").json()["demo"] is None
