"""The Bench over HTTP: recipe with its history, pictures, figures, readouts."""

import copy
import io
import os
import socket
import threading
import time

import imagecodecs
import numpy as np
import pytest
from numba import get_num_threads
from PIL import Image

from plinto_core.recipe import recipe_from_json
from plinto_server.artworks.models import Artwork
from plinto_server.bench import recipes
from plinto_server.conditions.models import Condition
from plinto_server.warm.behind import behind
from plinto_server.warm.png import encode_png
from plinto_server.warm.turns import Turns

WHOLE = {"left": 0, "top": 0, "width": 320, "height": 240, "zoom": 1}


@pytest.fixture
def place(artwork, cotton):
    return f"/api/bench/{artwork['id']}/cotton-54t"


def _post(client, path, body):
    return client.post(path, body, content_type="application/json")


def _recipe(client, place):
    return client.get(f"{place}/recipe").json()


def _picture(client, place, recipe, window=WHOLE, **view):
    answer = _post(client, f"{place}/picture", {"recipe": recipe, "view": view, "window": window})
    assert answer.status_code == 200, answer.content
    return np.asarray(Image.open(io.BytesIO(answer.content))).astype(int)


def _save(client, place, recipe, version):
    return client.put(f"{place}/recipe", {"recipe": recipe, "version": version}, content_type="application/json")


def _with_limit(recipe, total):
    changed = copy.deepcopy(recipe)
    changed["ink"]["limits"]["total_percent"] = total
    return changed


def test_recipe_is_kept_undone_and_redone(client, place):
    state = _recipe(client, place)
    assert (state["version"], state["can_undo"], state["can_redo"]) == (0, False, False)
    for total in (220, 210, 200):
        state = _save(client, place, _with_limit(state["recipe"], total), state["version"]).json()
    assert _recipe(client, place)["recipe"]["ink"]["limits"]["total_percent"] == 200

    def step(direction):
        now = _recipe(client, place)
        answer = _post(client, f"{place}/recipe/step", {"version": now["version"], "direction": direction})
        return answer.json()["recipe"]["ink"]["limits"]["total_percent"]

    assert [step("undo") for _ in range(4)] == [210, 220, 230, 230]
    assert [step("redo") for _ in range(4)] == [220, 210, 200, 200]
    step("undo")
    now = _recipe(client, place)
    state = _save(client, place, _with_limit(now["recipe"], 180), now["version"]).json()
    assert not state["can_redo"]


def test_the_history_says_who_changed_what_and_leads_back_to_any_state(client, place):
    state = _recipe(client, place)
    assert client.get(f"{place}/recipe/history").json() == []
    for total in (220, 210):
        state = _save(client, place, _with_limit(state["recipe"], total), state["version"]).json()
    assert state["changed_by"] == "tester" and state["changed_at"]
    newest, middle, own = client.get(f"{place}/recipe/history").json()
    assert (newest["number"], newest["by"], newest["in_force"]) == (2, "tester", True)
    assert newest["changes"] == [{"field": "ink › limits › total_percent", "before": 220, "after": 210}]
    assert middle["changes"][0]["before"] == 230 and own["number"] == 0 and not own["in_force"]
    body = {"direction": "to", "number": 0, "version": state["version"]}
    state = _post(client, f"{place}/recipe/step", body).json()
    assert state["recipe"]["ink"]["limits"]["total_percent"] == 230 and state["can_redo"]
    # A state that is not there is refused, and one that was looked at too late.
    assert (
        _post(client, f"{place}/recipe/step", {**body, "number": 9, "version": state["version"]}).status_code == 404
    )
    assert _post(client, f"{place}/recipe/step", body).status_code == 409


def test_two_people_saving_at_once_notice_each_other(client, place):
    state = _recipe(client, place)
    assert _save(client, place, _with_limit(state["recipe"], 220), state["version"]).status_code == 200
    late = _save(client, place, _with_limit(state["recipe"], 150), state["version"])
    assert late.status_code == 409
    assert "Somebody else" in late.json()["detail"]
    assert _recipe(client, place)["recipe"]["ink"]["limits"]["total_percent"] == 220


def test_the_same_settings_again_are_no_new_step(client, place):
    state = _recipe(client, place)
    assert _save(client, place, state["recipe"], state["version"]).json()["can_undo"] is False


