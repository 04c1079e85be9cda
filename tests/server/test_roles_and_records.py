"""Who may change what, who changed what and when, how it was before, and back; two people saving the same thing."""

import threading
from datetime import timedelta

import pytest
from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client

from plinto_server.accounts.models import Person, Role
from plinto_server.conditions.models import Condition
from plinto_server.house.models import RuleSet
from plinto_server.records.models import Revision
from tests.server.conftest import client_of

pytestmark = pytest.mark.django_db(transaction=True)
JSON = {"content_type": "application/json"}


def medium_data(name="Calico", price=120):
    return {"medium": {"name": name, "width_mm": 1500, "length_m": 40, "price": price, "currency": "EUR"}}


MAY = {
    "conditions": ("post", "/api/conditions/media", medium_data()),
    "house": ("post", "/api/house/rules", {"rules": {"name": "Mine"}}),
    "people": ("post", "/api/people", {"name": "new", "password": "very-long-indeed", "role": "operator"}),
    "artwork": ("post", "/api/house/adjustments", {"name": "warm", "adjustment": {"chroma_percent": 3}}),
}
ALLOWED = {
    Role.OPERATOR: {"artwork"},
    Role.COLOR_LEAD: {"artwork", "conditions"},
    Role.PREPRESS_LEAD: {"artwork", "house"},
    Role.ADMINISTRATOR: {"artwork", "conditions", "house", "people"},
}


@pytest.mark.parametrize("role", list(Role))
def test_roles_may_change_what_is_theirs_and_look_at_everything(client, role):
    who = client_of("somebody", role)
    assert set(who.get("/api/session").json()["may"]) == ALLOWED[role]
    for area, (method, path, body) in MAY.items():
        answer = getattr(who, method)(path, body, **JSON)
        assert (answer.status_code == 201) == (area in ALLOWED[role]), (area, answer.content)
        if area not in ALLOWED[role]:
            assert answer.status_code == 403 and f"As {role.value}" in answer.json()["detail"]
    for path in ("/api/conditions", "/api/conditions/media", "/api/house/rules", "/api/records", "/api/runs"):
        assert who.get(path).status_code == 200


def test_every_route_that_changes_something_shared_asks_for_a_role(client, cotton):
    """None is forgotten: an operator is refused by each, whatever is sent."""
    operator = client_of("operator", Role.OPERATOR)
    paths = client.get("/api/openapi.json").json()["paths"]
    shared = ("/api/conditions", "/api/characterizations", "/api/people", "/api/house/rules", "/api/house/rule-files")
    # Looking things up with a body, and what everybody may bring in.
    open_to_all = {
        "/api/conditions/{slug}/variant", "/api/conditions/{slug}/through", "/api/conditions/numbers/look",
    }  # fmt: skip
    fields = {"slug": "cotton-54t", "set_id": 1, "medium_id": 1, "strip_id": 1, "characterization_id": 1, "step": "total",
              "user_id": 1}  # fmt: skip
    tried = 0
    for path, methods in paths.items():
        if not path.startswith(shared) or path in open_to_all:
            continue
        for method in methods.keys() & {"post", "put", "delete"}:
            answer = getattr(operator, method)(path.format(**fields), {}, **JSON)
            assert answer.status_code == 403, (method, path, answer.status_code)
            tried += 1
    assert tried > 20


