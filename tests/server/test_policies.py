"""Outputs and documents over HTTP: history, decisions, pages, sending, refusing, bad documents."""

import base64
import io
import json
import resource
import zlib

import numpy as np
import pikepdf
import pytest
from click.testing import CliRunner
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import transaction
from PIL import Image

from plinto_core.cli.repeating import again as plinto_again
from plinto_core.inks.names import DRIVEN_BY_RGB
from plinto_core.measurement.measurements import Measurements
from plinto_core.policy.check_strip import set_ups
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule
from plinto_demo.documents import DOCUMENTS
from plinto_server.accounts.models import Role
from plinto_server.devices import device_by_slug
from plinto_server.files import store
from plinto_server.files.models import Hold
from plinto_server.jobs.models import Run
from plinto_server.policies.models import Document, Output
from tests.conftest import profile_of
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
    facts = document["facts"]
    assert document["pages"] == 1 and facts["spaces"]["DeviceRGB"]["text"] > 3 and facts["version"] >= "1.3"
    assert facts["boxes"]["MediaBox"][0]["width_mm"] > 100 and facts["standards"] and facts["text_colors"][0]["fonts"]
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


def test_a_large_document_opens_at_once_and_is_read_by_a_job(client, cotton):
    """Decisions come with progress, are kept for the version that they were asked for, and cannot be had without."""
    output = made(client)
    pdf = pikepdf.Pdf.new()
    for number in range(230):
        page = pdf.add_blank_page(page_size=(100, 80))
        page.Contents = pikepdf.Stream(pdf, b"0 g 0 0 9 9 re f %.3f 0.5 0 rg 20 20 30 30 re f" % (number % 4 / 4))
    data = io.BytesIO()
    pdf.save(data)
    document = brought(client, "Catalog.pdf", data.getvalue()).json()["document"]
    assert document["pages"] == 230 and document["facts"]["version"] == "" and document["facts"]["guesses"] is None
    place = f"/api/policies/documents/{document['id']}"
    asked = f"{place}/decisions?output={output['id']}"
    answer = client.get(asked)
    assert (answer.status_code, answer.json()) == (202, {"asked": False, "run_id": None, "progress": 0.0})
    run = client.post(asked).json()
    assert client.post(asked).json()["id"] == run["id"], "asked twice, read once"
    assert client.get(asked).json() == {"asked": True, "run_id": run["id"], "progress": 0.0}
    work()
    told = client.get(asked)
    assert told.status_code == 200 and told.json()["objects"] == 460 and told.json()["pages"] == 230
    # A page by itself is told as the whole tells of it.
    of_page = client.get(f"{place}/decisions/7?output={output['id']}").json()
    assert of_page == [each for each in told.json()["records"] if each["page"] == 7] and len(of_page) == 2
    none = client.get(f"{place}/decisions/231?output={output['id']}")
    assert none.status_code == 422 and "There is no page 231" in none.json()["detail"]
    changed = output_body(version=1, policy="Newsprint, gray kept")
    client.put(f"/api/policies/outputs/{output['id']}", changed, content_type="application/json")
    assert client.get(asked).status_code == 202
    client.post(asked)
    work()
    assert client.get(asked).json()["rows"][0]["objects"] == 230
    assert Run.objects.filter(kind="reading").count() == 1, "what was read for an earlier version makes room"
    other = made(client, name="Other")
    compare = f"{place}/compare?one={output['id']}&other={other['id']}"
    assert client.get(compare).json() == {"asked": False, "run_id": None, "progress": 0.0}
    run = client.post(compare).json()
    assert client.post(compare).json()["id"] == run["id"] and client.get(compare).json()["run_id"] == run["id"]
    work()
    told = client.get(compare).json()
    # The rectangles that newsprint keeps gray, and those that go into the condition either way.
    assert told["same"] + sum(each["times"] for each in told["differing"]) == 460 and told["differing"]
    assert told["policies"] == ["Newsprint, gray kept", "Everything into the condition"]
    client.put(f"/api/policies/outputs/{other['id']}", output_body(version=1, name="Other", policy="Newsprint, gray kept"),
               content_type="application/json")  # fmt: skip
    assert client.get(compare).status_code == 202
    client.post(compare)
    work()
    assert client.get(compare).json()["same"] == 460 and Run.objects.filter(kind="comparison").count() == 1
    # A page in the middle cannot be read: the job says which, and so does every later question.
    pdf.pages[211].Contents = pikepdf.Stream(pdf, b"/Nowhere sh")
    data = io.BytesIO()
    pdf.save(data)
    broken = brought(client, "Broken.pdf", data.getvalue()).json()["document"]
    asked = f"/api/policies/documents/{broken['id']}/decisions?output={output['id']}"
    client.post(asked)
    work()
    answer = client.get(asked)
    assert answer.status_code == 422 and "Page 212 cannot be read in full" in answer.json()["detail"]