def test_pictures_show_what_was_asked_for(client, place):
    recipe = _recipe(client, place)["recipe"]
    artwork = _picture(client, place, recipe, show="artwork")
    printed = _picture(client, place, recipe)
    assert artwork.shape == printed.shape == (240, 320, 3)
    assert np.abs(artwork - printed).mean() > 10
    # The substrate's white is not the screen's.
    assert printed.max() > 250 > _picture(client, place, recipe, substrate=True).max()
    marked = _picture(client, place, recipe, mark="gamut")
    assert 0.01 < (marked != printed).any(axis=-1).mean() < 0.6
    gray = _picture(client, place, recipe, plates=["K"], tint="gray")
    assert (gray[..., 0] == gray[..., 1]).all() and gray.std() > 10
    assert not np.array_equal(_picture(client, place, recipe, plates=["C"]), printed)
    strict = _with_limit(recipe, 150)
    assert (
        _picture(client, place, strict, show="coverage") != _picture(client, place, recipe, show="coverage")
    ).any()


@pytest.mark.parametrize("size", [(1, 1), (1, 7), (5, 1), (37, 64)])
def test_a_picture_for_the_screen_is_a_png_of_its_pixels(size):
    pixels = np.random.default_rng(1).integers(0, 256, (*size, 3), dtype=np.uint8)
    made = encode_png(pixels)
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(made))), pixels)
    # As the standard's own library reads it, checks and all.
    assert np.array_equal(imagecodecs.png_decode(made), pixels)


def test_a_window_is_a_piece_of_the_whole(client, place):
    recipe = _recipe(client, place)["recipe"]
    whole = _picture(client, place, recipe)
    piece = _picture(client, place, recipe, {"left": 100, "top": 50, "width": 80, "height": 60, "zoom": 1})
    assert np.array_equal(piece, whole[50:110, 100:180])
    close = _picture(client, place, recipe, {"left": 100, "top": 50, "width": 80, "height": 60, "zoom": 4})
    assert np.array_equal(close, whole[50:65, 100:120])


def test_figures_agree_with_each_other(client, place):
    recipe = _with_limit(_recipe(client, place)["recipe"], 200)
    found = _post(client, f"{place}/differences", {"recipe": recipe, "tolerance": 3}).json()
    assert 0 < found["mean"] < found["p95"] < found["worst"]
    wide = _post(client, f"{place}/differences", {"recipe": recipe, "tolerance": 12}).json()
    assert wide["out_of_gamut_share"] < found["out_of_gamut_share"] < 1
    ink = _post(client, f"{place}/ink", {"recipe": recipe}).json()
    coverage = ink["coverage"]
    assert coverage["largest_percent"] <= 200 < coverage["wanted_largest_percent"]
    assert sum(coverage["histogram"]) == pytest.approx(1)
    assert set(ink["gray_axis"]) == {"C", "M", "Y", "K"}
    assert ink["gray_axis"]["K"][0] == 0 < ink["gray_axis"]["K"][-1]


def test_readouts_tell_the_inks_of_the_picture(client, place, photo):
    recipe = _recipe(client, place)["recipe"]
    rows = _post(client, f"{place}/trace", {"recipe": recipe, "points": [[300, 200], [5, 5]]}).json()
    assert rows[0]["source"] == photo[200, 300].tolist()
    assert rows[0]["sum_percent"] == pytest.approx(sum(rows[0]["inks_percent"].values()))
    assert rows[0]["sum_percent"] <= 230
    assert rows[0]["swatch"].startswith("#")


def test_pins_stay(client, artwork, place):
    path = f"/api/bench/{artwork['id']}/pins"
    pin = _post(client, path, {"x": 10, "y": 20, "name": "petal"}).json()
    assert client.get(path).json() == [pin]
    assert client.delete(f"{path}/{pin['id']}").status_code == 204
    assert client.delete(f"{path}/{pin['id']}").status_code == 404


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"ink": {"limits": {"total_percent": 9000}}}, "50 to 800"),
        ({"aim": {"intent": "vivid"}}, "perceptual"),
        ({"source": {"profile": "nothing"}}, "choose a source"),
        # Passed over, this let black go to 100 %.
        ({"ink": {"limits": {"total_percent": 220, "per_ink": [["K", 80]]}}}, "nothing is called 'per_ink'"),
        ({"inks": {}}, "nothing is called 'inks'"),
        ("a word", "JSON object"),
    ],
)
def test_recipes_that_make_no_sense_are_refused(client, place, change, words):
    answer = _post(client, f"{place}/picture", {"recipe": change, "view": {}, "window": WHOLE})
    assert answer.status_code == 422
    assert words in str(answer.json())


