"""From a new medium to a judged profile over HTTP: steps, stale marks, files, what is refused; then drift and media."""

import io
from dataclasses import replace

import numpy as np
import pytest
import tifffile
from django.core.files.uploadedfile import SimpleUploadedFile

from plinto_core.icc.profile import parse
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.chart import strip_chart
from plinto_demo.shop import measure
from plinto_server.conditions.models import Condition
from plinto_server.jobs.models import Run
from tests.conftest import shop_condition
from tests.server.conftest import work

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.usefixtures("devices_at_hand")]
JSON = {"content_type": "application/json"}


@pytest.fixture
def path(client):
    """A characterization of the inkjet with light inks; answers what the server says of it."""
    made = client.post("/api/characterizations", {"name": "Orrin, fine", "device_slug": "ardent-44"}, **JSON).json()
    address = f"/api/characterizations/{made['id']}"

    def step(name):
        return next(each for each in client.get(address).json()["steps"] if each["step"] == name)

    return address, step


def test_the_whole_path_and_what_a_change_makes_stale(client, path):
    address, step = path
    names = [each["step"] for each in client.get(address).json()["steps"]]
    assert names == ["crossing", "linearize", "total", "chart", "measure", "build", "judge"]
    early = client.post(f"{address}/steps/linearize/measure")
    assert early.status_code == 422 and "come first" in early.json()["detail"]
    for name in ("crossing", "linearize", "total"):
        asked = client.post(f"{address}/steps/{name}/measure")
        assert asked.status_code == 201, asked.json()
        assert step(name)["state"] == "measuring"
        assert client.post(f"{address}/steps/{name}/measure").status_code == 409
        work()
        assert step(name)["state"] == "done", Run.objects.first().message
        assert step(name)["live"] and step(name)["measured_at"]
    assert step("crossing")["result"]["advice"] == []
    curves = step("linearize")["result"]["calibration"]["curves"]
    assert [(curve["ink"], curve["light_ink"]) for curve in curves] == [("C", "c"), ("M", "m"), ("Y", ""), ("K", "k")]
    assert 200 <= step("total")["result"]["enough_percent"] <= 400
    client.put(f"{address}/steps/chart", {"settings": {"patches": 320}}, **JSON)
    client.post(f"{address}/steps/measure/measure")
    work()
    assert len(step("measure")["live"]) == 320
    wanted = {"style": "gentle", "light": "A", "smoothing": 1e-6}
    built = client.post(f"{address}/build", {"settings": wanted}, **JSON)
    assert built.status_code == 201, built.json()
    work()
    assert step("build")["state"] == "done", Run.objects.first().message
    slug = client.get(address).json()["condition_slug"]
    condition = Condition.objects.get(slug=slug)
    assert (condition.status, condition.name) == ("draft", "Orrin, fine")
    assert condition.report["smoothing"] == 1e-6 and "Colors as they look under A" in condition.report["notes"][0]
    told = step("build")["settings"]
    assert (told["style"], told["light"], told["smoothing"]) == ("gentle", "A", 1e-6)
    shown = next(each for each in client.get("/api/conditions").json() if each["slug"] == slug)
    assert shown["device_inks"] == ["C", "c", "M", "m", "Y", "K", "k"]
    assert client.post(f"{address}/judge").json()["steps"][-1]["state"] == "done"
    assert Condition.objects.get(slug=slug).status == "trusted"
    # Another crossing: whatever was printed through the old one no longer belongs to it.
    moved = {"settings": {"crossings": {"C": [0.2, 0.7, 0.1]}}}
    changed = client.put(f"{address}/steps/crossing", moved, **JSON).json()
    states = {each["step"]: each["state"] for each in changed["steps"]}
    assert states["crossing"] == "done" and states["chart"] == "done"
    assert all(states[name] == "stale" for name in ("linearize", "total", "measure", "build", "judge"))


def test_charts_come_as_pages_and_as_text(client, path):
    address, _step = path
    assert client.get(f"{address}/steps/crossing/sheet.pdf").content[:5] == b"%PDF-"
    text = client.get(f"{address}/steps/crossing/sheet.txt").content
    for kind in ("txt", "pdf"):
        stranger = client.get(f"{address}/steps/base/sheet.{kind}")
        assert stranger.status_code == 422 and "no step 'base'" in stranger.json()["detail"]
    assert b"7CLR_7" in text and b"NUMBER_OF_SETS 141" in text
    assert client.get(f"{address}/steps/judge/sheet.pdf").status_code == 422
    assert client.get(f"{address}/steps/crossing/sheet.pdf?check=1").status_code == 422
    client.post(f"{address}/steps/crossing/measure")
    work()
    assert client.get(f"{address}/steps/crossing/sheet.pdf?check=1").content[:5] == b"%PDF-"


