"""Conditions taken in over HTTP: from a profile at once, from measurements by a run; judged, seen as gamuts."""

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from plinto_core.colorimetry import xyz_to_lab
from plinto_core.icc.standard import rgb_profile
from plinto_core.measurement.chart import correction_chart
from plinto_demo.shop import measure, measure_chart
from plinto_server.conditions.models import Condition
from plinto_server.jobs.models import Run
from tests.conftest import profile_of, shop_condition
from tests.server.conftest import work

pytestmark = pytest.mark.django_db(transaction=True)


def _send(client, name, data):
    return client.post("/api/conditions", {"file": SimpleUploadedFile(name, data)})


def _entered(client, name, data):
    """The slug of the condition that a file becomes."""
    answer = _send(client, name, data)
    assert answer.status_code == 202, answer.content
    work()
    run = client.get(f"/api/runs/{answer.json()['run_id']}").json()
    assert run["state"] == "done", run["message"]
    return run["run_sheet"]["slug"]


def test_a_profile_becomes_a_condition_that_prints(client, artwork):
    slug = _entered(client, "silk.icc", profile_of("halden-silk-150").raw)
    found = next(each for each in client.get("/api/conditions").json() if each["slug"] == slug)
    assert (found["name"], found["status"], found["made_from"]) == ("Halden Silk 150", "draft", "silk.icc")
    assert found["total_ink_percent"] == 320
    recipe = client.get(f"/api/bench/{artwork['id']}/{slug}/recipe").json()["recipe"]
    assert recipe["ink"]["limits"]["total_percent"] == 320
    trusted = client.put(
        f"/api/conditions/{slug}/status",
        {"status": "trusted", "version": found["version"]},
        content_type="application/json",
    )
    assert trusted.json()["status"] == "trusted"
    # The same again is another condition beside it.
    assert _entered(client, "silk.icc", profile_of("halden-silk-150").raw) == f"{slug}-2"
    assert client.delete(f"/api/conditions/{slug}").status_code == 204
    assert client.get(f"/api/conditions/{slug}/judgement").status_code == 404


def test_measurements_become_a_profile_in_the_background(client):
    text = measure_chart(shop_condition("tern-news-45"), 420).to_cgats()
    run_id = _send(client, "news.txt", text.encode()).json()["run_id"]
    assert client.get(f"/api/runs/{run_id}").json()["kind"] == "profile"
    work()
    run = client.get(f"/api/runs/{run_id}").json()
    assert run["state"] == "done", run["message"]
    slug = run["run_sheet"]["slug"]
    condition = Condition.objects.get(slug=slug)
    assert condition.status == "draft" and condition.patches == 420
    assert condition.fit_mean < 0.6 and condition.report["wrong_patches"] == []
    data = b"".join(client.get(f"/api/runs/{run_id}/file").streaming_content)
    assert data[36:40] == b"acsp"
    judged = client.get(f"/api/conditions/{slug}/judgement").json()
    assert judged["round_trip_mean"] < 1 and judged["max_neutral_chroma"] < 1.5
    assert judged["most_ink_percent"] <= condition.total_ink_percent + 0.01


def test_gamuts_and_the_cloud_of_an_artwork(client, cotton, artwork):
    first, second = client.get("/api/conditions/gamuts?of=cotton-54t,sRGB").json()
    assert first["in_first"] == 1 and 0.1 < second["in_first"] < 0.9
    assert len(first["points"]) == len(first["rgb"]) and max(map(max, first["triangles"])) < len(first["points"])
    assert client.get("/api/conditions/gamuts?of=velvet").status_code == 404
    recipe = client.get(f"/api/bench/{artwork['id']}/cotton-54t/recipe").json()["recipe"]
    cloud = client.post(
        f"/api/bench/{artwork['id']}/cotton-54t/cloud", {"recipe": recipe}, content_type="application/json"
    ).json()
    assert len(cloud["lab"]) == len(cloud["rgb"]) <= 20_000
    assert 0 < cloud["outside_share"] < 1
    arrows = np.array(cloud["arrows"])
    assert np.linalg.norm(arrows[:, :3] - arrows[:, 3:], axis=1).min() > 2


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.txt", b"just words", "neither BEGIN_DATA_FORMAT"),
        ("a.icc", rgb_profile("sRGB").raw, "needs an output profile"),
        ("a.icc", profile_of("cotton-54t").raw[:3000], "not usable"),
        ("a.cxf", b"<a><b></a>", "no readable CxF"),
    ],
)
def test_what_makes_no_condition_is_refused_and_nothing_is_kept(client, name, data, words):
    answer = _send(client, name, data)
    assert answer.status_code == 422 and words in answer.json()["detail"]
    assert Condition.objects.count() == 0 and Run.objects.count() == 0


