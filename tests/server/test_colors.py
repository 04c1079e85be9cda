"""Color lists and routes over the API: taken in, sent along, sorted, written, judged."""

import time

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from plinto_core.icc import cmm
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.route.color_list import read_list
from plinto_core.route.list_out import written_list
from plinto_demo.season import season_list
from plinto_server.colors.models import ColorList
from plinto_server.errors import MissingError
from plinto_server.files import collector, store
from tests.conftest import profile_of

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"


@pytest.fixture
def press(cotton):
    return cotton.profile_sha256


def _list(client, data, name="list.txt"):
    return client.post("/api/colors/lists", {"file": SimpleUploadedFile(name, data)})


def _travel(client, **body):
    answer = client.post("/api/colors/travel", body, content_type=JSON)
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_a_typed_list_goes_along_a_route_as_littlecms_has_it(client, press):
    text = "Leaf #2f8f3a\nNight #101030\nHot #ff00ff"
    made = client.post("/api/colors/lists/typed", {"name": "Season", "text": text}, JSON)
    assert made.status_code == 201 and made.json()["count"] == 3
    steps = [{"profile": "sRGB"}, {"profile": press, "intent": "relative", "bpc": True}]
    found = _travel(client, list_id=made.json()["id"], steps=steps, sort="difference", descending=True)
    assert [column["channels"] for column in found["columns"]] == [["R", "G", "B"], ["C", "M", "Y", "K"]]
    assert found["rows"][0]["name"] == found["worst_name"]
    codes = np.array([[0x2F, 0x8F, 0x3A]]) / 255
    inks = cmm.convert(rgb_profile("sRGB"), profile_of("cotton-54t"), codes, "relative", bpc=True)
    leaf = next(row for row in found["rows"] if row["name"] == "Leaf")
    assert leaf["cells"][1]["values"] == pytest.approx((inks[0] * 100).tolist(), abs=0.01)
    assert leaf["cells"][0]["values"] == pytest.approx([0x2F, 0x8F, 0x3A]) and leaf["cells"][0]["swatch"] == "#2f8f3a"
    assert found["between"]["largest"] == pytest.approx(max(row["difference"] for row in found["rows"]), abs=0.01)
    assert sum(found["between"]["histogram"]) == pytest.approx(1, abs=1e-3)
    # A step passed over, a search, a threshold, and columns that are not there.
    bypassed = _travel(client, list_id=made.json()["id"], steps=[steps[0], {**steps[1], "bypassed": True}])
    assert len(bypassed["columns"]) == 1 and bypassed["between"]["largest"] == 0
    assert _travel(client, list_id=made.json()["id"], steps=steps, search="nig")["total"] == 1
    assert _travel(client, list_id=made.json()["id"], steps=steps, over=15)["total"] < 3
    bad = {"list_id": made.json()["id"], "steps": steps, "sort": "C:7"}
    assert client.post("/api/colors/travel", bad, JSON).status_code == 422
    strange = {"list_id": made.json()["id"], "steps": [{"profile": press}]}
    answer = client.post("/api/colors/travel", strange, JSON)
    assert answer.status_code == 422 and "Begin the route with" in answer.json()["detail"]


