"""Watched folders fed by a hostile hand: slow writes, links, junk, names; a worker that dies; nothing lost or doubled."""

import contextlib
import json
import os
import queue
import shutil
import time
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
import tifffile

from plinto_core.icc.standard import rgb_profile
from plinto_server.artworks.models import Artwork
from plinto_server.batches import told, watched
from plinto_server.batches.models import WatchedFile, WatchedFolder
from plinto_server.jobs.models import Run
from tests.server.conftest import tiff_bytes, work

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"


@pytest.fixture(autouse=True)
def place(settings, tmp_path, monkeypatch):
    settings.WATCHED_DIR = tmp_path
    monkeypatch.setattr(watched, "SETTLED_SECONDS", 0.0)
    watched._seen.clear()
    return tmp_path


@pytest.fixture
def folder(client, cotton, place):
    made = client.post("/api/batches/watched", {"name": "Cotton in", "condition": "cotton-54t"}, JSON)
    assert made.status_code == 201, made.content
    return place / "Cotton in"


def _names(folder):
    return sorted(each.name for each in folder.iterdir())


def _picture(seed, **more):
    pixels = np.random.default_rng(seed).integers(0, 256, (16, 24, 3), np.uint8)
    return tiff_bytes(pixels, iccprofile=rgb_profile("sRGB").raw, **more)


def _looked(times=8):
    for _ in range(times):
        watched.look()
        work()


def test_what_is_put_in_comes_out_once_with_its_run_sheet(client, folder):
    (folder / "in" / "leaf.tif").write_bytes(_picture(1))
    watched.look()
    assert not WatchedFile.objects.exists(), "seen for the first time: it may still be written"
    _looked()
    assert _names(folder / "out") == ["leaf Cotton 54T run sheet.json", "leaf Cotton 54T.tif"]
    assert _names(folder / "done") == ["leaf.tif"] and _names(folder / "in") == _names(folder / "work") == []
    assert tifffile.imread(folder / "out" / "leaf Cotton 54T.tif").shape == (16, 24, 4)
    assert (
        json.loads((folder / "out" / "leaf Cotton 54T run sheet.json").read_text())["artwork"]["name"] == "leaf.tif"
    )
    told = client.get("/api/batches/watched").json()[0]
    assert told["counts"] == {"done": 1} and told["files"][0]["said"] == "Written as 'leaf Cotton 54T.tif'."
    # The same name again, with other content, and the same content again: each its own file, nothing replaced.
    first = (folder / "out" / "leaf Cotton 54T.tif").read_bytes()
    (folder / "in" / "leaf.tif").write_bytes(_picture(2))
    _looked()
    assert (folder / "out" / "leaf Cotton 54T.tif").read_bytes() == first
    assert (folder / "out" / "leaf Cotton 54T 2.tif").exists() and (folder / "done" / "leaf 2.tif").exists()


def test_unfinished_hidden_linked_and_broken_files_do_no_harm(folder, place):
    secret = place / "secret.tif"
    secret.write_bytes(_picture(3))
    inside = folder / "in"
    (inside / "link.tif").symlink_to(secret)
    (inside / "growing.tif").write_bytes(_picture(4)[:100])
    (inside / ".hidden.tif").write_bytes(_picture(5))
    (inside / "writing.tif.part").write_bytes(b"x")
    (inside / "empty.tif").write_bytes(b"")
    (inside / "letter.docx").write_bytes(b"no picture")
    (inside / "bad \u202e name; rm -rf.tif").write_bytes(b"II*\0junk")
    os.mkfifo(inside / "pipe.tif")
    watched.look()
    with (inside / "growing.tif").open("ab") as still:
        still.write(_picture(4)[100:])
    _looked()
    assert _names(inside) == [".hidden.tif", "empty.tif", "writing.tif.part"]
    failed = {name for name in _names(folder / "failed") if not name.endswith(".txt")}
    assert failed == {"link.tif", "letter.docx", "bad \u202e name; rm -rf.tif", "pipe.tif"}
    assert "neither TIFF, PNG" in (folder / "failed" / "letter.docx.txt").read_text()
    assert "is a link" in (folder / "failed" / "link.tif.txt").read_text() and secret.exists()
    assert [name for name in _names(folder / "out") if name.endswith(".tif")] == ["growing Cotton 54T.tif"]


def test_a_part_that_was_turned_into_a_link_stops_the_folder(folder, place):
    elsewhere = place / "elsewhere"
    elsewhere.mkdir()
    (folder / "in" / "leaf.tif").write_bytes(_picture(6))
    for part in ("out", "failed", "done"):
        (folder / part).rmdir()
        (folder / part).symlink_to(elsewhere)
        _looked()
        assert _names(elsewhere) == [] and _names(folder / "in") == ["leaf.tif"]
        (folder / part).unlink()
        (folder / part).mkdir()
    _looked()
    assert _names(folder / "done") == ["leaf.tif"]


def test_subfolders_are_conditions_and_unknown_ones_are_said(client, cotton, place):
    body = {"name": "By press", "by_subfolder": True}
    assert client.post("/api/batches/watched", body, JSON).status_code == 201
    for name in ("Cotton 54T", "Moon press"):
        (place / "By press" / "in" / name).mkdir()
        (place / "By press" / "in" / name / f"{name[0]}.tif").write_bytes(_picture(ord(name[0])))
    _looked()
    assert (place / "By press" / "out" / "C Cotton 54T.tif").exists()
    assert "no printing condition 'Moon press'" in (place / "By press" / "failed" / "M.tif.txt").read_text()