def test_what_is_not_there_is_404(client, place, artwork):
    assert client.get("/api/bench/999/cotton-54t/recipe").status_code == 404
    assert client.get(f"/api/bench/{artwork['id']}/velvet/recipe").status_code == 404


LEFT = [[0.0, 0.0], [0.5, 0.0], [0.5, 1.0], [0.0, 1.0]]


def test_adjustments_and_regions_show_in_pictures_and_readouts(client, place):
    recipe = _recipe(client, place)["recipe"]
    printed = _picture(client, place, recipe)
    changed = copy.deepcopy(recipe)
    darker = {"master": {"points": [[0, 0], [0.5, 0.3], [1, 1]]}}
    changed["adjust"]["regions"] = [{"name": "left", "corners": LEFT, "adjustment": darker, "black": "none"}]
    found = _picture(client, place, changed)
    assert np.abs(found - printed)[:, :150].mean() > 5
    assert np.array_equal(found[:, 170:], printed[:, 170:])
    hatched = _picture(client, place, changed, mark="region", region="left")
    assert (hatched != found).any(axis=-1)[:, 170:].mean() == 0 < (hatched != found).any(axis=-1)[:, :150].mean()
    rows = _post(client, f"{place}/trace", {"recipe": changed, "points": [[20, 100], [300, 100]]}).json()
    assert rows[0]["adjusted"] != rows[0]["source"] and rows[0]["inks_percent"]["K"] == 0
    assert rows[1]["adjusted"] == rows[1]["source"]


def test_plates_left_out_inks_maps_and_films(client, place):
    recipe = _recipe(client, place)["recipe"]
    changed = copy.deepcopy(recipe)
    changed["plate"]["plates"] = [{"ink": "K", "smallest": "cut", "smallest_percent": 20}]
    assert not np.array_equal(
        _picture(client, place, changed, plates=["K"]), _picture(client, place, recipe, plates=["K"])
    )
    without = copy.deepcopy(recipe)
    without["ink"]["without"] = ["K"]
    assert (_picture(client, place, without, plates=["K"], tint="gray") == 255).all()
    lost = _post(client, f"{place}/loss", {"recipe": without, "tolerance": 3}).json()
    assert 0 < lost["mean"] < lost["p95"] < lost["worst"] and 0 < lost["share"] < 0.6
    marked = _picture(client, place, without, mark="loss") != _picture(client, place, without)
    assert 0.005 < marked.any(axis=-1).mean() < 0.6
    far = _picture(client, place, recipe, show="difference")
    assert (far[..., 0] == far[..., 2]).all() and far.min() < 120
    close = {"left": 100, "top": 50, "width": 320, "height": 240, "zoom": 8}
    film = _picture(client, place, recipe, close, show="film", plates=["M"])
    assert film.min() == 0 and film.max() == 255 and len(np.unique(film)) <= 5