def test_a_hundred_thousand_colors_through_four_steps_are_sorted_and_paged(client, press):
    values = np.random.default_rng(1).random((100_000, 4))
    lines = "\n".join(f"{n} " + " ".join(f"{v * 100:.2f}" for v in row) for n, row in enumerate(values))
    head = "BEGIN_DATA_FORMAT\nSAMPLE_ID CMYK_C CMYK_M CMYK_Y CMYK_K\nEND_DATA_FORMAT\nBEGIN_DATA\n"
    answer = _list(client, f"CGATS.17\n{head}{lines}\nEND_DATA\n".encode())
    assert answer.status_code == 201, answer.content
    found = {"list_id": answer.json()["id"], "steps": [{"profile": each} for each in (press, "sRGB", "opRGB", press)]}
    begin = time.perf_counter()
    first = _travel(client, **found, sort="C:0", second=3)
    went = time.perf_counter() - begin
    begin = time.perf_counter()
    last = _travel(client, **found, sort="C:0", second=3, offset=99_990)
    paged = time.perf_counter() - begin
    print(f"100,000 rows through four steps {went:.2f} s, a page of it {paged:.2f} s")
    chroma = [row["cells"][0]["lch"][1] for row in first["rows"]]
    assert first["total"] == 100_000 and len(last["rows"]) == 10 and chroma == sorted(chroma)
    assert last["rows"][-1]["cells"][0]["lch"][1] > chroma[-1]
    cloud = client.post("/api/colors/points", {**found, "second": 3}, JSON).json()
    assert 10_000 < len(cloud["lab"]) <= 20_000 and len(cloud["arrows"]) == len(cloud["lab"])
    picked = client.post("/api/colors/points", {**found, "second": 3, "rows": [5, 7]}, JSON).json()
    assert len(picked["lab"]) == 2
    # What stands between two places of the order is told without the rows, and all of it can be shown.
    span = {**found, "sort": "C:0", "second": 3, "offset": 99_990, "until": 100_000}
    rows = client.post("/api/colors/rows", span, JSON).json()
    assert rows == [row["index"] for row in last["rows"]]
    every = client.post("/api/colors/points", {**found, "second": 3, "rows": list(range(100_000))}, JSON)
    assert every.status_code == 200 and 10_000 < len(every.json()["lab"]) <= 20_000


def test_lists_from_artwork_know_where_they_are_from(client, artwork, press):
    body = {"artwork_id": artwork["id"], "rectangle": [10, 10, 100, 50], "across": 5, "down": 2}
    made = client.post("/api/colors/lists/sampled", body, JSON).json()
    assert made["count"] == 10 and made["artwork_id"] == artwork["id"]
    rows = _travel(client, list_id=made["id"], steps=[{"profile": "opRGB"}, {"profile": press}])["rows"]
    assert rows[0]["place"] == [20, 22]
    shown = {"list_id": made["id"], "steps": [{"profile": "opRGB"}], "rows": [0, 9]}
    assert client.post("/api/colors/points", shown, JSON).json()["places"] == [rows[0]["place"], rows[9]["place"]]
    outside = {**body, "rectangle": [10_000, 0, 10, 10]}
    assert client.post("/api/colors/lists/sampled", outside, JSON).status_code == 422
    for kind in ("cgats", "csv", "cxf", "icc"):
        file = client.get(f"/api/colors/lists/{made['id']}/file?kind={kind}&profile=opRGB")
        assert file.status_code == 200 and _list(client, file.content, f"again.{kind}").status_code == 201
    assert client.get(f"/api/colors/lists/{made['id']}/file?kind=icc").status_code == 422


def test_bad_lists_are_refused_and_nothing_is_kept(client):
    for data, name in (
        (b"\x00\x01\x02", "x.bin"),
        (b"", "empty.txt"),
        (b"<CxF><a></CxF>", "x.cxf"),
        (b"blue\n1 2", "x.txt"),
    ):
        answer = _list(client, data, name)
        assert answer.status_code == 422 and answer.json()["detail"], name
    assert not ColorList.objects.exists()


def test_a_conditions_own_separation_is_a_step_with_its_own_limits(client, cotton, press):
    listed = _list(client, b"Dark #201510\nBlue #0000ff\n", "l.txt").json()
    steps = [{"profile": "sRGB"}, {"profile": press, "bpc": True, "own": True}]
    wish = {"list_id": listed["id"], "steps": steps, "first": 0, "second": 1}

    def totals():
        answer = client.post("/api/colors/travel", wish, JSON)
        assert answer.status_code == 200, answer.content
        return [sum(row["cells"][1]["values"]) for row in answer.json()["rows"]], answer.json()["columns"][1]["name"]

    found, name = totals()
    assert max(found) <= 230.1 and "own separation" in name
    # Set otherwise at the condition, it is another separation at once.
    cotton.recipe["ink"]["limits"]["total_percent"] = 180
    cotton.save()
    assert max(totals()[0]) <= 180.1 < max(found)
    cotton.delete()
    refused = client.post("/api/colors/travel", wish, JSON)
    assert refused.status_code in (404, 422) and refused.json()["detail"]


