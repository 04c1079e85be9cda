"""House rules over HTTP: applied at intake, reversible, switched, handed on; versions of artwork."""

import io
import json

import numpy as np
import pytest
from django.conf import settings as django_settings
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from plinto_core.icc.standard import rgb_profile
from plinto_server.artworks.models import Artwork
from plinto_server.files import store
from plinto_server.jobs import attempt
from plinto_server.jobs.models import Run
from tests.conftest import profile_of
from tests.server.conftest import take_in, tiff_bytes, work

PIXELS = np.random.default_rng(9).integers(0, 256, (60, 80, 3)).astype(np.uint8)


def _post(client, path, body=None):
    return client.post(path, body or {}, content_type="application/json")


def _rules(client, name, **change):
    body = {"rules": {"name": name, **change}}
    answer = _post(client, "/api/house/rules", body)
    assert answer.status_code == 201, answer.content
    return answer.json()


def _send(client, data, name="a.tif"):
    return take_in(client, name, data)


def _tagged(space, seed=0):
    return tiff_bytes(np.roll(PIXELS, seed, axis=0), iccprofile=rgb_profile(space).raw)


def test_the_first_set_is_in_use_and_sets_are_switched_for_everyone(client):
    first, second = _rules(client, "Packaging"), _rules(client, "Web", rgb="sRGB")
    assert first["in_use"] and not second["in_use"]
    assert _post(client, f"/api/house/rules/{second['id']}/use").json()["in_use"]
    assert [s["in_use"] for s in client.get("/api/house/rules").json()] == [False, True]
    assert client.delete(f"/api/house/rules/{second['id']}").status_code == 409
    assert client.delete(f"/api/house/rules/{first['id']}").status_code == 204
    assert _post(client, "/api/house/rules", {"rules": {"name": "Web"}}).status_code == 409


def test_untagged_artwork_is_assumed_kept_or_asked_about(client):
    before = set((django_settings.DATA_DIR / "incoming").glob("*"))
    for seed, (untagged, profile, asks) in enumerate(
        [("assume", "opRGB", []), ("keep", "", []), ("ask", "", ["assume", "keep"])]
    ):
        made = _rules(client, untagged, untagged=untagged)
        _post(client, f"/api/house/rules/{made['id']}/use")
        artwork = _send(client, tiff_bytes(np.roll(PIXELS, seed, axis=1)), f"{untagged}.tif")
        assert (artwork["profile_name"], artwork["asks"]) == (profile, asks)
        assert artwork["log"][-1].startswith(f"{untagged}: ")
        assert set((django_settings.DATA_DIR / "incoming").glob("*")) == before, untagged
    # The answer is a version; so is the way back.
    place = f"/api/artworks/{artwork['id']}"
    answered = _post(client, f"{place}/versions", {"action": "assign", "profile": artwork["asks_space"]}).json()
    assert (answered["profile_name"], answered["asks"], answered["version"]) == ("opRGB", [], 1)
    back = _post(client, f"{place}/version", {"number": 0}).json()
    assert (back["profile_name"], back["version"]) == ("", 0)
    assert [v["action"] for v in client.get(f"{place}/versions").json()] == ["taken in", "assigned"]


def test_differing_artwork_is_converted_and_the_original_stays(client):
    _rules(client, "Textile", differing="convert")
    data = _tagged("P3")
    artwork = _send(client, data)
    assert (artwork["profile_name"], artwork["depth"], artwork["version"]) == ("opRGB", 16, 1)
    place = f"/api/artworks/{artwork['id']}"
    assert b"".join(client.get(f"{place}/original").streaming_content) == data
    back = _post(client, f"{place}/version", {"number": 0}).json()
    assert back["profile_name"] == rgb_profile("P3").name and back["depth"] == 8
    assert client.delete(place).status_code == 204
    assert not any(store.path_of(s).exists() for s in (Artwork.objects.values_list("pixels_sha256", flat=True)))


