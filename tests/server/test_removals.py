"""What was removed comes back whole for a quarter of an hour, and is gone for good after it."""

from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from plinto_server.accounts.models import Role
from plinto_server.artworks.models import Artwork
from plinto_server.files import store
from plinto_server.files.models import Blob
from plinto_server.jobs.models import Run
from plinto_server.removals import bin as removals
from plinto_server.removals.models import Removal
from tests.server.conftest import client_of, take_in, tiff_bytes

pytestmark = pytest.mark.django_db(transaction=True)
JSON = {"content_type": "application/json"}


def _card(seed):
    return np.random.default_rng(seed).integers(0, 255, (20, 30, 3)).astype(np.uint8)


def back(client, name, code=204):
    found = next(each for each in client.get("/api/removed").json() if each["name"] == name)
    answer = client.post(f"/api/removed/{found['id']}/back")
    assert answer.status_code == code, answer.content
    return answer


def test_artwork_comes_back_with_its_pins_settings_versions_and_runs(client, artwork, cotton):
    place, bench = f"/api/artworks/{artwork['id']}", f"/api/bench/{artwork['id']}"
    client.post(f"{place}/versions", {"action": "assign", "profile": "sRGB"}, **JSON)
    client.post(f"{bench}/pins", {"x": 3, "y": 4}, **JSON)
    state = client.get(f"{bench}/cotton-54t/recipe").json()
    recipe = {**state["recipe"], "aim": {**state["recipe"]["aim"], "intent": "perceptual"}}
    client.put(f"{bench}/cotton-54t/recipe", {"recipe": recipe, "version": state["version"]}, **JSON)
    run = client.post(
        "/api/runs", {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": recipe}, **JSON
    ).json()
    client.post(f"/api/runs/{run['id']}/cancel")
    asked = (f"{bench}/pins", f"{bench}/cotton-54t/recipe", f"{place}/versions", place)
    before = [client.get(each).json() for each in asked]

    assert client.delete(place).status_code == 204
    assert client.get(place).status_code == 404 and Run.objects.get(id=run["id"]).artwork_id is None
    # Another one may come meanwhile: numbers are not given twice.
    other = take_in(client, "other.tif", tiff_bytes(_card(9)))
    assert other["id"] != artwork["id"]
    back(client, "photo.tif")
    assert [client.get(each).json() for each in asked] == before
    assert Run.objects.get(id=run["id"]).artwork_id == artwork["id"]
    assert client.get(f"{place}/thumbnail").status_code == 200
    assert client.get("/api/removed").json() == []


def test_several_go_and_come_together_and_what_a_run_needs_stays(client, artwork, cotton):
    cards = [take_in(client, f"card {n}.tif", tiff_bytes(_card(n))) for n in (1, 2)]
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": cotton.recipe}
    client.post("/api/runs", body, **JSON)
    ids = [artwork["id"], *(each["id"] for each in cards)]
    answer = client.post("/api/artworks/shelf/remove", {"ids": ids}, **JSON).json()
    assert answer["removed"] == ids[1:] and "photo.tif' is being separated" in answer["kept"][0]
    assert [each["name"] for each in client.get("/api/removed").json()] == ["2 pieces of artwork"]
    back(client, "2 pieces of artwork")
    assert set(Artwork.objects.values_list("id", flat=True)) == set(ids)


def test_a_condition_comes_back_with_its_history_by_whoever_may(client, cotton):
    assert client.delete("/api/conditions/cotton-54t").status_code == 204
    operator = client_of("hand", Role.OPERATOR)
    assert "Ask the" in back(operator, "Cotton 54T", 403).json()["detail"]
    back(client, "Cotton 54T")
    assert client.get("/api/conditions/cotton-54t/profile").status_code == 200
    actions = [each["action"] for each in client.get("/api/records?kind=condition&key=cotton-54t").json()]
    assert actions[:2] == ["restored", "removed"]


def test_a_place_that_is_taken_is_said_and_nothing_of_it_comes(client, artwork):
    data = b"".join(client.get(f"/api/artworks/{artwork['id']}/original").streaming_content)
    client.delete(f"/api/artworks/{artwork['id']}")
    again = take_in(client, "the same again.tif", data)
    assert "in its place now" in back(client, "photo.tif", 409).json()["detail"]
    assert list(Artwork.objects.values_list("id", flat=True)) == [again["id"]]


def test_after_its_time_it_is_gone_and_its_files_with_it(client, artwork):
    path = store.path_of(Artwork.objects.get().sha256)
    client.delete(f"/api/artworks/{artwork['id']}")
    number = client.get("/api/removed").json()[0]["id"]
    assert path.exists() and removals.forget() == 0
    assert removals.forget(datetime.now(UTC) + timedelta(minutes=16)) == 1
    assert not path.exists() and not Blob.objects.exists()
    assert "for 15 minutes" in client.post(f"/api/removed/{number}/back").json()["detail"]


def test_on_a_disk_that_is_nearly_full_removing_makes_room_at_once(client, artwork, settings):
    path = store.path_of(Artwork.objects.get().sha256)
    settings.LEAST_FREE_BYTES = 1 << 60
    assert client.delete(f"/api/artworks/{artwork['id']}").status_code == 204
    assert not path.exists() and not Removal.objects.exists()
