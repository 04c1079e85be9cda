"""The API's description is true: errors as they come, files as what they are, nothing left open."""

import json
import re

import pytest
from pydantic import TypeAdapter

from plinto_server.api import api
from plinto_server.described import Refusal

pytestmark = pytest.mark.django_db(transaction=True)


def operations():
    for path, found in api.get_openapi_schema()["paths"].items():
        for method, operation in found.items():
            given = bool(operation.get("parameters") or "requestBody" in operation)
            yield path, method, given, {str(status): answer for status, answer in operation["responses"].items()}


def test_every_operation_says_what_it_answers_and_how_it_refuses():
    """No error was declared, and 25 operations answered with nothing that had a type."""
    for path, method, given, answers in operations():
        for status, answer in answers.items():
            assert status == "204" or answer.get("content"), (path, method, status)
        assert "503" in answers and ("401" in answers or path.startswith("/api/session")), (path, method)
        # What is named may be named in the address, in the question or in the body; and a file may not be ready.
        assert ("404" in answers) == ("{" in path or given), (path, method)
        assert "409" in answers or method == "get", (path, method)


def test_no_value_is_left_open_but_a_sheet_and_what_a_history_compares():
    """Six were objects of anything: facts of documents, reports, settings and results of steps, kept settings."""
    parts = api.get_openapi_schema()["components"]["schemas"]
    open_ones = {
        (name, field)
        for name, part in parts.items()
        for field, told in part.get("properties", {}).items()
        if any(each.get("additionalProperties") is True for each in (told, *told.get("anyOf", ())))
        or not told.keys() & {"type", "anyOf", "allOf", "$ref", "const", "enum"}
    }
    assert open_ones == {("RunDetail", "run_sheet"), ("ChangeOut", "before"), ("ChangeOut", "after")}


def test_what_comes_back_is_whole_and_what_is_sent_may_leave_out_what_has_a_default():
    """A recipe was described by one type for both ways, by whichever operation came last; the front end had to say of each
    that came back that nothing of it is missing."""
    described = api.get_openapi_schema()
    parts, paths = described["components"]["schemas"], described["paths"]
    [came] = paths["/api/bench/{artwork_id}/{slug}/recipe"]["get"]["responses"][200]["content"].values()
    [sent] = paths["/api/runs"]["post"]["requestBody"]["content"].values()
    back, there = (parts[_named(each["schema"])]["properties"]["recipe"] for each in (came, sent))
    assert (_named(back), _named(there)) == ("Recipe", "RecipeGiven")
    assert parts["Recipe"]["required"] == list(parts["Recipe"]["properties"])
    assert parts["InkStation"]["required"] == list(parts["InkStation"]["properties"])
    assert "required" not in parts["RecipeGiven"] and "required" not in parts["InkStationGiven"]
    # What is the same both ways, and what goes one way only, has its plain name.
    assert "InkCostGiven" not in parts and parts["RunIn"]["required"] == ["artwork_id", "condition", "recipe"]
    referred = set(re.findall(r'"#/components/schemas/([^"]+)"', json.dumps(described)))
    assert referred <= parts.keys()


def _named(described):
    [reference] = re.findall(r"#/components/schemas/(\w+)", json.dumps(described))
    return reference


def test_refusals_and_files_are_as_described(client, artwork, cotton):
    told = {(path, method): answers for path, method, _given, answers in operations()}
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": cotton.recipe}
    over = {**body, "recipe": {**cotton.recipe, "ink": {"limits": {"total_percent": -4}}}}
    refused = [
        ("/api/runs/{run_id}", client.get("/api/runs/9999"), 404),
        ("/api/runs", client.post("/api/runs", over, content_type="application/json"), 422),
        ("/api/runs", client.post("/api/runs", {"artwork_id": "x"}, content_type="application/json"), 422),
        ("/api/runs", client.post("/api/runs", {**body, "artwork_id": 9999}, content_type="application/json"), 404),
        ("/api/runs", client.post("/api/runs", b"{", content_type="application/json"), 400),
        ("/api/bench/{artwork_id}/{slug}/picture", client.post(
            f"/api/bench/{artwork['id']}/cotton-54t/picture",
            {"recipe": cotton.recipe, "view": {}, "window": {"left": 0, "top": 0, "width": 9, "height": 9, "zoom": 1e-310}},
            content_type="application/json"), 422),
    ]  # fmt: skip
    for path, answer, status in refused:
        method = "get" if "{run_id}" in path else "post"
        assert answer.status_code == status and str(status) in told[path, method]
        assert TypeAdapter(Refusal).validate_python(answer.json()).detail
    files = {
        "/api/artworks/{artwork_id}/original": f"/api/artworks/{artwork['id']}/original",
        "/api/artworks/{artwork_id}/thumbnail": f"/api/artworks/{artwork['id']}/thumbnail",
        "/api/conditions/{slug}/profile": "/api/conditions/cotton-54t/profile",
        "/api/conditions/{slug}/report.html": "/api/conditions/cotton-54t/report.html",
        "/api/conditions/{slug}/strip.txt": "/api/conditions/cotton-54t/strip.txt",
    }
    for path, address in files.items():
        came = client.get(address)["Content-Type"].partition(";")[0]
        assert came in told[path, "get"]["200"]["content"], (path, came)