def test_hits_palette_histogram_and_the_display(client, place):
    recipe = _recipe(client, place)["recipe"]
    hits = _post(client, f"{place}/hits", {"recipe": recipe, "tolerance": 3}).json()
    assert hits[0]["family"]["delta_e_mean"] >= hits[-1]["family"]["delta_e_mean"] > 3
    family = {"lab": hits[0]["family"]["wanted_lab"], "radius": hits[0]["family"]["radius"]}
    assert not np.array_equal(
        _picture(client, place, recipe, mark="family", family=family), _picture(client, place, recipe)
    )
    rows = _post(client, f"{place}/palette", {"recipe": recipe, "text": "a 60 0 0\nb #ff00ff", "tolerance": 3}).json()
    assert [row["verdict"]["prints"] for row in rows] == [True, False]
    bad = _post(client, f"{place}/palette", {"recipe": recipe, "text": "grass", "tolerance": 3})
    assert bad.status_code == 422 and "Line 1" in bad.json()["detail"]
    spread = _post(client, f"{place}/histogram", {"recipe": recipe}).json()
    assert set(spread) == {"R", "G", "B", "L", "h"} and sum(spread["L"]) == pytest.approx(1, abs=1e-3)
    gap = _post(client, "/api/bench/conditions/cotton-54t/display-gap", {"display": "sRGB"}).json()
    assert 0 <= gap["share"] < 0.2
    assert _post(client, "/api/bench/conditions/cotton-54t/display-gap", {"display": "f" * 64}).status_code == 404
    assert not np.array_equal(_picture(client, place, recipe, display="P3"), _picture(client, place, recipe))
    full, real = (_picture(client, place, recipe, black_depth=depth) for depth in (False, True))
    assert full[0, 0].max() < 10 and real[0, 0].min() > 40, (
        "the darkest corner, with and without the print's own depth"
    )


def test_tone_tables_come_from_wedges_and_cubes(client):
    table = _post(client, "/api/bench/tone-tables", {"kind": "wedge", "text": "5 20 45 70 90"}).json()
    cube = _post(client, "/api/bench/tone-tables/cube", {"table": table}).content.decode()
    again = _post(client, "/api/bench/tone-tables", {"kind": "cube", "text": cube}).json()
    tones, sent = zip(*again["curve"]["points"], strict=True)
    for tone, there in table["curve"]["points"]:
        assert np.interp(tone, tones, sent) == pytest.approx(there, abs=0.01)
    wedge = _post(client, "/api/bench/wedges", {"film": {"halftone": False, "mirrored": True}})
    assert wedge["Content-Type"] == "application/pdf" and wedge.content.startswith(b"%PDF")
    refused = _post(client, "/api/bench/wedges", {"film": {"dpi": 20}})
    assert refused.status_code == 422 and "20 dpi is no film" in refused.content.decode()
    refused = _post(client, "/api/bench/tone-tables", {"kind": "wedge", "text": "1 2 3"})
    assert refused.status_code == 422 and "5 to 101 steps" in refused.json()["detail"]


def test_a_negative_and_a_film_are_looked_at_as_they_are_set_now(client, artwork, cotton):
    """The picture kept the tone table with which the line had been compiled first, however it was changed after."""
    place = f"/api/bench/{artwork['id']}/cotton-54t"

    def seen(show, **deliver):
        recipe = {**cotton.recipe, "deliver": {**cotton.recipe["deliver"], **deliver}}
        return _picture(client, place, recipe, show=show).astype(int)

    straight = seen("negative", format="negative")
    steep = {"table": {"curve": {"points": [[0, 0], [0.2, 0.6], [1, 1]]}}}
    bent = seen("negative", format="negative", negative=steep)
    # More is sent of every middle tone: the film is denser there, and seen darker.
    middle = (straight > 40) & (straight < 215)
    assert middle.any() and (bent - straight)[middle].max() < 0
    assert np.array_equal(seen("negative", format="negative"), straight)
    coarse, fine = (seen("film", format="films", film={"ruling_lpi": lpi, "dpi": 1200}) for lpi in (30, 90))
    assert np.abs(coarse - fine).max() > 20


def test_what_a_separation_takes_and_costs_is_told_at_ink_and_on_the_sheet(client, artwork, cotton):
    recipe, place = cotton.recipe, f"/api/bench/{artwork['id']}/cotton-54t/ink"
    Artwork.objects.update(resolution_ppi=254.0)
    body = {"recipe": recipe, "copies": 500}
    plain = client.post(place, body, content_type="application/json").json()["cost"]
    assert plain["grams"] == {} and plain["unknown"] == ["C", "M", "Y", "K"]
    inks = {ink: {"laydown_g_m2": 40.0, "price_per_kg": 15.0} for ink in "CMYK"}
    changed = client.put(
        "/api/conditions/cotton-54t", {"version": 0, "change": {"ink_costs": inks}}, content_type="application/json"
    )
    assert changed.status_code == 200, changed.content
    strange = {"version": 1, "change": {"ink_costs": {"O": inks["C"]}}}
    assert client.put("/api/conditions/cotton-54t", strange, content_type="application/json").status_code == 422
    figures = client.post(place, body, content_type="application/json").json()
    area = artwork["width"] * artwork["height"] * (0.0254 / 254) ** 2 * 500
    grams = [mean / 100 * area * 40 for mean in figures["coverage"]["mean_percent"]]
    assert list(figures["cost"]["grams"].values()) == pytest.approx(grams)
    assert figures["cost"]["total_money"] == pytest.approx(sum(grams) / 1000 * 15)