def test_a_document_is_made_again_to_the_bit_or_says_what_is_missing(client, cotton):
    output = made(client, rule=DeliveryRule(compression="jpeg", most_ppi=100).to_json())
    pdf = pikepdf.Pdf.new()
    page = pdf.add_blank_page(page_size=(100, 80))
    picture = pikepdf.Stream(pdf, np.random.default_rng(1).integers(0, 256, 200 * 150 * 3, np.uint8).tobytes())
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    picture.Width, picture.Height, picture.BitsPerComponent, picture.ColorSpace = 200, 150, 8, pikepdf.Name.DeviceRGB
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=pdf.make_indirect(picture)))
    page.Contents = pikepdf.Stream(pdf, b"0 g 5 5 20 20 re f q 80 0 0 60 10 10 cm /P Do Q")
    data = io.BytesIO()
    pdf.save(data)
    document = brought(client, "Lantern card.pdf", data.getvalue()).json()["document"]
    send = f"/api/policies/documents/{document['id']}/send"
    first = client.post(send, {"outputs": [output["id"]]}, content_type="application/json").json()[0]
    work()
    again = client.post(f"/api/runs/{first['id']}/again")
    assert again.status_code == 201, again.content
    work()
    run = client.get(f"/api/runs/{again.json()['id']}").json()
    assert (run["state"], run["message"]) == ("done", "The same file to the last bit.")
    assert Image.open(io.BytesIO(thumbnails(client, run["id"])[0])).size[0] > 4
    client.delete(f"/api/policies/documents/{document['id']}")
    store.path_of(document_digest(first["id"])).unlink(missing_ok=True)
    gone = client.post(f"/api/runs/{first['id']}/again")
    assert gone.status_code == 404 and "Lantern card.pdf" in gone.json()["detail"]
    assert client.post(f"/api/runs/{again.json()['id'] + 99}/again").status_code == 404


def test_a_separation_from_the_bench_takes_the_delivery_rule_of_an_output(client, cotton, artwork, tmp_path):
    recipe = {"deliver": {"format": "pdf"}}
    rule = DeliveryRule("Small", most_ppi=60, least_ppi=20, compression="jpeg", pdf_version="1.7").to_json()
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": recipe}
    plain, ruled = (
        client.post("/api/runs", {**body, **more}, content_type="application/json").json()
        for more in ({}, {"rule": rule})
    )
    work()
    runs = [Run.objects.get(id=each["id"]) for each in (plain, ruled)]
    assert [run.state for run in runs] == ["done"] * 2, [run.message for run in runs]
    sizes = []
    for run in runs:
        with pikepdf.open(store.path_of(run.result_sha256)) as pdf:
            (picture,) = pdf.pages[0].images.values()
            sizes.append(
                (picture.Width, str(picture.Filter), str(pdf.Root.OutputIntents[0].OutputConditionIdentifier))
            )
    assert sizes[1][0] < sizes[0][0] and sizes[1][1] == "/DCTDecode" and sizes[0][2] == sizes[1][2]
    assert runs[1].run_sheet["delivery_rule"]["name"] == "Small"
    again = client.post(f"/api/runs/{ruled['id']}/again").json()
    work()
    assert Run.objects.get(id=again["id"]).message == "The same file to the last bit."
    # And from the sheet alone, by whoever has the picture and the profile.
    sheet = tmp_path / "sheet.json"
    sheet.write_text(json.dumps(runs[1].run_sheet))
    inputs = [each for digest in (runs[1].artwork.sha256, runs[1].pinned["condition"])
              for each in ("--from", str(store.path_of(digest)))]  # fmt: skip
    said = CliRunner().invoke(plinto_again, [str(sheet), *inputs, "--out", str(tmp_path / "again.pdf")])
    assert said.exit_code == 0 and "the same file to the last bit" in said.output, said.output
    wrong = client.post("/api/runs", {**body, "recipe": {}, "rule": rule}, content_type="application/json")
    assert wrong.status_code == 422 and "choose PDF as the format" in wrong.json()["detail"]


