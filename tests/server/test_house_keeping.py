"""Backup and restore, a first start that was torn, file modes, and what is said to browsers about safety."""

import os
import socket
import stat
import subprocess
import sys
from pathlib import Path

import pytest
from django.conf import settings as house
from django.test import Client

from plinto_core.errors import RecipeError
from plinto_server.files import store
from plinto_server.files.backup import backup, restore

ROOT = Path(__file__).resolve().parents[2]


def manage(data, *words, **env):
    return subprocess.run(
        [sys.executable, "manage.py", *words], cwd=ROOT, capture_output=True, text=True, check=False,
        env={**os.environ, "PLINTO_DATA": str(data), **env},
    )  # fmt: skip


@pytest.mark.django_db(transaction=True)
def test_a_backup_made_while_it_runs_is_restored_whole(client, artwork, cotton, settings, tmp_path):
    original = store.path_of(_digest(client, artwork)).read_bytes()
    target = tmp_path / "backup"
    made = backup(target)
    assert made.files == 2 and not made.missing
    assert backup(target).files == 2
    with pytest.raises(RecipeError, match="holds something else"):
        backup(tmp_path)
    settings.DATA_DIR = tmp_path / "restored"
    assert restore(target).files == 2
    assert store.path_of(_digest(client, artwork)).read_bytes() == original
    with pytest.raises(RecipeError, match="a database in"):
        restore(target)
    # A file that is not what it was is found before anything is written.
    victim = next(path for path in (target / "store").rglob("*") if path.is_file())
    victim.unlink()
    victim.write_bytes(b"rotten")
    settings.DATA_DIR = tmp_path / "elsewhere"
    with pytest.raises(RecipeError, match="not what they were"):
        restore(target)
    assert not (tmp_path / "elsewhere").exists()


def _digest(client, artwork):
    from plinto_server.artworks.models import Artwork

    return Artwork.objects.get(id=artwork["id"]).sha256


def test_a_torn_first_start_heals_and_the_key_is_nobody_elses(tmp_path):
    (tmp_path / "secret-key").touch()
    done = manage(tmp_path, "migrate", "--verbosity", "0")
    assert done.returncode == 0, done.stderr
    key = (tmp_path / "secret-key").read_text()
    assert len(key) > 40
    assert manage(tmp_path, "check").returncode == 0 and (tmp_path / "secret-key").read_text() == key
    for path in ("secret-key", "plinto.sqlite3"):
        assert stat.S_IMODE((tmp_path / path).stat().st_mode) & 0o077 == 0, path


def test_a_port_that_is_taken_is_said_and_nothing_runs_on(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        done = subprocess.run(
            [sys.executable, "scripts/serve.py", "--port", str(port)], cwd=ROOT, capture_output=True, text=True,
            check=False, timeout=20, env={**os.environ, "PLINTO_DATA": str(tmp_path)},
        )  # fmt: skip
    assert done.returncode == 1 and f"Port {port} of 127.0.0.1 is taken" in done.stderr


def test_results_in_the_store_are_for_the_account_alone(client, artwork):
    path = store.path_of(_digest(client, artwork))
    assert stat.S_IMODE(path.stat().st_mode) == 0o600


def test_browsers_are_told_what_a_page_may_do(db, client):
    for path in ("/", "/api/session", "/api/conditions"):
        policy = client.get(path).headers["Content-Security-Policy"]
        assert "default-src 'self'" in policy and "object-src 'none'" in policy and "frame-ancestors 'none'" in policy
        assert "script-src" not in policy or "unsafe" not in policy.split("script-src")[1].split(";")[0]


def test_one_setting_for_a_server_behind_tls(tmp_path):
    program = (
        "import django; django.setup(); from django.conf import settings as s;"
        "print(s.SESSION_COOKIE_SECURE, s.CSRF_COOKIE_SECURE, s.SECURE_HSTS_SECONDS > 0, s.SECURE_SSL_REDIRECT)"
    )
    done = subprocess.run(
        [sys.executable, "-c", program], cwd=ROOT, capture_output=True, text=True, check=False,
        env={**os.environ, "PLINTO_DATA": str(tmp_path), "PLINTO_HTTPS": "1", "PYTHONPATH": "src",
             "DJANGO_SETTINGS_MODULE": "plinto_server.settings"},
    )  # fmt: skip
    assert done.stdout.split() == ["True"] * 4, done.stderr


def test_addresses_and_numbers_that_are_none_are_refused_and_nothing_is_a_500(client, artwork, cotton):
    place = f"/api/bench/{artwork['id']}/cotton-54t"
    recipe = client.get(f"{place}/recipe").json()["recipe"]
    window = {"left": 0, "top": 0, "width": 10, "height": 10, "zoom": 1}
    json = {"content_type": "application/json"}
    bent = {**recipe, "adjust": {"base": {"master": {"points": [[0, 0], [1e-310, 1], [1, 1]]}}}}
    tries = [
        ("post", f"{place}/trace", {"recipe": recipe, "points": [[-1, -1]]}, 422),
        ("post", f"{place}/trace", {"recipe": recipe, "points": [[5000, 1]]}, 422),
        ("post", f"{place}/picture", {"recipe": recipe, "view": {"mark_color": [999, 0, 0]}, "window": window}, 422),
        ("post", f"{place}/picture", {"recipe": recipe, "view": {}, "window": {**window, "left": 9000}}, 422),
        ("post", f"{place}/palette", '{"recipe": {}, "text": "a 1 1 1", "tolerance": NaN}', 400),
        ("post", f"{place}/palette", {"recipe": recipe, "text": "BEGIN_DATA_FORMAT\nLAB_L LAB_A LAB_B\n"
         "END_DATA_FORMAT\nBEGIN_DATA\nnan 0 0\nEND_DATA"}, 422),
        ("post", f"/api/bench/{artwork['id']}/pins", '{"x": 1, "y": 1, "name": "\\ud800"}', 400),
        ("post", f"/api/bench/{artwork['id']}/pins", '{"x": ' + "9" * 400 + ', "y": 1}', 400),
        ("post", f"/api/bench/{artwork['id']}/pins", '{"x": 1e999, "y": 1}', 400),
        ("post", f"/api/bench/{artwork['id']}/pins", "[" * 100_000, 400),
        ("post", "/api/conditions/cotton-54t/through", {"values": []}, 422),
        ("post", f"{place}/trace", {"recipe": bent, "points": [[1, 1]]}, 422),
        ("post", "/api/runs", {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": recipe,
         "output_id": -1}, 422),
        ("get", "/api/artworks/" + "9" * 400, None, 404),
        ("get", "/api/runs?before=" + "9" * 400, None, 422),
        ("get", "/api/conditions/cotton-54t/plane.png?tag=B2A1&level=nan", None, 422),
        ("get", "/runs/99/sheet", None, 404),
    ]  # fmt: skip
    for method, path, body, status in tries:
        answer = client.get(path) if method == "get" else client.post(path, body, **json)
        assert answer.status_code == status, (path[:60], answer.status_code, answer.content[:200])
        text = b"".join(answer.streaming_content) if answer.streaming else answer.content
        assert str(house.DATA_DIR).encode() not in text
    assert b"NaN" not in client.get("/api/conditions").content
    assert "half a letter" in client.post(tries[6][1], tries[6][2], **json).json()["detail"]
    assert b"Go to the runs" in client.get("/runs/99/sheet").content
    assert Client().get("/api/artworks").status_code == 401
