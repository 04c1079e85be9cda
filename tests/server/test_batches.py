"""Batches: planned, handed out a few at a time, paused, broken off, tried again, handed on; once each."""

import io
import zipfile
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest

from plinto_core.icc.standard import rgb_profile
from plinto_core.recipe import recipe_from_json
from plinto_core.recipe.plate import InkPlate
from plinto_server.artworks.models import Artwork
from plinto_server.batches import service
from plinto_server.batches.models import Batch, Item
from plinto_server.batches.plan import BatchRequest, planned
from plinto_server.bench import recipes
from plinto_server.conditions.models import Condition
from plinto_server.jobs.models import Run
from tests.server.conftest import take_in, tiff_bytes, work

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"


@pytest.fixture
def ten(client, cotton):
    """Ten small artworks; the last has no profile."""
    rng = np.random.default_rng(3)
    icc = rgb_profile("sRGB").raw
    return [
        take_in(client, f"leaf {n}.tif", tiff_bytes(rng.integers(0, 256, (24, 32, 3), np.uint8), **given))["id"]
        for n, given in enumerate([{"iccprofile": icc}] * 9 + [{}])
    ]


def _ask(client, artworks, **more):
    body = {"name": "Season's leaves", "artworks": artworks, "conditions": ["cotton-54t"], **more}
    return client.post("/api/batches", body, content_type=JSON)


def _through() -> None:
    """What workers do until nothing waits."""
    while service.hand_out() or Run.objects.filter(state="queued").exists():
        work()


def test_a_plan_names_every_file_clashes_and_what_cannot_be_made(client, ten, cotton):
    Artwork.objects.filter(id=ten[9]).update(asks=["assume"])
    body = {"artworks": ten, "conditions": ["cotton-54t"]}
    plan = client.post("/api/batches/plan", body, content_type=JSON).json()
    assert (plan["total"], plan["problems"]) == (10, 1)
    assert plan["files"][0]["of_name"] == "leaf 9.tif" and "decide at Source" in plan["files"][0]["problem"]
    assert plan["files"][1]["file_name"] == "leaf 0 Cotton 54T.tif" and plan["bytes"] > 0
    clash = client.post("/api/batches/plan", body | {"name_rule": "{condition}"}, content_type=JSON).json()
    assert clash["problems"] == 10 and "9 files would be called" not in clash["files"][0]["problem"]
    refused = _ask(client, ten, name_rule="{condition}")
    assert refused.status_code == 422 and "one name: Cotton 54T.tif" in refused.json()["detail"]
    assert _ask(client, [10**9]).status_code == 404 and _ask(client, []).status_code == 422
    assert not Batch.objects.exists()


def test_the_ink_of_a_planned_file_is_what_its_separation_takes(client, ten):
    wish = {"artwork": ten[0], "condition": "cotton-54t"}
    found = client.post("/api/batches/plan/ink", wish, content_type=JSON).json()
    recipe = client.get(f"/api/bench/{ten[0]}/cotton-54t/recipe").json()["recipe"]
    there = client.post(f"/api/bench/{ten[0]}/cotton-54t/ink", {"recipe": recipe}, content_type=JSON).json()
    assert (
        found["mean_percent"] == pytest.approx(sum(there["coverage"]["mean_percent"])) and found["mean_percent"] > 1
    )
    # With less ink for all of them.
    recipe["ink"]["limits"]["total_percent"] = 100
    less = client.post("/api/batches/plan/ink", wish | {"recipe": recipe}, content_type=JSON).json()
    assert less["mean_percent"] <= found["mean_percent"]
    assert client.post("/api/batches/plan/ink", wish | {"artwork": 10**9}, content_type=JSON).status_code == 404


def test_a_batch_is_made_once_each_a_few_at_a_time(client, ten):
    Artwork.objects.filter(id=ten[9]).update(asks=["assume"])
    batch = _ask(client, ten).json()
    assert batch["counts"] == {"waiting": 9, "refused": 1}
    service.hand_out()
    service.hand_out()
    assert Run.objects.filter(kind="separation").count() == service.AHEAD
    assert set(Run.objects.filter(kind="separation").values_list("priority", flat=True)) == {-50}
    # Paused, what is under way is finished and nothing more is handed out.
    client.post(f"/api/batches/{batch['id']}/pause")
    work()
    assert service.hand_out() == 0
    assert client.get(f"/api/batches/{batch['id']}").json()["counts"] == {"done": 6, "waiting": 3, "refused": 1}
    client.post(f"/api/batches/{batch['id']}/resume")
    _through()
    assert client.get(f"/api/batches/{batch['id']}").json()["counts"] == {"done": 9, "refused": 1}
    data = b"".join(client.get(f"/api/batches/{batch['id']}/files").streaming_content)
    names = zipfile.ZipFile(io.BytesIO(data)).namelist()
    assert len(names) == 18 and "leaf 3 Cotton 54T.tif" in names and "leaf 3 Cotton 54T run sheet.json" in names
    page = client.get(f"/api/batches/{batch['id']}/report").content.decode()
    assert page.index("leaf 9.tif") < page.index("leaf 0.tif") and "9 done, 1 refused" in page
    # Its question answered, the refused one is tried again, and it alone.
    Artwork.objects.filter(id=ten[9]).update(asks=[])
    client.post(f"/api/artworks/{ten[9]}/versions", {"action": "assign", "profile": "sRGB"}, content_type=JSON)
    client.post(f"/api/batches/{batch['id']}/retry")
    _through()
    assert Run.objects.filter(kind="separation").count() == 10
    assert client.get(f"/api/batches/{batch['id']}").json()["counts"] == {"done": 10}
    assert client.post(f"/api/batches/{batch['id']}/retry").status_code == 409