def test_what_the_bench_wrote_by_a_rule_is_named_once_the_rule_or_the_profile_is_another(client, cotton, artwork):
    one = made(client)
    before = f"/api/policies/outputs/{one['id']}/sent-before"
    body = {"artwork_id": artwork["id"], "condition": "cotton-54t", "recipe": {"deliver": {"format": "pdf"}}}
    by_rule = {**body, "rule": one["rule"], "output_id": one["id"]}
    for each in (body, by_rule):
        assert client.post("/api/runs", each, content_type="application/json").status_code == 201
    work()
    assert client.get(before).json() == []
    kept = Output.objects.get(id=one["id"])
    kept.rule = {**kept.rule, "most_ppi": 144}
    kept.save()
    (named,) = client.get(before).json()
    assert (named["artwork_id"], named["condition"], named["document_id"]) == (artwork["id"], "cotton-54t", None)
    client.post("/api/runs", {**by_rule, "rule": kept.rule}, content_type="application/json")
    work()
    assert client.get(before).json() == []
    # The condition gets another profile.
    with transaction.atomic():
        cotton.profile_sha256 = store.keep_bytes(profile_of("tern-news-45").raw)
    cotton.save()
    assert [each["name"] for each in client.get(before).json()] == [artwork["name"]]


def document_digest(run_id):
    return Run.objects.get(id=run_id).source_sha256


def thumbnails(client, run_id):
    """Small pictures of a run's report."""
    page = client.get(f"/runs/{run_id}/sheet").content.decode()
    return [base64.b64decode(part.split('"')[0]) for part in page.split("data:image/png;base64,")[1:]]


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


def test_a_small_document_that_unpacks_to_gigabytes_does_it_in_no_process_of_the_server(client, cotton):
    """5 MB of zeros that are a picture of 266 megapixels: the web process took them all, for each look."""
    output = made(client)
    pdf = pikepdf.Pdf.new()
    page = pdf.add_blank_page(page_size=(100, 80))
    packer = zlib.compressobj(3)
    packed = b"".join(packer.compress(bytes(1 << 24)) for _ in range(48)) + packer.flush()
    picture = pikepdf.Stream(pdf, packed)
    picture.Type, picture.Subtype, picture.Filter = (
        pikepdf.Name(f"/{n}") for n in ("XObject", "Image", "FlateDecode")
    )
    picture.Width, picture.Height, picture.BitsPerComponent, picture.ColorSpace = (
        19000,
        14000,
        8,
        pikepdf.Name.DeviceRGB,
    )
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=pdf.make_indirect(picture)))
    page.Contents = pikepdf.Stream(pdf, b"q 80 0 0 60 10 10 cm /P Do Q")
    data = io.BytesIO()
    pdf.save(data)
    assert len(data.getvalue()) < 6 << 20
    arrived = brought(client, "Zeros.pdf", data.getvalue())
    assert arrived.status_code == 201, arrived.content
    place = f"/api/policies/documents/{arrived.json()['document']['id']}"
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    said = "a picture of 19000 × 14000 pixels takes more memory than one may"
    told = client.get(f"{place}/decisions?output={output['id']}").json()
    assert told["refused"] and said in told["records"][0]["why"]
    plate = client.get(f"{place}/pages/1?ppi=36&output={output['id']}&look=plate&plate=Cyan")
    assert plate.status_code == 422 and "takes more memory than one may" in plate.json()["detail"]
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 200 << 10


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


