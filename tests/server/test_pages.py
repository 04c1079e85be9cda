"""What is no API: the front end on every address, the readable run sheet, and who may see it."""

import re

import pytest
from django.conf import settings
from django.test import Client

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
