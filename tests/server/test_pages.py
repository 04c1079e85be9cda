"""What is no API: the front end on every address, the readable run sheet, and who may see it."""

import re

import pytest
from django.conf import settings
from django.test import Client

from plinto_server.warm import cache
from plinto_server.warm.cache import ByteCache


@pytest.mark.parametrize("path", ["/", "/bench", "/bench/1/cotton-54t?at=ink", "/runs", "/sign-in"])
def test_every_address_of_the_front_end_is_the_front_end(db, path):
    answer = Client().get(path)
    assert answer.status_code == 200
    assert b'<div id="root">' in b"".join(answer.streaming_content)
    assert "csrftoken" in answer.cookies


def test_an_unbuilt_front_end_says_what_to_do(db, monkeypatch, tmp_path):
    monkeypatch.setattr(settings, "WHITENOISE_ROOT", tmp_path)
    answer = Client().get("/bench")
    assert answer.status_code == 404
    assert b"make demo" in answer.content


def test_unknown_parts_of_the_api_are_not_the_front_end(client):
    assert client.get("/api/nothing").status_code == 404


def test_run_sheets_need_a_person_and_a_finished_run(db, client):
    assert Client().get("/runs/1/sheet").status_code == 302
    assert client.get("/runs/1/sheet").status_code == 404


def test_the_description_of_the_api_names_every_room(client):
    paths = client.get("/api/openapi.json").json()["paths"]
    rooms = {path.split("/")[2] for path in paths}
    assert rooms == {
        "session", "people", "policies", "artworks", "conditions", "characterizations", "bench", "runs", "house", "records",
        "removed", "colors", "batches",
    }  # fmt: skip


def test_conditions_tell_what_is_known_and_hand_out_their_profile(client, cotton):
    (found,) = client.get("/api/conditions").json()
    assert found["name"] == "Cotton 54T" and found["total_ink_percent"] == 230
    answer = client.get("/api/conditions/cotton-54t/profile")
    assert b"".join(answer.streaming_content)[36:40] == b"acsp"
    assert client.get("/api/conditions/velvet/profile").status_code == 404


def test_a_form_that_cannot_be_read_is_refused_in_words(client, caplog):
    """Each filled the log with the way it had gone through the server."""
    told = client.post("/api/artworks", b"--x", content_type="multipart/form-data")
    assert told.status_code == 400 and "cannot be read" in told.json()["detail"]
    assert "Traceback" not in caplog.text


def test_kept_results_are_made_once_and_the_oldest_go_by_their_bytes():
    made = []

    def make(name):
        made.append(name)
        return name.upper() * 10_000

    kept = ByteCache(25_000)
    assert [kept.get(name, lambda n=name: make(n))[0] for name in "abab"] == ["A", "B", "A", "B"]
    assert made == ["a", "b"]
    kept.get("c", lambda: make("c"))
    kept.get("a", lambda: make("a"))
    assert made == ["a", "b", "c", "a"]


def test_what_grew_is_measured_again_and_only_that(monkeypatch):
    """At each addition all were measured: a sixth of the time where twenty people moved sliders."""
    clock, looked_at = [0.0], []
    monkeypatch.setattr(cache.time, "monotonic", lambda: clock[0])
    measure = cache.bytes_of
    monkeypatch.setattr(
        cache,
        "bytes_of",
        lambda value, *rest: (looked_at.append(value) if isinstance(value, list) else None) or measure(value, *rest),
    )
    kept = ByteCache(100_000)
    values = [[] for _ in range(5)]
    for number, value in enumerate(values):
        kept.get(number, lambda value=value: value)
    assert len(looked_at) == 5
    values[0].append("x" * 60_000)
    values[1].append("x" * 60_000)
    clock[0] = 6.0
    kept.get(0, list)
    kept.get(5, list)
    # The first is in use; the four that rest since they were made have been measured, and the second has grown.
    assert [len(value) for value in looked_at[5:]] == [1, 0, 0, 0, 0]
    clock[0] = 12.0
    kept.get(6, list)
    assert looked_at[10] is values[0] and kept.bytes < 100_000
    assert kept.get(1, lambda: "made again") == "made again"


def test_a_failed_result_is_tried_again():
    kept = ByteCache(1 << 20)
    with pytest.raises(ZeroDivisionError):
        kept.get("x", lambda: 1 // 0)
    assert kept.get("x", lambda: 7) == 7


def test_guides_are_pages_whose_links_and_pictures_are_there(db):
    index = Client().get("/guide")
    pages = re.findall(r'href="(/guide/[a-z-]+)"', index.content.decode())
    assert len(pages) == 10
    for page in pages:
        answer = Client().get(page)
        assert answer.status_code == 200, page
        for picture in re.findall(r'src="([^"]+)"', answer.content.decode()):
            assert Client().get(picture)["Content-Type"] == "image/png", f"{page}: {picture}"
    # Settings on the screen lead to their own line.
    assert (
        '<li id="ink-limit"><strong>Ink limit</strong> is the most ink'
        in Client().get("/guide/settings").content.decode()
    )
    for away in ("/guide/nothing", "/guide/pictures/nothing.png"):
        assert Client().get(away).status_code == 404