def test_pages_are_drawn_in_parts_and_ink_by_ink_with_a_map_of_coverage(client, cotton):
    """Spots have plates of their own; the map shows where ink is; a page turned on its side keeps its frame."""
    output = made(client, policy="Leave and report")
    pdf = pikepdf.Pdf.new()
    page = pdf.add_blank_page(page_size=(200, 100))
    page.Rotate, page.CropBox = 90, pikepdf.Array([10, 0, 190, 100])
    page.Resources = pikepdf.Dictionary(
        ColorSpace=pikepdf.Dictionary(
            S=pikepdf.Array([pikepdf.Name.Separation, pikepdf.Name("/Lake green"), pikepdf.Name.DeviceCMYK, TINT])
        )
    )
    page.Contents = pikepdf.Stream(pdf, b"/S cs 1 scn 20 20 60 60 re f 1 1 1 1 k 120 20 40 40 re f")
    data = io.BytesIO()
    pdf.save(data)
    document = brought(client, "Lake.pdf", data.getvalue()).json()["document"]
    assert document["frames"] == [{"pages": 1, "box": [10, 0, 190, 100], "turned": 90}]
    place = f"/api/policies/documents/{document['id']}/pages/1"
    inks = client.get(f"{place}/inks?output={output['id']}").json()
    assert [each["name"] for each in inks["inks"]] == ["Cyan", "Magenta", "Yellow", "Black", "Lake green"]
    assert inks["inks"][4]["mean_percent"] == pytest.approx(20, abs=0.5)
    assert inks["largest_percent"] == 400 and inks["limit_percent"] == 230
    # Turned clockwise: what is at the right stands below.
    assert 20 <= inks["at"][0] <= 60 and 110 <= inks["at"][1] <= 150
    pictures = {
        look: np.array(Image.open(io.BytesIO(client.get(f"{place}?ppi=144&output={output['id']}&{look}").content)))
        for look in ("look=coverage", "look=plate&plate=Lake green", "look=coverage&left=20&top=40&width=90&height=80")
    }  # fmt: skip
    whole, spot, part = pictures.values()
    assert whole.shape[:2] == spot.shape[:2] == (360, 200) and np.array_equal(part, whole[40:120, 20:110])
    assert spot[80, 100, 0] == 0 and spot[260, 80, 0] == 255
    # 400 % of 500 is dark, and hatched, being more than 230 %.
    over = whole[230:290, 50:110, 0]
    assert over.min() < 60 and over.max() == 255 and (whole[80:100, 80:100] == whole[80, 80]).all()
    wrong = client.get(f"{place}?look=coverage&output={output['id']}&left=900&width=10&height=10")
    assert wrong.status_code == 422 and "not on the page" in wrong.json()["detail"]


TINT = pikepdf.Dictionary(
    FunctionType=2, Domain=pikepdf.Array([0, 1]), C0=pikepdf.Array([0, 0, 0, 0]), C1=pikepdf.Array([0.9, 0.2, 0.7, 0.2]),
    N=1,
)  # fmt: skip


def test_a_ticket_says_what_happens_shows_it_and_is_found_out_by_its_strip(client, cotton, devices_at_hand):
    ticket = {"converts": ["application", "driver"], "mirrors": ["RIP"]}
    output = made(client, ticket=ticket)
    assert [each["verdict"] for each in output["verdicts"]] == ["twice", "mirrored for nothing"]
    assert not output["ticket_right"] and output["reads_mirrored"]
    document = brought(client, "Stall prices.pdf").json()["document"]
    place = f"/api/policies/documents/{document['id']}/pages/1?ppi=36&output={output['id']}"
    prints, twice = (
        np.array(Image.open(io.BytesIO(client.get(f"{place}&look={look}").content)).convert("RGB"), float)
        for look in ("prints", "ticket")
    )
    assert np.abs(prints - twice).mean(axis=2).max() > 10, "converted twice, and nothing of it is seen"
    body = output_body(version=output["version"], ticket={"converts": ["driver"]})
    assert client.put(f"/api/policies/outputs/{output['id']}", body, content_type="application/json").json()[
        "ticket_right"
    ]
    once = np.array(Image.open(io.BytesIO(client.get(f"{place}&look=ticket").content)).convert("RGB"), float)
    assert np.array_equal(once, prints)
    strip = f"/api/policies/outputs/{output['id']}/strip"
    told = client.get(strip).json()
    assert told["patches"] == 24 and told["printers"][0]["slug"] == "cotton-54t"
    assert client.get(f"{strip}.pdf").content.startswith(b"%PDF")
    for way in ("once", "twice", "never", "absolute"):
        body = {"device": "cotton-54t", "way": way}
        found = client.post(f"{strip}/print", body, content_type="application/json").json()
        assert found["cause"] == way, found
    # From a file: the strip's own values, and what an instrument read of them.
    rgb = np.array([row.split()[1:4] for row in strip_rows(client.get(f"{strip}.txt").content.decode())], float) / 255
    ((_, inks),) = [value for key, value in set_ups(profile_of("cotton-54t"), (), rgb).items() if key == "never"]
    (xyz,) = [np.concatenate([xyz for _, xyz in device_by_slug("cotton-54t").read(inks)])]
    data = Measurements(DRIVEN_BY_RGB, 1 - rgb, xyz, None, title="Strip")
    answer = client.post(f"{strip}/read", {"file": SimpleUploadedFile("strip.txt", data.to_cgats().encode())})
    assert answer.status_code == 200 and answer.json()["cause"] == "never", answer.content
    bad = client.post(f"{strip}/read", {"file": SimpleUploadedFile("strip.txt", b"nothing")})
    assert bad.status_code == 422
    for wrong, status in (({"way": "upside down"}, 422), ({"device": "sela-rgb"}, 422), ({"device": "none"}, 404)):
        body = {"device": "cotton-54t", "way": "once", **wrong}
        assert client.post(f"{strip}/print", body, content_type="application/json").status_code == status