def test_files_from_elsewhere_have_to_fit_the_step(client):
    made = client.post(
        "/api/characterizations", {"name": "Elsewhere", "device_slug": "", "inks": ["C", "M", "Y", "K"]}, **JSON
    ).json()
    address = f"/api/characterizations/{made['id']}"
    assert made["steps"][0]["step"] == "linearize"
    assert client.post(f"{address}/steps/linearize/measure").status_code == 422
    shop = shop_condition("halden-silk-150")

    def send(name, data):
        return client.post(f"{address}/steps/{name}/file", {"file": SimpleUploadedFile("ramps.txt", data)})

    ramps = measure(shop, np.concatenate([np.zeros((1, 4)), *(np.eye(4) * s for s in np.linspace(0.1, 1, 10))]))
    loaded = send("linearize", ramps.to_cgats().encode())
    assert loaded.status_code == 200, loaded.content
    assert loaded.json()["steps"][0]["state"] == "done"
    refused = send("linearize", b"no CGATS at all")
    assert refused.status_code == 422 and "'ramps.txt'" in refused.json()["detail"]
    # What was there before is kept.
    assert client.get(address).json()["steps"][0]["state"] == "done"
    three = measure(shop, np.eye(4)[:2]).to_cgats().replace("CMYK_K", "OTHER")
    assert send("linearize", three.encode()).status_code == 422


def test_another_light_needs_spectra(client):
    given = {"name": "Elsewhere", "device_slug": "", "inks": ["C", "M", "Y", "K"]}
    address = f"/api/characterizations/{client.post('/api/characterizations', given, **JSON).json()['id']}"
    data = measure(shop_condition("halden-silk-150"), strip_chart(("C", "M", "Y", "K")))
    file = SimpleUploadedFile("plain.txt", replace(data, spectra=None).to_cgats().encode())
    sent = client.post(f"{address}/steps/measure/file", {"file": file})
    assert sent.status_code == 200, sent.content
    refused = client.post(f"{address}/build", {"settings": {"light": "D65"}}, **JSON)
    assert refused.status_code == 422 and "has no spectra" in refused.json()["detail"]
    assert client.post(f"{address}/build", {"settings": {"light": "Moon"}}, **JSON).status_code == 422


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"name": "  ", "device_slug": "ardent-44"}, "a name"),
        ({"name": "x", "device_slug": "", "inks": []}, "One to eight"),
        ({"name": "x", "device_slug": "no-such"}, "no device"),
    ],
)
def test_what_cannot_begin_says_why(client, given, words):
    answer = client.post("/api/characterizations", given, **JSON)
    assert answer.status_code in (404, 422) and words in answer.json()["detail"]


def test_settings_that_no_step_can_use_are_refused(client, path):
    address, _step = path
    for name, settings in (
        ("crossing", {"crossings": {"C": [0.9, 0.2, 0]}}),
        ("chart", {"patches": 3}),
        ("total", {"total_percent": 9000}),
        ("linearize", {"caps": {"C": "much"}}),
    ):
        answer = client.put(f"{address}/steps/{name}", {"settings": settings}, **JSON)
        assert answer.status_code == 422, (name, answer.json())
    assert client.put(f"{address}/steps/nap", {"settings": {}}, **JSON).status_code == 404
    assert all(each["state"] == "open" for each in client.get(address).json()["steps"])


def test_a_cancelled_measurement_leaves_the_step_to_be_done(client, path):
    address, step = path
    client.post(f"{address}/steps/crossing/measure")
    assert client.delete(address).status_code == 409
    run = Run.objects.first()
    assert client.post(f"/api/runs/{run.id}/cancel").status_code == 200
    work()
    assert step("crossing")["state"] == "open"
    assert client.delete(address).status_code == 204 and client.get(address).status_code == 404


def test_a_profile_is_built_again_with_other_settings(client, cotton):
    settings = client.get("/api/conditions/cotton-54t/build-settings").json()
    before = client.post("/api/conditions/cotton-54t/variant", {"settings": settings}, **JSON).json()
    settings["limits"]["total_percent"] = 180
    settings["name"] = "Cotton, thin"
    after = client.post("/api/conditions/cotton-54t/variant", {"settings": settings}, **JSON).json()
    assert after["black_lab"][0] > before["black_lab"][0] and after["gamut_volume"] < before["gamut_volume"]
    assert max(sum(row[1:]) for row in after["gray_inks"]) <= 1.8 + 1e-3
    settings["grid"] = 9
    client.post("/api/conditions/cotton-54t/build", {"settings": settings}, **JSON)
    work()
    run = Run.objects.first()
    assert run.state == "done", run.message
    made = client.get(f"/api/conditions/{run.run_sheet['slug']}/build-settings").json()
    assert (made["name"], made["limits"]["total_percent"], made["grid"]) == ("Cotton, thin", 180, 9)
    settings["limits"]["per_ink_percent"] = [["Q", 50]]
    refused = client.post("/api/conditions/cotton-54t/variant", {"settings": settings}, **JSON)
    assert refused.status_code == 422 and "no ink Q" in refused.json()["detail"]