def test_a_condition_that_two_people_change_tells_the_second_who_was_first(client, cotton):
    """One of two updates was lost without a word."""
    other = client_of("mira", Role.COLOR_LEAD)
    looked = client.get("/api/conditions").json()[0]["version"]
    first = other.put("/api/conditions/cotton-54t", {"change": {"notes": "Dry well."}, "version": looked}, **JSON)
    assert first.status_code == 200 and first.json()["version"] == looked + 1
    late = client.put("/api/conditions/cotton-54t", {"change": {"notes": "Dry slowly."}, "version": looked}, **JSON)
    assert late.status_code == 409 and "mira changed 'Cotton 54T'" in late.json()["detail"]
    assert Condition.objects.get().notes == "Dry well."
    assert client.put("/api/conditions/cotton-54t", {"change": {"notes": "x"}}, **JSON).status_code == 422
    for path, body in (
        ("status", {"status": "draft"}),
        ("tolerances", {"tolerances": {"paper": 2, "solids": 3, "mean": 2, "worst": 5}}),
    ):
        stale = client.put(f"/api/conditions/cotton-54t/{path}", {**body, "version": looked}, **JSON)
        assert stale.status_code == 409


def test_many_saving_the_same_set_of_rules_at_once_is_one_change(client):
    made = client.post("/api/house/rules", {"rules": {"name": "Packaging"}}, **JSON).json()
    people = [client_of(f"lead {n}", Role.PREPRESS_LEAD) for n in range(5)]
    answers = []

    def save(number, who):
        body = {"rules": {"name": "Packaging", "intent": "relative", "mark_color": [number, 0, 0]}}
        answers.append(who.put(f"/api/house/rules/{made['id']}", {**body, "version": made["version"]}, **JSON))
        connection.close()

    threads = [threading.Thread(target=save, args=each) for each in enumerate(people)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(answer.status_code for answer in answers) == [200, 409, 409, 409, 409]
    won = next(answer.json() for answer in answers if answer.status_code == 200)
    assert RuleSet.objects.get().rules["mark_color"] == won["rules"]["mark_color"]
    assert Revision.objects.filter(kind="house rules").count() == 2


def test_history_says_who_and_when_and_what_and_goes_back(client, cotton):
    mira = client_of("mira", Role.COLOR_LEAD)
    medium = mira.post("/api/conditions/media", medium_data(), **JSON).json()
    for version, price in ((1, 150), (2, 180)):
        path = f"/api/conditions/media/{medium['id']}"
        assert mira.put(path, {**medium_data(price=price), "version": version}, **JSON).status_code == 200
    key = {"kind": "medium", "key": str(medium["id"])}
    revisions = client.get("/api/records", key).json()
    assert [(r["number"], r["action"], r["author_name"]) for r in revisions] == [
        (3, "changed", "mira"), (2, "changed", "mira"), (1, "made", "mira"),
    ]  # fmt: skip
    assert revisions[0]["changes"] == [{"field": "price", "before": 150, "after": 180}]
    # All of the house's changes are there, not the last hundred: of everything, those before the second are the first.
    every = client.get("/api/records").json()
    earlier = client.get("/api/records", {"before": every[1]["id"]}).json()
    assert [each["id"] for each in earlier] == [each["id"] for each in every[2:]]
    compared = client.get("/api/records/compare", {**key, "first": 1, "second": 3}).json()
    assert compared == [{"field": "price", "before": 120, "after": 180}]
    stale = client.post("/api/records/back", {**key, "number": 1, "version": 2}, **JSON)
    assert stale.status_code == 409
    operator = client_of("operator", Role.OPERATOR)
    assert operator.post("/api/records/back", {**key, "number": 1, "version": 3}, **JSON).status_code == 403
    back = client.post("/api/records/back", {**key, "number": 1, "version": 3}, **JSON)
    assert back.status_code == 200 and (back.json()["action"], back.json()["author_name"]) == ("restored", "tester")
    assert client.get("/api/conditions/media").json()[0]["price"] == 120
    # Even after it was removed.
    assert client.delete(f"/api/conditions/media/{medium['id']}").status_code == 204
    assert client.post("/api/records/back", {**key, "number": 3, "version": 5}, **JSON).status_code == 200
    assert client.get("/api/conditions/media").json()[0]["price"] == 180
    assert client.post("/api/records/back", {**key, "number": 99, "version": 6}, **JSON).status_code == 404


def test_rules_adjustments_tolerances_and_facts_go_back_too(client, cotton):
    tolerances = {"tolerances": {"paper": 1, "solids": 2, "mean": 1, "worst": 3}, "version": 0}
    client.put("/api/conditions/cotton-54t/tolerances", tolerances, **JSON)
    client.put("/api/conditions/cotton-54t", {"change": {"name": "Cotton, new"}, "version": 1}, **JSON)
    back = {"kind": "condition", "key": "cotton-54t", "number": 1, "version": 2}
    assert client.post("/api/records/back", back, **JSON).status_code == 200
    found = client.get("/api/conditions").json()[0]
    assert found["name"] == "Cotton 54T" and found["tolerances"]["paper"] == 1 and found["version"] == 3
    made = client.post("/api/house/rules", {"rules": {"name": "A", "intent": "relative"}}, **JSON).json()
    change = {"rules": {"name": "A", "intent": "perceptual"}, "version": made["version"]}
    client.put(f"/api/house/rules/{made['id']}", change, **JSON)
    back = {"kind": "house rules", "key": str(made["id"]), "number": made["version"], "version": made["version"] + 1}
    assert client.post("/api/records/back", back, **JSON).status_code == 200
    assert client.get("/api/house/rules").json()[0]["rules"]["intent"] == "relative"
    warm = {"name": "Warm", "adjustment": {"chroma_percent": 3}}
    kept = client.post("/api/house/adjustments", warm, **JSON).json()
    client.delete(f"/api/house/adjustments/{kept['id']}")
    back = {"kind": "adjustment", "key": "Warm", "number": 1, "version": 2}
    assert client.post("/api/records/back", back, **JSON).status_code == 200
    assert client.get("/api/house/adjustments").json()[0]["adjustment"]["chroma_percent"] == 3


def test_presets_of_the_house_stand_beside_those_by_process_and_have_a_history(client):
    usual = client.get("/api/conditions/presets").json()
    body = {"name": "Cotton, thin", "total_percent": 190, "black": usual[0]["black"]}
    made = client.post("/api/conditions/presets", body, **JSON)
    assert made.status_code == 201 and made.json()["version"] == 1
    assert client.post("/api/conditions/presets", {**body, "total_percent": 200}, **JSON).status_code == 409
    changed = client.post("/api/conditions/presets", {**body, "total_percent": 200, "version": 1}, **JSON)
    assert changed.json()["version"] == 2
    listed = client.get("/api/conditions/presets").json()
    assert listed[:-1] == usual and (listed[-1]["name"], listed[-1]["own"]) == ("Cotton, thin", True)
    assert client.post("/api/conditions/presets", {**body, "name": "Newsprint"}, **JSON).status_code == 422
    assert client.delete("/api/conditions/presets?name=Cotton, thin").status_code == 204
    back = {"kind": "preset", "key": "Cotton, thin", "number": 1, "version": 3}
    assert client.post("/api/records/back", back, **JSON).status_code == 200
    assert client.get("/api/conditions/presets").json()[-1]["total_percent"] == 190


def test_people_are_taken_in_given_roles_and_let_go(client):
    body = {"name": "Ines", "password": "blue-and-violet", "role": "color lead"}
    ines = client.post("/api/people", body, **JSON).json()
    assert client.post("/api/people", {**body, "name": "INES"}, **JSON).status_code == 409
    assert client.post("/api/people", {**body, "name": "b", "password": "short"}, **JSON).status_code == 422
    browser = Client()
    given = {"user": "Ines", "password": "blue-and-violet"}
    assert browser.post("/api/session", given, **JSON).json()["role"] == "color lead"
    change = {"role": "operator", "active": False, "password": "", "version": ines["version"]}
    assert client.put(f"/api/people/{ines['id']}", change, **JSON).json()["active"] is False
    # The session of somebody who was let go ends with it.
    assert browser.get("/api/artworks").status_code == 401
    assert client.put(f"/api/people/{ines['id']}", change, **JSON).status_code == 409
    me = next(each for each in client.get("/api/people").json() if each["name"] == "tester")
    last = client.put(f"/api/people/{me['id']}", {**change, "version": 0}, **JSON)
    assert last.status_code == 409 and "Somebody has to be administrator" in last.json()["detail"]
    assert "blue-and-violet" not in str(list(Revision.objects.values()))


def test_ones_own_password_is_changed_with_the_present_one(client):
    wrong = client.put("/api/session/password", {"present": "no", "new": "another-long-one"}, **JSON)
    assert wrong.status_code == 422
    good = client.put("/api/session/password", {"present": "a-long-password", "new": "another-long-one"}, **JSON)
    assert good.status_code == 204 and client.get("/api/artworks").status_code == 200
    assert (
        Client().post("/api/session", {"user": "tester", "password": "another-long-one"}, **JSON).status_code == 200
    )


def test_guessing_is_slowed_for_a_name_from_an_address_and_nobody_else(client, settings):
    settings.AXES_COOLOFF_TIME = timedelta(minutes=5)
    thief = Client()
    codes = [
        thief.post("/api/session", {"user": "tester", "password": f"guess {n}"}, **JSON).status_code for n in range(8)
    ]
    assert codes[:4] == [401] * 4 and codes[5:] == [429] * 3
    right = thief.post("/api/session", {"user": "tester", "password": "a-long-password"}, **JSON)
    assert right.status_code == 429 and "Wait five minutes" in right.json()["detail"]
    elsewhere = Client(REMOTE_ADDR="10.1.1.7")
    assert (
        elsewhere.post("/api/session", {"user": "tester", "password": "a-long-password"}, **JSON).status_code == 200
    )
    client_of("other", Role.OPERATOR)
    assert thief.post("/api/session", {"user": "other", "password": "a-long-password"}, **JSON).status_code == 200


def test_signing_in_takes_json_with_a_token_only(client):
    strict = Client(enforce_csrf_checks=True)
    given = {"user": "tester", "password": "a-long-password"}
    assert strict.post("/api/session", given).status_code in (401, 403, 415)
    assert strict.post("/api/session", given, **JSON).status_code == 403
    strict.get("/api/session")
    token = {"X-CSRFToken": strict.cookies["csrftoken"].value}
    assert strict.post("/api/session", given, headers=token, **JSON).status_code == 200


def test_the_demos_account_stays_out_where_it_is_no_demo(client, settings):
    user = get_user_model().objects.create_user("quillmere", password="velderwyn-garden")
    Person.objects.create(user=user, role=Role.ADMINISTRATOR, demo=True)
    given = {"user": "quillmere", "password": "velderwyn-garden"}
    settings.DEMO = True
    inside = Client()
    assert inside.post("/api/session", given, **JSON).status_code == 200
    assert inside.get("/api/artworks").status_code == 200
    settings.DEMO = False
    assert Client().post("/api/session", given, **JSON).status_code == 401
    assert inside.get("/api/artworks").status_code == 401


def test_uploads_are_refused_before_their_body_is_read(client):
    stranger = Client()
    incoming = settings.DATA_DIR / "incoming"
    before = set(incoming.glob("*"))
    body = {"file": SimpleUploadedFile("a.tif", b"x" * 100_000)}
    answer = stranger.post("/api/artworks", body)
    assert answer.status_code == 401
    assert set(incoming.glob("*")) == before
    no_token = Client(enforce_csrf_checks=True)
    no_token.force_login(get_user_model().objects.get(), backend="plinto_server.accounts.signing_in.HouseBackend")
    assert no_token.post("/api/artworks", body).status_code == 403
    much = client.post("/api/runs", "x" * (5 << 20), **JSON)
    assert much.status_code == 413
    profile = client.post("/api/house/profiles", {"file": SimpleUploadedFile("p.icc", b"x" * (65 << 20))})
    assert profile.status_code == 413 and "the limit here is 64 MB" in profile.json()["detail"]