def strip_rows(text):
    return text.split("BEGIN_DATA\n")[1].split("\nEND_DATA")[0].splitlines()


def test_outputs_are_compared_handed_on_and_marked_when_their_condition_changes(client, cotton):
    one = made(client)
    other = made(client, name="Web", policy="Newsprint, gray kept")
    document = brought(client, "Stall prices.pdf").json()["document"]
    told = client.get(f"/api/policies/documents/{document['id']}/compare?one={one['id']}&other={other['id']}").json()
    assert told["policies"] == ["Everything into the condition", "Newsprint, gray kept"]
    assert told["differing"] and told["differing"][0]["boxes"] and told["differing"][0]["first"]
    deltas = [each["delta_e"] or 0 for each in told["differing"]]
    assert deltas == sorted(deltas, reverse=True)
    file = client.get(f"/api/policies/outputs/{other['id']}/policy")
    assert json.loads(file.content)["policy"]["name"] == "Newsprint, gray kept"
    put = f"/api/policies/outputs/{one['id']}/policy?version={one['version']}"
    answer = client.post(put, {"file": SimpleUploadedFile("policy.json", file.content)})
    assert answer.status_code == 200 and answer.json()["policy"] == other["policy"], answer.content
    late = client.post(put, {"file": SimpleUploadedFile("policy.json", file.content)})
    assert late.status_code == 409
    broken = client.post(put.replace("=1", "=2"), {"file": SimpleUploadedFile("policy.json", b"{}")})
    assert broken.status_code == 422 and "Export one" in broken.json()["detail"]
    assert answer.json()["to_look_at"] == []
    # The first version once more, beside the policy that has taken its place.
    before = f"/api/policies/documents/{document['id']}/compare?one={one['id']}&other={one['id']}&version="
    assert client.get(f"{before}1").json()["differing"] and not client.get(f"{before}2").json()["differing"]
    assert client.get(f"{before}9").status_code == 404
    cotton.total_ink_percent = 210
    cotton.save()
    marked = client.get("/api/policies/outputs").json()[0]
    assert marked["to_look_at"] == ["Total ink of 'Cotton 54T' was 230 % and is 210 %."]
    # What went out while it was otherwise is named, until it is sent as it is now.
    sent = f"/api/policies/documents/{document['id']}/send"
    before = f"/api/policies/outputs/{one['id']}/sent-before"
    client.post(sent, {"outputs": [one["id"]]}, content_type="application/json")
    work()
    assert client.get(before).json() == []
    cotton.total_ink_percent = 205
    cotton.save()
    (named,) = client.get(before).json()
    assert (
        named["name"] == "Stall prices.pdf"
        and client.get(f"/api/policies/outputs/{other['id']}/sent-before").json() == []
    )
    client.post(sent, {"outputs": [one["id"]]}, content_type="application/json")
    work()
    assert client.get(before).json() == []
    cotton.total_ink_percent = 210
    cotton.save()
    seen = client.post(f"/api/policies/outputs/{one['id']}/looked-at")
    assert seen.status_code == 200 and seen.json()["to_look_at"] == []