def test_pins_become_a_list_that_knows_where_it_is_from(client, artwork):
    empty = client.post("/api/colors/lists/pins", {"artwork_id": artwork["id"]}, JSON)
    assert empty.status_code == 422 and "no place" in empty.json()["detail"]
    for x, y in ((3, 4), (10, 20)):
        client.post(f"/api/bench/{artwork['id']}/pins", {"x": x, "y": y}, JSON)
    made = client.post("/api/colors/lists/pins", {"artwork_id": artwork["id"]}, JSON)
    assert made.status_code == 201 and made.json()["name"] == "photo pins"
    wish = {"list_id": made.json()["id"], "steps": [{"profile": "opRGB"}], "first": 0, "second": 0}
    rows = client.post("/api/colors/travel", wish, JSON).json()["rows"]
    assert [row["name"] for row in rows] == ["pin 1", "pin 2"] and rows[1]["place"] == [10, 20]


def test_routes_are_kept_with_a_history_hold_their_profiles_and_are_written(client, cotton, press):
    plain = {
        "intent": "relative", "bpc": False, "bypassed": False, "own": False, "adjustment": None, "named": "",
    }  # fmt: skip
    steps = [{"profile": "sRGB", **plain}, {"profile": press, **plain, "intent": "perceptual", "bpc": True}]
    made = client.post("/api/colors/routes", {"name": "To cotton", "steps": steps}, JSON)
    assert made.status_code == 201, made.content
    route = made.json()
    assert client.post("/api/colors/routes", {"name": "To cotton", "steps": steps}, JSON).status_code == 422
    changed = {"name": "To cotton", "steps": steps[:1], "version": route["version"]}
    assert client.put(f"/api/colors/routes/{route['id']}", changed, JSON).status_code == 200
    assert client.put(f"/api/colors/routes/{route['id']}", changed, JSON).status_code == 409
    link = client.post("/api/colors/write", {"kind": "link", "name": "To cotton", "steps": steps, "points": 17}, JSON)
    assert parse(link.content).header.profile_class == "link" and "mean" in link["X-Plinto-Fit"]
    look = client.post(
        "/api/colors/write",
        {"kind": "abstract", "name": "Look", "steps": steps[1:], "points": 9, "version": 2, "bits": 8},
        JSON,
    )
    assert parse(look.content).header.profile_class == "abst" and look.content[8] == 2 and b"mft1" in look.content
    judged = client.post("/api/colors/proof", {"press": press, "printer": press, "side": 5}, JSON).json()
    assert (
        judged["colors"] == 625 and judged["mean"] < 2 and "paper" in judged["apart"] and judged["held"] is not False
    )
    tight = {"press": press, "printer": press, "side": 5, "mean": 0.0001}
    judged = client.post("/api/colors/proof", tight, JSON).json()
    assert judged["held"] is False and "all colors, mean" in judged["verdict"]
    page = client.get("/api/colors/proof/report", tight)
    assert page["Content-Type"].startswith("text/html") and "Not within the tolerances" in page.content.decode()
    assert client.get("/api/colors/proof/report", {**tight, "mean": -1}).status_code == 422
    again = client.post("/api/colors/routes", {"name": "Kept", "steps": steps}, JSON).json()
    cotton.delete()
    collector.collect()
    assert store.path_of(press).exists()
    client.delete(f"/api/colors/routes/{again['id']}")
    assert client.get("/api/colors/routes").json()[0]["steps"] == [steps[0]]