NUMBERS = {
    "name": "Supplier's tote", "paper": [92, 0, 3], "gain_percent": {"C": 22, "M": 22, "Y": 20},
    "solids": {"C": [55, -36, -45], "M": [50, 70, -4], "Y": [88, -6, 86], "K": [22, 0, 1]},
    "overprints": {"CM": [28, 18, -44]},
}  # fmt: skip


def test_a_condition_from_numbers_is_seen_made_marked_and_moved_by_a_few_patches(client):
    looked = client.post("/api/conditions/numbers/look", {"numbers": NUMBERS}, content_type="application/json").json()
    assert looked["inks"] == ["C", "M", "Y", "K"] and "M+Y" in looked["missing"] and "C+M" not in looked["missing"]
    # As files of before have the Yule-Nielsen n.
    old = client.post(
        "/api/conditions/numbers/look", {"numbers": {**NUMBERS, "spread": 2.2}}, content_type="application/json"
    )
    assert (old.json()["numbers"]["yule_nielsen_n"], looked["numbers"]["yule_nielsen_n"]) == (2.2, 1.7)
    told = {each["inks"]: each for each in looked["solids"]}
    assert told["C+M"]["given"] and told["C+M"]["lab"] == [28, 18, -44] and not told["M+Y"]["given"]
    assert looked["gamut"]["volume"] > 100_000
    for count in (1, 2):
        few = {"name": "few", "paper": [92, 0, 3], "solids": dict(list(NUMBERS["solids"].items())[:count])}
        told_of = client.post("/api/conditions/numbers/look", {"numbers": few}, content_type="application/json")
        assert told_of.status_code == 200 and told_of.json()["gamut"] is None
    bad = {"numbers": {**NUMBERS, "solids": {}}}
    assert client.post("/api/conditions/numbers/look", bad, content_type="application/json").status_code == 422
    asked = client.post("/api/conditions/numbers/make", {"numbers": NUMBERS}, content_type="application/json")
    assert asked.status_code == 202, asked.content
    work()
    made = Condition.objects.get(name="Supplier's tote")
    assert (made.made_from, made.status, made.patches) == ("numbers", "draft", 0)
    assert "15 % at the half tone is assumed" in " ".join(made.report["notes"])
    kept = client.get(f"/api/conditions/{made.slug}/numbers").json()
    assert kept["solids"]["K"] == [22, 0, 1]
    patches = client.get(f"/api/conditions/{made.slug}/numbers/patches").content
    assert patches.count(b"\n") > 24
    # Printed on a press that gains more, and measured.
    shop = shop_condition("cotton-54t")
    data = measure(shop, correction_chart(("C", "M", "Y", "K")), seed=2).to_cgats().encode()
    place = f"/api/conditions/{made.slug}/numbers/correct"
    strange = client.post(place, {"file": SimpleUploadedFile("x.txt", b"no data")})
    assert strange.status_code == 422
    assert client.post(place, {"file": SimpleUploadedFile("strip.txt", data)}).status_code == 202
    work()
    moved = Condition.objects.get(name="Supplier's tote, corrected")
    assert "24 measured patches" in moved.report["notes"][0]
    aim = measure(shop, np.array([[0, 0, 0, 0.0]]), seed=3)
    assert moved.substrate_lab == pytest.approx(xyz_to_lab(aim.xyz[0]).tolist(), abs=0.3)