def test_assign_convert_and_remove_are_versions_that_pictures_follow(client, cotton):
    artwork = _send(client, _tagged("sRGB"))
    place = f"/api/artworks/{artwork['id']}"
    bench = f"/api/bench/{artwork['id']}/cotton-54t"
    recipe = client.get(f"{bench}/recipe").json()["recipe"]
    window = {"left": 0, "top": 0, "width": 80, "height": 60, "zoom": 1}

    def shown():
        answer = _post(client, f"{bench}/picture", {"recipe": recipe, "view": {"show": "artwork"}, "window": window})
        return np.asarray(Image.open(io.BytesIO(answer.content))).astype(int) if answer.status_code == 200 else answer

    first = shown()
    asked = _post(client, f"{place}/versions", {"action": "convert", "profile": "ROMM"})
    assert asked.status_code == 202
    assert client.get(place).json()["version"] == 0
    work()
    assert client.get(f"/api/runs/{asked.json()['id']}").json()["state"] == "done"
    assert client.get(place).json()["profile_name"].startswith("ROMM")
    assert np.abs(shown() - first).mean() < 1
    _post(client, f"{place}/versions", {"action": "assign", "profile": "sRGB"})
    assert np.abs(shown() - first).mean() > 5
    _post(client, f"{place}/versions", {"action": "remove"})
    assert shown().status_code == 422
    assert _post(client, f"{place}/versions", {"action": "convert", "profile": "P3"}).status_code == 422
    assert _post(client, f"{place}/versions", {"action": "assign"}).json()["detail"] == "Choose a profile first."
    assert _post(client, f"{place}/version", {"number": 99}).status_code == 404
    _post(client, f"{place}/version", {"number": 0})
    assert np.array_equal(shown(), first)


def test_a_conversion_is_stopped_when_somebody_asks(client, monkeypatch):
    """It took the wish and went on to its end."""
    monkeypatch.setattr(attempt, "_BEAT_SECONDS", 0.0)
    progress = attempt.Attempt.progress

    def cancel_early(self, share):
        Run.objects.filter(kind="version").update(cancel_asked=True)
        progress(self, share)

    artwork = _send(client, _tagged("sRGB"))
    place = f"/api/artworks/{artwork['id']}"
    asked = _post(client, f"{place}/versions", {"action": "convert", "profile": "ROMM"}).json()
    monkeypatch.setattr(attempt.Attempt, "progress", cancel_early)
    work()
    assert client.get(f"/api/runs/{asked['id']}").json()["state"] == "cancelled"
    assert client.get(place).json()["version"] == 0


def test_flattening_can_be_done_again_on_another_ground(client):
    stored = np.zeros((20, 30, 4), np.uint8)
    file = io.BytesIO()
    Image.fromarray(stored, mode="RGBA").save(file, "PNG")
    artwork = _send(client, file.getvalue(), "clear.png")
    assert artwork["has_alpha"] and "white" in artwork["log"][0]
    place = f"/api/artworks/{artwork['id']}"
    assert _post(client, f"{place}/versions", {"action": "flatten", "page": 1}).status_code == 422
    for ground in ([1.0, 0.0, 0.0], [0.0, 1.0, 0.0]):
        assert _post(client, f"{place}/versions", {"action": "flatten", "ground": ground}).status_code == 202
    work()
    # Both asked for a version of the same one: the second is told, and nothing of it is kept.
    told = [(run["state"], run["message"]) for run in client.get("/api/runs").json()[:2]]
    assert [state for state, _ in told] == ["failed", "done"] and "meanwhile" in told[0][1]
    assert "#ff0000" in client.get(place).json()["log"][-1]
    png = client.get(f"/api/artworks/{artwork['id']}/thumbnail").content
    assert np.asarray(Image.open(io.BytesIO(png)))[5, 5].tolist() == [255, 0, 0]


def test_rules_and_profiles_are_handed_on_as_one_file(client, cotton):
    press = profile_of("halden-silk-150")
    answer = client.post("/api/house/profiles", {"file": SimpleUploadedFile("press.icc", press.raw)})
    assert (answer.status_code, answer.json()["space"]) == (201, "CMYK")
    made = _rules(client, "Offset 🌙", cmyk=press.digest, intent="perceptual")
    file = client.get(f"/api/house/rules/{made['id']}/file")
    plain = json.loads(file.content)
    assert plain["profiles"].keys() == {press.digest}
    plain["rules"]["name"] = "From elsewhere"
    given = SimpleUploadedFile("rules.json", json.dumps(plain).encode())
    assert client.post("/api/house/rule-files", {"file": given}).json()["rules"]["cmyk"] == press.digest
    # The set in use is what a fresh recipe aims by.
    artwork = _send(client, _tagged("opRGB"))
    recipe = client.get(f"/api/bench/{artwork['id']}/cotton-54t/recipe").json()["recipe"]
    assert recipe["aim"]["intent"] == "perceptual"
    for data, words in ((b"{", "is no JSON"), (b"{}", "no file of house rules")):
        refused = client.post("/api/house/rule-files", {"file": SimpleUploadedFile("r.json", data)})
        assert refused.status_code == 422 and words in refused.json()["detail"]