def test_a_worker_that_dies_anywhere_leaves_nothing_undone_or_done_twice(client, folder, monkeypatch):
    """Killed after moving in, after asking, in the middle of writing out, and after the original was moved on."""
    steps = {"create": (WatchedFile.objects, "create"), "put": (watched, "_put"), "moved": (watched, "_moved")}
    for seed, (name, (where, what)) in enumerate(steps.items()):
        (folder / "in" / f"{name}.tif").write_bytes(_picture(10 + seed))
        kept = getattr(where, what)

        def dies(*args, _kept=kept, _name=name, **more):
            if _name == "moved":
                _kept(*args, **more)
            raise SystemExit

        with monkeypatch.context() as patched:
            patched.setattr(where, what, dies)
            with pytest.raises(SystemExit):
                _looked()
        WatchedFile.objects.update(step_until=datetime.now(UTC) - timedelta(seconds=1))
        monkeypatch.setattr(watched, "_LEFT_SECONDS", -1.0)
        _looked()
    made = [name for name in _names(folder / "out") if name.endswith(".tif")]
    assert sorted(made) == [f"{name} Cotton 54T.tif" for name in ("create", "moved", "put")]
    assert _names(folder / "done") == ["create.tif", "moved.tif", "put.tif"]
    assert _names(folder / "work") == [] and not [n for n in _names(folder / "out") if n.startswith(".")]
    assert Run.objects.filter(kind="separation").count() == 3


def test_documents_go_through_the_output_and_names_are_no_paths(client, cotton, place):
    for name in ("../out", "a/b", ".hidden", "", "x" * 61):
        body = {"name": name, "condition": "cotton-54t"}
        assert client.post("/api/batches/watched", body, JSON).status_code == 422, name
    (place / "linked").symlink_to(place)
    assert client.post("/api/batches/watched", {"name": "linked", "condition": "cotton-54t"}, JSON).status_code == 422
    assert client.post("/api/batches/watched", {"name": "nothing"}, JSON).status_code == 422
    made = client.post("/api/batches/watched", {"name": "Art only", "condition": "cotton-54t"}, JSON).json()
    (place / "Art only" / "in" / "job.pdf").write_bytes(b"%PDF-1.4 no document")
    _looked()
    assert "no output for documents" in (place / "Art only" / "failed" / "job.pdf.txt").read_text()
    off = client.post(f"/api/batches/watched/{made['id']}/active?on=false").json()
    assert off["active"] is False
    (place / "Art only" / "in" / "late.tif").write_bytes(_picture(9))
    _looked()
    assert _names(place / "Art only" / "in") == ["late.tif"]
    assert client.delete(f"/api/batches/watched/{made['id']}").status_code == 204
    assert not WatchedFolder.objects.exists() and shutil.disk_usage(place / "Art only")


def test_a_folder_has_a_recipe_and_does_something_else_once_it_is_changed(client, folder):
    found = client.get("/api/batches/watched").json()[0]
    assert (found["condition_slug"], found["has_recipe"], found["recipe_name"]) == ("cotton-54t", False, "")
    (folder / "in" / "leaf.tif").write_bytes(_picture(1))
    _looked()
    artwork = Artwork.objects.get()
    recipe = client.get(f"/api/bench/{artwork.id}/cotton-54t/recipe").json()["recipe"]
    recipe["ink"] |= {"method": "rebuilt", "limits": {"total_percent": 140.0, "per_ink_percent": []}}
    recipe["adjust"]["regions"] = [{"name": "R", "corners": [[0, 0], [1, 0], [1, 1]]}]
    body = {"condition": "cotton-54t", "recipe": recipe, "recipe_name": "Thin", "name_rule": "{artwork} thin"}
    address = f"/api/batches/watched/{found['id']}"
    wrong = client.put(address, body | {"name_rule": "{artworc}"}, JSON)
    assert wrong.status_code == 422 and "artworc" in wrong.json()["detail"], "was said of every file that came"
    changed = client.put(address, body, JSON).json()
    assert (changed["name"], changed["has_recipe"], changed["recipe_name"]) == ("Cotton in", True, "Thin")
    (folder / "in" / "fern.tif").write_bytes(_picture(2))
    _looked()
    inks = tifffile.imread(folder / "out" / "fern thin.tif")
    assert inks.sum(axis=-1).max() <= 1.4 * 255 + 1e-9
    said = client.get("/api/batches/watched").json()[0]["files"]
    assert any("fern thin.tif" in each["said"] and "regions are left out" in each["said"] for each in said)
    stays = client.put(address, {"condition": "cotton-54t", "recipe_stays": True}, JSON).json()
    assert stays["recipe_name"] == "Thin" and stays["name_rule"] == ""
    assert client.put(address, {"condition": "cotton-54t"}, JSON).json()["has_recipe"] is False
    assert client.put("/api/batches/watched/999", body, JSON).status_code == 404


def test_the_system_tells_of_what_comes_in_and_once_more_when_it_has_settled(tmp_path):
    """Files waited for the next look, up to five seconds at each of four steps."""
    woken: queue.Queue[float] = queue.Queue()
    inside = tmp_path / "folders" / "Cotton in" / "in"
    end = told.hear(tmp_path / "folders", lambda: woken.put(time.monotonic()), 0.2)
    try:
        (tmp_path / "folders" / "Cotton in" / "out").mkdir(parents=True)
        (tmp_path / "folders" / "Cotton in" / "out" / "made.tif").write_bytes(b"of our own making")
        with pytest.raises(queue.Empty):
            woken.get(timeout=0.5)
        inside.mkdir()
        time.sleep(0.3)
        (inside / "moth.tif").write_bytes(b"coming")
        first = woken.get(timeout=5)
        last = first
        with contextlib.suppress(queue.Empty):
            while True:
                last = woken.get(timeout=2)
        assert last - first >= 1.0
    finally:
        end()