def test_who_dies_while_handing_out_loses_nothing_and_doubles_nothing(client, ten, monkeypatch):
    batch = Batch.objects.get(id=_ask(client, ten[:3]).json()["id"])
    asked = service._run_of

    def dies(item, batch):
        asked(item, batch)
        raise SystemExit

    monkeypatch.setattr(service, "_run_of", dies)
    with pytest.raises(SystemExit):
        service.hand_out()
    # The run went with the transaction; the claim is free again after a while, not before.
    assert Run.objects.filter(kind="separation").count() == 0
    monkeypatch.setattr(service, "_run_of", asked)
    service.hand_out()
    assert sorted(batch.items.values_list("state", flat=True)) == ["asked", "asked", "claimed"]
    batch.items.filter(state="claimed").update(claimed_at=datetime.now(UTC) - timedelta(minutes=2))
    _through()
    assert service.counts([batch])[batch.id] == {"done": 3}
    assert Run.objects.filter(kind="separation").count() == 3


def test_cancelled_batches_stop_and_removed_artwork_is_said(client, ten):
    batch = _ask(client, ten[:8]).json()
    service.hand_out()
    cancelled = client.post(f"/api/batches/{batch['id']}/cancel").json()
    assert cancelled["counts"] == {"cancelled": 8}
    assert client.post(f"/api/batches/{batch['id']}/cancel").status_code == 409
    assert client.get(f"/api/batches/{batch['id']}/files").status_code == 409
    client.delete(f"/api/artworks/{ten[0]}")
    client.post(f"/api/batches/{batch['id']}/retry")
    _through()
    listed = client.get(f"/api/batches/{batch['id']}/items?state=refused").json()
    assert listed["total"] == 1 and "was removed before its file could be made" in listed["items"][0]["said"]
    assert client.delete(f"/api/batches/{batch['id']}").status_code == 204
    assert not Item.objects.exists() and Run.objects.filter(state="done", kind="separation").count() == 7


def test_a_recipe_for_all_leaves_out_what_does_not_fit_and_says_so(client, ten, cotton):
    recipe = recipe_from_json(cotton.recipe)
    strong = replace(recipe, ink=replace(recipe.ink, limits=replace(recipe.ink.limits, total_percent=300)))
    plain = replace(strong, plate=replace(strong.plate, plates=(InkPlate("O", bump_percent=3),))).to_json()
    body = {"artworks": ten[:2], "conditions": ["cotton-54t"], "recipe": plain}
    plan = client.post("/api/batches/plan", body, content_type=JSON)
    assert plan.status_code == 200, plan.content
    note = plan.json()["files"][0]["note"]
    assert "total ink 230 %" in note and "plates of other inks are left out" in note
    _ask(client, ten[:2], recipe=plain)
    _through()
    for run in Run.objects.filter(kind="separation"):
        assert run.state == "done" and run.recipe["ink"]["limits"]["total_percent"] == 230


def test_a_plan_of_many_has_the_recipes_of_each_in_a_few_queries(client, ten, cotton, django_assert_max_num_queries):
    """Ten thousand files were planned in 21 s, four queries and two readings of a recipe each; in 0.25 s now."""
    other = Condition.objects.create(
        **{f.attname: getattr(cotton, f.attname) for f in Condition._meta.concrete_fields if f.attname != "id"}
        | {"slug": "cotton-too", "name": "Cotton, another"}
    )
    artworks = list(Artwork.objects.order_by("id"))

    def set_here(artwork, condition, intent, undone=False):
        place = f"/api/bench/{artwork.id}/{condition.slug}/recipe"
        state = client.get(place).json()
        recipe = {**state["recipe"], "aim": {**state["recipe"]["aim"], "intent": intent}}
        client.put(place, {"recipe": recipe, "version": state["version"]}, content_type="application/json")
        if undone:
            back = {"direction": "undo", "version": state["version"] + 1}
            assert client.post(f"{place}/step", back, content_type="application/json").status_code == 200

    set_here(artworks[0], cotton, "perceptual")
    set_here(artworks[1], other, "saturation")
    set_here(artworks[1], cotton, "absolute")
    set_here(artworks[2], cotton, "absolute", undone=True)
    with django_assert_max_num_queries(8):
        found = planned(BatchRequest(artworks=artworks, conditions=[cotton, other]))
    assert len(found) == 2 * len(artworks) and {each.recipe.aim.intent for each in found} >= {
        "perceptual", "saturation", "absolute", "relative",
    }  # fmt: skip
    for each in found:
        assert each.recipe == recipes.current(each.artwork, each.condition).recipe
    # One recipe for all is fitted to each, and named by the rule.
    given = recipes.current(artworks[0], cotton).recipe
    rule = "{artwork} {condition}"
    for each in planned(BatchRequest(artworks=artworks, conditions=[cotton, other], recipe=given, name_rule=rule)):
        fitted, _ = recipes.fitted(given, each.artwork, each.condition)
        assert each.recipe == replace(fitted, deliver=replace(fitted.deliver, name_rule=rule))