def test_spots_with_spectra_are_seen_under_another_light(client, press):
    """A list as an instrument exports it; the match of the press falls apart under a lamp, and a list without spectra does
    not say how it looks there."""
    spots = season_list()
    file = written_list(spots, None, "cxf", "Season")
    listed = _list(client, file, "Season.cxf").json()["id"]
    steps = [{"profile": press, "intent": "absolute"}]
    day, lamp = (_travel(client, list_id=listed, steps=steps, light=light) for light in ("D50", "A"))
    told = {row["name"]: row["difference"] for row in lamp["rows"]}
    assert told["Bloom blue, spot"] == pytest.approx(8.49, abs=0.1) and told["Dusk"] is None
    assert lamp["between"]["largest"] == pytest.approx(max(each for each in told.values() if each), abs=0.01)
    assert lamp["unknown"] == "8 of 12 colors came without spectra." and day["unknown"] == ""
    assert day["rows"][1]["difference"] != lamp["rows"][1]["difference"]
    typed = client.post("/api/colors/lists/typed", {"name": "Typed", "text": "Leaf 50 -30 20"}, JSON).json()["id"]
    none = _travel(client, list_id=typed, steps=steps, light="F11")
    assert none["between"] is None and "Import the list with spectra" in none["unknown"]
    # Out and in again, nothing is lost.
    again = client.get(f"/api/colors/lists/{listed}/file?kind=cxf").content
    back = read_list(again, "back.cxf").spectra
    assert np.nanmax(np.abs(back - spots.spectra)) < 1e-4 and (np.isnan(back) == np.isnan(spots.spectra)).all()


def test_an_adjustment_of_the_house_is_a_step_that_a_kept_route_remembers(client, press):
    curve = {"points": [[0, 0], [0.5, 0.7], [1, 1]]}
    named = client.post("/api/house/adjustments", {"name": "Lifted", "adjustment": {"master": curve}}, JSON).json()
    adjust = {"adjustment": named["adjustment"], "named": named["name"]}
    steps = [{"profile": "sRGB"}, adjust, {"profile": press, "intent": "relative", "bpc": True}]
    made = client.post("/api/colors/lists/typed", {"name": "Grays", "text": "Middle #808080"}, JSON).json()["id"]
    row = _travel(client, list_id=made, steps=steps, second=1)["rows"][0]
    assert [each["values"][0] for each in row["cells"][:2]] == pytest.approx([128, 178.9], abs=0.3)
    assert row["difference"] > 10
    kept = client.post("/api/colors/routes", {"name": "Lifted to cotton", "steps": steps}, JSON)
    assert kept.status_code == 201, kept.content
    again = next(each for each in client.get("/api/colors/routes").json() if each["id"] == kept.json()["id"])
    assert again["steps"][1]["adjustment"]["master"] == curve and again["steps"][1]["named"] == "Lifted"
    assert _travel(client, list_id=made, steps=again["steps"], second=1)["rows"][0] == row
    first = client.post("/api/colors/travel", {"list_id": made, "steps": [adjust]}, JSON)
    assert first.status_code == 422 and "right before it" in first.json()["detail"]


@pytest.mark.parametrize(
    "path", ["/etc/hostname", "/dev/null", "/nowhere", "../../../../etc/hostname", "", "embedded"]
)
@pytest.mark.parametrize("own", [True, False])
def test_a_profile_is_named_by_its_digest_and_nothing_else_is_read(client, path, own):
    """A step of its own separation read whatever file its 'profile' named, and said of each whether it is there."""
    body = {"name": "Elsewhere", "steps": [{"profile": path, "own": own}]}
    told = client.post("/api/colors/routes", body, content_type="application/json")
    assert told.status_code in (404, 422)
    assert told.json()["detail"] == (
        "Only a printing condition has a separation of its own: take this profile's tables."
        if own
        else "This profile is not here any more. Choose another one."
    )
    with pytest.raises(MissingError):
        store.place_of(path)
    assert client.get("/api/colors/routes").json() == []