def test_a_profile_is_looked_into(client, cotton, artwork):
    facts = client.get("/api/conditions/cotton-54t/facts").json()
    tags = {each["tag"]: each for each in facts["tags"]}
    assert facts["header"]["version"] == "4.4" and tags["B2A1"]["has_table"]
    assert len(tags["B2A1"]["curves"]["B"]) == 3 and len(tags["B2A1"]["curves"]["B"][0]) == 65
    assert client.get("/api/conditions/cotton-54t/plane.png?tag=B2A1&level=0.6").content[1:4] == b"PNG"
    assert client.get("/api/conditions/cotton-54t/plane.png?tag=desc").status_code == 422
    body = {"values": [[60, 20, 10]], "to_lab": False, "intent": "relative", "beside": "cotton-54t"}
    sent = client.post("/api/conditions/cotton-54t/through", body, **JSON).json()
    assert sent["delta_e"] == [0] and len(sent["through"][0]["out"][0]) == 4
    wrong = client.post("/api/conditions/cotton-54t/through", {**body, "values": [[1, 2]]}, **JSON)
    assert wrong.status_code == 422
    made = client.get("/api/conditions/cotton-54t/put-together.icc?source=cotton-54t&tags=B2A0&name=Two")
    assert parse(made.content).name == "Two"
    page = client.get(f"/api/conditions/cotton-54t/report.html?artwork={artwork['id']}").content.decode()
    assert page.count("data:image/png") == 2 and "Round trip" in page and "http" not in page


def test_the_printers_mode_is_kept_with_the_condition_and_told_on_report_and_run_sheet(client, cotton, artwork):
    def decide(version, **mode):
        return client.put("/api/conditions/cotton-54t", {"version": version, "change": {"mode": mode}}, **JSON)

    refused = decide(0, name="Dense", feed_percent=12)
    assert refused.status_code == 422 and "feed of 12 %" in refused.json()["detail"]
    said = decide(0, name="Dense", resolution="720 × 1440 dpi", feed_percent=100.2, carriage_mm=0)
    words = "Dense, 720 × 1440 dpi, feed 100.2 %, carriage 0 mm"
    assert said.status_code == 200 and said.json()["mode_in_words"] == words
    assert words in client.get("/api/conditions/cotton-54t/report.html").content.decode()
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": cotton.recipe}
    run = client.post("/api/runs", body, **JSON).json()
    work()
    sheet = client.get(f"/api/runs/{run['id']}").json()["run_sheet"]
    assert sheet["condition"]["mode"] == words
    assert words in client.get(f"/runs/{run['id']}/sheet").content.decode()
    # Nothing else is changed by it, and the history has the way back.
    assert decide(1).json()["mode_in_words"] == ""
    back = {"kind": "condition", "key": "cotton-54t", "number": 1, "version": 2}
    assert client.post("/api/records/back", back, **JSON).status_code == 200
    assert client.get("/api/conditions/cotton-54t").json()["mode"]["carriage_mm"] == 0


def test_strips_are_judged_and_a_condition_that_is_out_says_so(client, cotton):
    shop = shop_condition("cotton-54t")
    asked = strip_chart(("C", "M", "Y", "K"))

    def send(data):
        file = SimpleUploadedFile("monday.txt", data.to_cgats().encode())
        return client.post("/api/conditions/cotton-54t/strips", {"file": file})

    good = send(measure(shop, asked)).json()
    assert good["drift"]["within"] and good["drift"]["mean"] < 1
    # As if the press ran a third fuller.
    out = measure(shop, np.clip(asked * 1.35, 0, 1))
    bad = send(type(out)(out.inks, asked, out.xyz, None, "fat")).json()
    assert not bad["drift"]["within"]
    last = client.get("/api/conditions").json()[0]["last_strip"]
    assert not last["within"] and last["broken"]
    wide = {"tolerances": {"paper": 9, "solids": 20, "mean": 40, "worst": 50}, "version": 0}
    assert client.put("/api/conditions/cotton-54t/tolerances", wide, **JSON).json()["last_strip"]["within"]
    measured = client.post("/api/conditions/cotton-54t/strips/measured").json()
    assert measured["drift"]["mean"] < 1
    assert len(client.get("/api/conditions/cotton-54t/strips").json()) == 3
    assert client.delete(f"/api/conditions/cotton-54t/strips/{bad['id']}").status_code == 204
    assert client.delete(f"/api/conditions/cotton-54t/strips/{bad['id']}").status_code == 404
    refused = client.post("/api/conditions/cotton-54t/strips", {"file": SimpleUploadedFile("x.txt", b"nothing")})
    assert refused.status_code == 422 and len(client.get("/api/conditions/cotton-54t/strips").json()) == 2