BROKEN = {
    "cut": profile_of("cotton-54t").raw[:4000],
    "no profile": b"nothing of the kind" * 20,
    "billions": profile_of("cotton-54t").raw[:128] + b"\xff\xff\xff\xff" + b"\0" * 100,
}


@pytest.mark.parametrize("kind", list(BROKEN))
def test_broken_profiles_are_refused_and_not_kept(client, kind):
    answer = client.post("/api/house/profiles", {"file": SimpleUploadedFile("p.icc", BROKEN[kind])})
    assert answer.status_code == 422 and "not usable" in answer.json()["detail"]
    assert client.get("/api/house/profiles").json() == []


def test_rules_with_a_profile_of_the_wrong_kind_are_refused(client, cotton):
    body = {"rules": {"name": "Wrong", "cmyk": "sRGB"}}
    answer = _post(client, "/api/house/rules", body)
    assert answer.status_code == 422 and "needs CMYK" in answer.json()["detail"]


def test_adjustments_are_named_replaced_and_forgotten(client):
    adjustment = {"chroma_percent": 12}
    body = {"name": "Warmer moths", "adjustment": adjustment}
    made = _post(client, "/api/house/adjustments", body).json()
    body["adjustment"]["chroma_percent"] = 20
    assert _post(client, "/api/house/adjustments", body).status_code == 409
    body["version"] = made["version"]
    assert _post(client, "/api/house/adjustments", body).json()["id"] == made["id"]
    assert client.get("/api/house/adjustments").json()[0]["adjustment"]["chroma_percent"] == 20
    assert client.delete(f"/api/house/adjustments/{made['id']}").status_code == 204
    assert client.delete(f"/api/house/adjustments/{made['id']}").status_code == 404


def test_settings_of_a_station_and_recipes_are_kept_under_names_with_a_history_and_as_files(client, cotton):
    ink = {**cotton.recipe["ink"], "limits": {"total_percent": 210, "per_ink_percent": []}}
    body = {"station": "ink", "name": "Soft totes", "inks": ["C", "M", "Y", "K"], "recipe": {"ink": ink}}
    made = client.post("/api/house/settings", body, content_type="application/json")
    assert made.status_code == 201, made.content
    assert made.json()["recipe"]["ink"]["limits"]["total_percent"] == 210
    assert client.post("/api/house/settings", body, content_type="application/json").status_code == 409
    again = {**body, "version": made.json()["version"], "recipe": {"ink": {**ink, "without": ["Y"]}}}
    assert client.post("/api/house/settings", again, content_type="application/json").status_code == 201
    wrong = {**body, "name": "x", "recipe": {"ink": {"limits": {"total_percent": "much"}}}}
    assert client.post("/api/house/settings", wrong, content_type="application/json").status_code == 422
    # A recipe leaves behind what belongs to one artwork.
    region = {"name": "A", "corners": [[0, 0], [1, 0], [1, 1]]}
    whole = {
        **cotton.recipe,
        "source": {"profile": "opRGB"},
        "adjust": {**cotton.recipe["adjust"], "regions": [region]},
    }
    recipe = {"station": "recipe", "name": "House way", "inks": ["C", "M", "Y", "K"], "recipe": whole}
    kept = client.post("/api/house/settings", recipe, content_type="application/json").json()
    assert kept["recipe"]["source"] == {"profile": "embedded"} and kept["recipe"]["adjust"]["regions"] == []
    file = client.get(f"/api/house/settings/{kept['id']}/file").content
    assert client.delete(f"/api/house/settings/{kept['id']}").status_code == 204
    back = client.post("/api/house/settings/file", {"file": SimpleUploadedFile("House way.json", file)})
    assert back.status_code == 201 and back.json()["recipe"] == kept["recipe"]
    for data in (
        b"{",
        b"[]",
        b'{"plinto_settings": 9}',
        file.replace(b'"recipe"', b'"moon"'),
        file.replace(b'"limits"', b'"limit"'),
    ):
        assert (
            client.post("/api/house/settings/file", {"file": SimpleUploadedFile("x.json", data)}).status_code == 422
        )
    assert {each["name"] for each in client.get("/api/house/settings").json()} == {"Soft totes", "House way"}
    revisions = client.get("/api/records?kind=settings&key=ink Soft totes").json()
    assert len(revisions) == 2