def _painted(content: bytes, box: bytes = b"0 0 100 100") -> bytes:
    """A page with a picture of 2 × 2 pixels called I."""
    pdf, out = pikepdf.Pdf.new(), io.BytesIO()
    page = pdf.add_blank_page(page_size=(100, 100))
    picture = pikepdf.Stream(pdf, bytes(12), Width=2, Height=2, BitsPerComponent=8)
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    picture.ColorSpace = pikepdf.Name.DeviceRGB
    page.obj.MediaBox = pikepdf.Object.parse(b"[" + box + b"]")
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(I=pdf.make_indirect(picture)))
    page.Contents = pikepdf.Stream(pdf, content)
    pdf.save(out)
    return out.getvalue()


def test_numbers_without_end_are_kept_nowhere(client, cotton):
    """A picture placed with no size has endless pixels an inch: the upload answered 500, for JSON has no such number."""
    output, endless = made(client), b"9" * 400 + b".5"
    arrived = brought(client, "Nothing.pdf", _painted(b"q 0 0 0 0 0 0 cm /I Do Q 1 0 0 rg 0 0 9 9 re f"))
    assert arrived.status_code == 201, arrived.content
    shown = client.get("/api/policies/documents").content + arrived.content
    place = f"/api/policies/documents/{arrived.json()['document']['id']}/decisions?output={output['id']}"
    decided = client.get(place)
    assert decided.status_code == 200 and {each["object"] for each in decided.json()["records"]} == {
        "Picture",
        "Line art",
    }
    assert b"Infinity" not in shown + decided.content and b"NaN" not in shown + decided.content
    for content, box in (
        (b"1 0 0 rg 0 0 9 9 re f", b"0 0 100 " + endless),
        (endless + b" 0 0 rg 0 0 9 9 re f", b"0 0 100 100"),
        (endless + b" 0 0 1 0 0 cm /I Do", b"0 0 100 100"),
    ):
        refused = brought(client, "Endless.pdf", _painted(content, box))
        assert refused.status_code == 422 and "'Endless.pdf'" in refused.json()["detail"], refused.content
    huge = b"1" + b"0" * 300 + b".0"
    far = brought(
        client, "Far.pdf", _painted(b" ".join((huge, b"0 0", huge, b"0 0 cm ")) * 2 + b"1 0 0 rg 0 0 9 9 re f /I Do")
    )
    decided = client.get(f"/api/policies/documents/{far.json()['document']['id']}/decisions?output={output['id']}")
    assert decided.status_code == 200 and decided.json()["records"]


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


def test_a_policy_takes_the_colors_of_spot_inks_from_a_list_and_keeps_them(client, cotton):
    """The scarf's Lake green and Ember, as the house's list has them: seen in the decisions, kept without the list."""
    typed = {"name": "Season", "text": "Lake green, spot 39 -34 9\nEmber, spot 69 38 63"}
    listed = client.post("/api/colors/lists/typed", typed, content_type="application/json").json()["id"]
    spots = client.get(f"/api/colors/lists/{listed}/spots").json()
    assert spots[0] == {"name": "Lake green, spot", "lightness": 39.0, "a": -34.0, "b": 9.0}
    body = output_body()
    body["policy"]["spots"] = spots
    output = client.post("/api/policies/outputs", body, content_type="application/json").json()
    assert output["policy"]["spots"] == spots
    document = brought(client, "Scarf repeat.pdf").json()["document"]["id"]
    place = f"/api/policies/documents/{document}/decisions?output={output['id']}"
    told = client.get(place).json()["records"]
    known = [each for each in told if each["why"].startswith("The ink's color as the policy knows it; from ")]
    inks = ("Lake green", "Ember")
    assert known and all(any(ink in each["found"] for ink in inks) for each in known)
    assert len([each for each in told if any(ink in each["found"] for ink in inks)]) == len(known)
    client.delete(f"/api/colors/lists/{listed}")
    assert client.get(place).json()["records"] == told
    numbers = {"name": "Codes", "text": "Ember #ff8800"}
    codes = client.post("/api/colors/lists/typed", numbers, content_type="application/json").json()["id"]
    refused = client.get(f"/api/colors/lists/{codes}/spots")
    assert refused.status_code == 422 and "known by its color" in refused.json()["detail"]