def test_media_have_a_cost_and_conditions_lie_on_them(client, cotton):
    wish = {"name": "Calico", "width_mm": 1500, "length_m": 40, "price": 120, "currency": "EUR"}
    medium = client.post("/api/conditions/media", {"medium": wish}, **JSON).json()
    assert medium["cost_per_m2"] == pytest.approx(2.0)
    assert client.post("/api/conditions/media", {"medium": wish}, **JSON).status_code == 409
    assert client.post("/api/conditions/media", {"medium": {**wish, "width_mm": 0}}, **JSON).status_code == 422
    changed = client.put(
        "/api/conditions/cotton-54t",
        {"change": {"medium_id": medium["id"], "notes": "Dry well."}, "version": 0},
        **JSON,
    ).json()
    assert changed["medium"]["name"] == "Calico" and changed["notes"] == "Dry well."
    dearer = {"medium": {**wish, "price": 180}, "version": medium["version"]}
    assert client.put(f"/api/conditions/media/{medium['id']}", dearer, **JSON).json()["cost_per_m2"] == pytest.approx(
        3
    )
    assert client.put("/api/conditions/cotton-54t", {"change": {"name": ""}, "version": 1}, **JSON).status_code == 422
    assert client.delete(f"/api/conditions/media/{medium['id']}").status_code == 204
    assert client.get("/api/conditions").json()[0]["medium"] is None


def test_a_chart_that_was_measured_says_what_it_is(client, path):
    """The data of a run is a CGATS file that reads back as what was printed."""
    address, _step = path
    client.post(f"{address}/steps/crossing/measure")
    work()
    run = Run.objects.first()
    data, _notes = read_measurements(b"".join(client.get(f"/api/runs/{run.id}/file").streaming_content), "back")
    assert data.inks == ("Cyan", "Light cyan", "Magenta", "Light magenta", "Yellow", "Black", "Light black")
    assert data.spectra is not None and len(data.device) == 141


def test_a_printer_driven_by_rgb_has_no_ink_to_set_anywhere(client, artwork):
    """It was refused: "a press or printer needs ink values"."""
    made = client.post("/api/characterizations", {"name": "Orrin vinyl", "device_slug": "sela-rgb"}, **JSON).json()
    address = f"/api/characterizations/{made['id']}"
    assert [each["step"] for each in made["steps"]] == ["chart", "measure", "build", "judge"]
    client.put(f"{address}/steps/chart", {"settings": {"patches": 300}}, **JSON)
    assert b"RGB_R RGB_G RGB_B" in client.get(f"{address}/steps/chart/sheet.txt").content
    assert client.get(f"{address}/steps/chart/sheet.pdf").content[:5] == b"%PDF-"
    client.post(f"{address}/steps/measure/measure")
    work()
    client.post(f"{address}/build", {"settings": {}}, **JSON)
    work()
    condition = Condition.objects.get(slug=client.get(address).json()["condition_slug"])
    assert condition.inks == ["-R", "-G", "-B"]
    bench = f"/api/bench/{artwork['id']}/{condition.slug}"
    recipe = client.get(f"{bench}/recipe").json()["recipe"]
    point = {"recipe": recipe, "points": [[20, 20]]}
    (row,) = client.post(f"{bench}/trace", point, **JSON).json()
    assert (
        set(row["driving"]) == set("RGB") and 0 <= min(row["driving"].values()) <= max(row["driving"].values()) <= 255
    )
    body = {"artwork_id": artwork["id"], "condition": condition.slug, "recipe": recipe}
    refused = client.post("/api/runs", body | {"recipe": recipe | {"deliver": {"format": "films"}}}, **JSON)
    assert refused.status_code == 422 and "driven by RGB" in refused.json()["detail"]
    run = client.post("/api/runs", body, **JSON).json()
    work()
    done = client.get(f"/api/runs/{run['id']}").json()
    assert (done["state"], done["figures"]) == ("done", None), done["message"]
    file = b"".join(client.get(f"/api/runs/{run['id']}/file").streaming_content)
    with tifffile.TiffFile(io.BytesIO(file)) as tiff:
        assert tiff.pages[0].photometric == tifffile.PHOTOMETRIC.RGB
    white = {"values": [[100.0, 0, 0]], "to_lab": False, "intent": "relative", "beside": ""}
    through = client.post(f"/api/conditions/{condition.slug}/through", white, **JSON).json()
    assert min(through["through"][0]["out"][0]) > 254.9
