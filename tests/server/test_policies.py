"""Outputs and documents over HTTP: history, decisions, pages, sending, refusing, bad documents."""

import io
import json

import pikepdf
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule
from plinto_demo.documents import DOCUMENTS
from plinto_server.accounts.models import Role
from plinto_server.files import store
from plinto_server.files.models import Hold
from plinto_server.jobs.models import Run
from plinto_server.policies.models import Document
from tests.server.conftest import client_of, work

DEMO = {each.file_name: each for each in DOCUMENTS}


def output_body(policy="Everything into the condition", **change):
    plain = {
        "name": "Mesh", "condition": "cotton-54t", "policy": READY_MADE[policy].to_json(), "rule": DeliveryRule().to_json(),
    }  # fmt: skip
    return {**plain, **change}


def made(client, **change):
    answer = client.post("/api/policies/outputs", output_body(**change), content_type="application/json")
    assert answer.status_code == 201, answer.content
    return answer.json()


def brought(client, name, data=None):
    file = SimpleUploadedFile(name, data if data is not None else DEMO[name].make())
    return client.post("/api/policies/documents", {"file": file})


def test_a_document_is_looked_at_decided_and_sent_through_outputs(client, cotton):
    output = made(client)
    arrived = brought(client, "Stall prices.pdf")
    assert arrived.status_code == 201, arrived.content
    document = arrived.json()["document"]
    assert document["pages"] == 1 and document["facts"]["spaces"]["DeviceRGB"]["text"] > 3
    assert "is here already" in brought(client, "Again.pdf", DEMO["Stall prices.pdf"].make()).json()["said"]
    place = f"/api/policies/documents/{document['id']}"
    told = client.get(f"{place}/decisions?output={output['id']}").json()
    assert not told["refused"] and told["decisions"].keys() == {"black only", "convert"}
    assert (
        sum(row["objects"] for row in told["rows"])
        == told["objects"]
        == sum(each["times"] for each in told["records"])
    )
    assert all(len(box) == 4 for each in told["records"] for box in each["boxes"])
    came, prints, black = (
        Image.open(io.BytesIO(client.get(f"{place}/pages/1?ppi=36&output={output['id']}&{look}").content))
        for look in ("look=came", "look=prints", "look=plate&plate=Black")
    )
    assert came.size == prints.size == black.size == (298, 421)
    assert came.getpixel((5, 5)) == (255, 255, 255) and prints.getpixel((5, 5)) != (255, 255, 255)
    answer = client.post(f"{place}/send", {"outputs": [output["id"]]}, content_type="application/json")
    assert answer.status_code == 202
    work()
    run = Run.objects.get(id=answer.json()[0]["id"])
    assert run.state == "done", run.message
    assert run.file_name == "Stall prices Mesh.pdf" and run.run_sheet["policy"] == "Everything into the condition"
    with pikepdf.open(store.path_of(run.result_sha256)) as written:
        assert b" rg" not in written.pages[0].Contents.read_bytes()
    # What was made stays when the document goes; the document's own file goes with its last holder.
    assert client.delete(place).status_code == 204
    assert Hold.objects.filter(blob_id=run.result_sha256).exists() and not Document.objects.exists()


def test_a_refused_document_ends_with_every_reason_and_writes_nothing(client, cotton):
    output = made(client, policy="Refuse anything untagged")
    document = brought(client, "Wrap, final 2 (new).pdf").json()["document"]
    told = client.get(f"/api/policies/documents/{document['id']}/decisions?output={output['id']}").json()
    assert told["refused"] and told["records"][0]["done"] == "refused"
    answer = client.post(
        f"/api/policies/documents/{document['id']}/send", {"outputs": [output["id"]]}, content_type="application/json"
    )
    work()
    run = Run.objects.get(id=answer.json()[0]["id"])
    assert run.state == "failed" and "Ask the sender which space it is in" in run.message and not run.result_sha256


def test_outputs_have_a_history_and_are_changed_by_those_who_may(client, cotton):
    output = made(client)
    body = output_body(policy="Newsprint, gray kept", version=output["version"])
    changed = client.put(f"/api/policies/outputs/{output['id']}", body, content_type="application/json")
    assert changed.status_code == 200 and changed.json()["words"][0]["catches"] == "gray"
    late = client.put(f"/api/policies/outputs/{output['id']}", body, content_type="application/json")
    assert late.status_code == 409 and "tester changed 'Mesh'" in late.json()["detail"]
    back = {"kind": "output", "key": str(output["id"]), "number": 1, "version": 2}
    assert client.post("/api/records/back", back, content_type="application/json").status_code == 200
    (now,) = client.get("/api/policies/outputs").json()
    assert now["policy"] == output["policy"] and now["version"] == 3
    kept = client.delete("/api/conditions/cotton-54t")
    assert kept.status_code == 409 and "is the condition of 'Mesh'" in kept.json()["detail"]
    operator = client_of("ben", Role.OPERATOR)
    refused = operator.post("/api/policies/outputs", output_body(name="Mine"), content_type="application/json")
    assert refused.status_code == 403 and "house rules" in refused.json()["detail"]
    for change, status, words in (
        ({"name": "Mesh"}, 422, "already"),
        ({"name": "Other", "condition": "nowhere"}, 404, "not here any more"),
        ({"name": "Other", "condition": ""}, 422, "Choose one for the output"),
        ({"name": "Other", "policy": {"name": "x", "rows": []}}, 422, "1 to 60 rows"),
    ):
        body = {**output_body(), **change}
        answer = client.post("/api/policies/outputs", body, content_type="application/json")
        assert (answer.status_code, words in json.dumps(answer.json())) == (status, True), answer.content


def test_bad_documents_get_a_sentence_and_keep_nothing(client, tmp_path):
    good = DEMO["Stall prices.pdf"].make()
    with pikepdf.open(io.BytesIO(good)) as pdf:
        pdf.save(tmp_path / "locked.pdf", encryption=pikepdf.Encryption(owner="a", user="b"))
    loop = pikepdf.Pdf.new()
    loop.add_blank_page()
    form = loop.make_indirect(pikepdf.Stream(loop, b"/F Do"))
    form.Type, form.Subtype, form.BBox = pikepdf.Name.XObject, pikepdf.Name.Form, pikepdf.Array([0, 0, 9, 9])
    form.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
    loop.pages[0].Contents = pikepdf.Stream(loop, b"/F Do")
    loop.pages[0].Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(F=form))
    loop.save(tmp_path / "loop.pdf")
    for data, words in (
        (b"", "is empty"), (b"%PDF-1.7 and no more", "is damaged"), (b"a picture", "is damaged"),
        ((tmp_path / "locked.pdf").read_bytes(), "locked with a password"), (good[:900], "is damaged"),
        ((tmp_path / "loop.pdf").read_bytes(), "inside itself"),
    ):  # fmt: skip
        answer = brought(client, "job.pdf", data)
        assert answer.status_code == 422 and words in answer.json()["detail"], (words, answer.content)
        assert str(store.incoming_folder()) not in answer.json()["detail"]
    assert not Document.objects.exists() and not Hold.objects.exists()
    assert not list(store.incoming_folder().glob("*"))