def test_the_smallest_dot_of_a_condition_is_where_its_recipes_start(client, artwork, cotton, place):
    """Field, recipe, plates of the picture, settings of another condition and of a batch; and back by its history."""
    recipe = _recipe(client, place)["recipe"]
    assert recipe["plate"]["plates"] == []

    def decide(version, **wish):
        body = {"version": version, "change": wish}
        return client.put("/api/conditions/cotton-54t", body, content_type="application/json")

    assert decide(0, smallest_dot_percent=25).status_code == 422
    changed = decide(0, smallest_dot_percent=4, smallest_dot="cut")
    assert changed.status_code == 200 and changed.json()["smallest_dot_percent"] == 4
    started = _recipe(client, place)["recipe"]
    assert {(p["ink"], p["smallest"], p["smallest_percent"]) for p in started["plate"]["plates"]} == {
        (ink, "cut", 4.0) for ink in "CMYK"
    }
    without, cut = (_picture(client, place, each, plates=["C"], tint="gray") for each in (recipe, started))
    assert np.abs(without - cut).max() > 0
    given, condition = recipe_from_json(recipe), Condition.objects.get(slug="cotton-54t")
    fitted, note = recipes.fitted(given, Artwork.objects.get(pk=artwork["id"]), condition)
    assert fitted.plate.plates == recipe_from_json(started).plate.plates
    assert note == "dots under 4 % are cut as the condition has it"
    # What was set for an artwork stays; who wants other plates sets them.
    assert _save(client, place, recipe, 0).status_code == 200
    assert _recipe(client, place)["recipe"]["plate"]["plates"] == []


def test_figures_are_worked_out_behind_pictures_and_say_what_is_wrong():
    """Between two moves of a slider they took both cores: the second picture came after 600 ms, and after 450 since."""

    def who() -> tuple[int, int]:
        return os.getpriority(os.PRIO_PROCESS, threading.get_native_id()), get_num_threads()

    assert behind(who) == (max(10, os.getpriority(os.PRIO_PROCESS, 0)), 1)
    assert who()[0] == os.getpriority(os.PRIO_PROCESS, 0)
    with pytest.raises(ZeroDivisionError):
        behind(lambda: 1 / 0)


def test_pictures_come_in_the_order_in_which_they_were_asked_for():
    """A semaphore lets whoever has just had a place go before all who wait for one."""
    turns, order = Turns(1), []

    def ask(name: str, begun: threading.Event) -> None:
        begun.set()
        with turns.turn():
            order.append(name)

    with turns.turn():
        threads = []
        for name in ("first", "second", "third"):
            begun = threading.Event()
            threads.append(threading.Thread(target=ask, args=(name, begun)))
            threads[-1].start()
            assert begun.wait(5)
            time.sleep(0.05)
    with turns.turn():
        order.append("again")
    for thread in threads:
        thread.join()
    assert order == ["first", "second", "third", "again"]


def test_nothing_is_worked_out_for_whoever_has_gone(client, place):
    """Figures of passed states stood before those of the one that held, and pictures of closed pages before others'."""
    recipe = _recipe(client, place)["recipe"]
    asked = {
        "picture": {"recipe": recipe, "view": {}, "window": WHOLE},
        "differences": {"recipe": recipe, "tolerance": 3},
    }
    here, there = socket.socketpair()
    with here:
        for name, body in asked.items():
            there_yet = client.post(
                f"{place}/{name}", body, content_type="application/json", **{"gunicorn.socket": here}
            )
            assert there_yet.status_code == 200
        there.close()
        for name, body in asked.items():
            gone = client.post(f"{place}/{name}", body, content_type="application/json", **{"gunicorn.socket": here})
            assert (gone.status_code, gone.content) == (204, b"")
    assert _post(client, f"{place}/picture", asked["picture"]).status_code == 200
