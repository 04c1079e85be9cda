"""Outputs, their policies and delivery rules, and the documents that are sent through them."""

from datetime import UTC, datetime
from typing import Any, Literal
from urllib.parse import quote

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Field, File, Query, Router, Schema, Status, UploadedFile

from plinto_core.files import safe_name
from plinto_core.policy.policy import Policy, policy_from_json
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule
from plinto_core.policy.ticket import Ticket, ticket_from_json
from plinto_core.policy.words import catches_in_words, does_in_words
from plinto_server.accounts.roles import may, person_of
from plinto_server.described import file_of
from plinto_server.files.uploads import part_of_upload
from plinto_server.intake.names import clean_name
from plinto_server.jobs.api import RunOut
from plinto_server.jobs.models import Run
from plinto_server.policies import comparisons, documents, outputs, readings, sending, tickets
from plinto_server.policies.facts import DocumentFacts
from plinto_server.policies.models import Document, Output
from plinto_server.records import history

router = Router(tags=["policies"])


class RowWords(Schema):
    """A row in words: what it catches, and what it does."""

    catches: str
    does: str


class OutputIn(Schema):
    """An output; `condition` is a slug, or empty where everything goes into an RGB space."""

    name: str = Field(min_length=1, max_length=80)
    condition: str = Field("", max_length=80)
    policy: Policy
    rule: DeliveryRule
    ticket: Ticket = Ticket()
    notes: str = Field("", max_length=2000)


class OutputChange(OutputIn):
    """A changed output, and the version that was looked at."""

    version: int = Field(ge=0, le=2**31)


class VerdictOut(Schema):
    """What follows from a ticket: a word and its sentence."""

    verdict: str
    said: str


class OutputOut(OutputIn):
    """An output as it is, its rows in words beside them; `to_look_at` is what has changed around it since."""

    id: int
    condition_name: str
    version: int
    words: list[RowWords]
    verdicts: list[VerdictOut]
    ticket_right: bool
    reads_mirrored: bool
    to_look_at: list[str]


class ReadyMade(Schema):
    """A policy to start from."""

    policy: Policy
    words: list[RowWords]


class FrameOut(Schema):
    """What is shown of `pages` pages one after the other: left, bottom, right, top in points; degrees clockwise."""

    pages: int
    box: list[float]
    turned: int


class DocumentOut(Schema):
    """A document on the shelf; `facts` is what inspecting it said."""

    id: int
    name: str
    bytes: int
    pages: int
    taken_in_at: datetime
    facts: DocumentFacts
    frames: list[FrameOut]


class ArrivedDocument(Schema):
    """A document that came, and what to say of it."""

    document: DocumentOut
    said: str


class RecordOut(Schema):
    """One kind of decision on one page; boxes are left, bottom, right, top in points; `lab` what prints, if known."""

    page: int
    object: str
    found: str
    row: int
    done: str
    written: str
    why: str
    source: str
    intent: str
    times: int
    delta_e: float | None
    lab: list[float]
    boxes: list[list[float]]


class RowCount(Schema):
    """What fell into a row."""

    row: int
    objects: int
    pages: int


class DecisionsOut(Schema):
    """What an output would do with a document; `more` records are not told here."""

    refused: bool
    refusals: list[str]
    notes: list[str]
    decisions: dict[str, int]
    objects: int
    pages: int
    rows: list[RowCount]
    records: list[RecordOut]
    more: int
    drift: float | None


class ReadingOut(Schema):
    """A large document that is being read for an output: whether somebody has asked for it, and how far it is, 0…1."""

    asked: bool
    run_id: int | None
    progress: float


class PageLook(Schema):
    """How a page is looked at; `left`, `top`, `width`, `height` in pixels ask for a part of it."""

    look: documents.Look = "came"
    output: int = 0
    plate: str = Field("", max_length=80)
    ppi: float = Field(72, ge=9, le=1200)
    left: int = Field(0, ge=0, le=2**20)
    top: int = Field(0, ge=0, le=2**20)
    width: int = Field(0, ge=0, le=4096)
    height: int = Field(0, ge=0, le=4096)


class InkOut(Schema):
    """An ink of a page, and the share of the page that it covers."""

    name: str
    mean_percent: float


class PageInks(Schema):
    """Inks of a page; the most on one spot, at points from its left and top; what was no ink and had to be guessed."""

    inks: list[InkOut]
    largest_percent: float
    at: list[float]
    limit_percent: float | None
    guessed: list[str]


class Differing(Schema):
    """One kind of color on one page that two outputs treat differently."""

    page: int
    object: str
    found: str
    first: str
    second: str
    times: int
    delta_e: float | None
    boxes: list[list[float]]


class SentBefore(Schema):
    """A document, or artwork written on the Bench for a condition, and the run that last sent it."""

    document_id: int | None = None
    artwork_id: int | None = None
    condition: str = ""
    name: str
    run_id: int
    sent_at: datetime


class Compared(Schema):
    """Two outputs on one document; the pairs are of the first and of the second."""

    policies: list[str]
    same: int
    differing: list[Differing]
    more: int
    counts: list[dict[str, int]]
    refused: list[bool]
    drift: list[float | None]


class Way(Schema):
    """How a driver may be set."""

    name: str
    said: str


class Printer(Schema):
    """A device of the house that can print a strip."""

    slug: str
    name: str


class CheckStrip(Schema):
    """What a check strip needs here: printers of the house, and how their drivers may be set."""

    patches: int
    printers: list[Printer]
    ways: list[Way]


class StripPrint(Schema):
    """A strip to print and measure: on which device, and how its driver is set."""

    device: str = Field(max_length=80)
    way: str = Field(max_length=200)


class RankedOut(Schema):
    """A way of setting a device: its share of likelihood 0…1, and the mean ΔE00 that it leaves."""

    name: str
    said: str
    likelihood: float
    delta_e: float


class StripRead(Schema):
    """What a measured strip says; `cause` is empty where it cannot tell."""

    cause: str
    said: str
    ranked: list[RankedOut]


class SendIn(Schema):
    """Outputs that a document is sent through, each as a run of its own."""

    outputs: list[int] = Field(min_length=1, max_length=50)


def _words(policy: Policy) -> list[dict[str, str]]:
    return [{"catches": catches_in_words(row.catches), "does": does_in_words(row.does)} for row in policy.rows]


def _out(found: Output, versions: dict[str, int] | None = None) -> dict[str, Any]:
    known = history.versions_of(outputs.OUTPUT, [str(found.id)]) if versions is None else versions
    policy, ticket = policy_from_json(found.policy), ticket_from_json(found.ticket)
    return {
        "id": found.id, "name": found.name, "condition": found.condition.slug if found.condition else "",
        "condition_name": found.condition.name if found.condition else policy.into, "policy": policy,
        "rule": found.rule, "notes": found.notes, "version": known.get(str(found.id), 0), "words": _words(policy),
        "ticket": ticket, "verdicts": [{"verdict": word, "said": said} for word, said in ticket.verdicts],
        "ticket_right": ticket.is_right, "reads_mirrored": ticket.reads_mirrored,
        "to_look_at": outputs.to_look_at(found),
    }  # fmt: skip


@router.get("/ready", response=list[ReadyMade])
def ready_made(request: HttpRequest) -> list[dict[str, Any]]:
    """Policies to start from."""
    return [{"policy": policy, "words": _words(policy)} for policy in READY_MADE.values()]


@router.get("/outputs", response=list[OutputOut])
def list_outputs(request: HttpRequest) -> list[dict[str, Any]]:
    """All outputs, in their order."""
    found = list(Output.objects.select_related("condition"))
    versions = history.versions_of(outputs.OUTPUT, [str(each.id) for each in found])
    return [_out(each, versions) for each in found]


@router.post("/outputs", response={201: OutputOut}, auth=may("house"))
def make_output(request: HttpRequest, given: OutputIn) -> Status[dict[str, Any]]:
    """Make an output."""
    return Status(201, _out(outputs.make(_plain(given), person_of(request))))


@router.put("/outputs/{output_id}", response=OutputOut, auth=may("house"))
def change_output(request: HttpRequest, output_id: int, given: OutputChange) -> dict[str, Any]:
    """Change an output; 409 when somebody else changed it first."""
    return _out(outputs.change(output_id, _plain(given), given.version, person_of(request)))


@router.delete("/outputs/{output_id}", response={204: None}, auth=may("house"))
def remove_output(request: HttpRequest, output_id: int) -> Status[None]:
    """Remove an output; what it made stays."""
    outputs.remove(output_id, person_of(request))
    return Status(204, None)


def _plain(given: OutputIn) -> dict[str, Any]:
    return {
        "name": given.name, "condition": given.condition, "policy": given.policy.to_json(), "rule": given.rule.to_json(),
        "ticket": given.ticket.to_json(), "notes": given.notes,
    }  # fmt: skip


@router.post("/outputs/{output_id}/looked-at", response=OutputOut, auth=may("house"))
def looked_at(request: HttpRequest, output_id: int) -> dict[str, Any]:
    """Say that the output was looked at with its condition as it is now."""
    return _out(outputs.looked_at(output_id))


@router.get("/outputs/{output_id}/sent-before", response=list[SentBefore])
def sent_before(request: HttpRequest, output_id: int) -> list[dict[str, Any]]:
    """What was last sent through this output, or written by its rule, before its policy, rule or condition changed."""
    return sending.sent_before(outputs.by_id(output_id))


@router.get("/outputs/{output_id}/policy", openapi_extra=file_of("application/json"))
def export_policy(request: HttpRequest, output_id: int) -> JsonResponse:
    """The policy as one file, its profiles inside."""
    found = outputs.by_id(output_id)
    name = safe_name(f"{found.name} policy", "policy")
    return JsonResponse(
        outputs.export(found), json_dumps_params={"indent": 2, "ensure_ascii": False},
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}.json"},
    )  # fmt: skip


@router.post("/outputs/{output_id}/policy", response=OutputOut, auth=may("house"))
def import_policy(request: HttpRequest, output_id: int, version: int, file: File[UploadedFile]) -> dict[str, Any]:
    """Put the policy of an exported file in place of this one, which stays in the history."""
    name = clean_name(file.name or "", "policy.json")
    path = part_of_upload(file).path
    return _out(outputs.import_policy(output_id, path, name, version, person_of(request)))


@router.get("/outputs/{output_id}/strip", response=CheckStrip)
def strip(request: HttpRequest, output_id: int) -> dict[str, Any]:
    """The check strip of an output, and what can print it here."""
    found = outputs.by_id(output_id)
    return {
        "patches": len(tickets.strip(found)), "ways": tickets.ways(found),
        "printers": [{"slug": each.slug, "name": each.name} for each in tickets.printers(found)],
    }  # fmt: skip


@router.get("/outputs/{output_id}/strip.{kind}", openapi_extra=file_of("application/pdf", "text/plain"))
def strip_file(request: HttpRequest, output_id: int, kind: Literal["pdf", "txt"]) -> HttpResponse:
    """The strip as a page to print (pdf), or its R, G, B as CGATS (txt)."""
    found = outputs.by_id(output_id)
    content = tickets.strip_pdf(found) if kind == "pdf" else tickets.strip_text(found).encode()
    name = safe_name(f"{found.name} check strip", "strip")
    return HttpResponse(
        content, content_type="application/pdf" if kind == "pdf" else "text/plain; charset=utf-8",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}.{kind}"},
    )  # fmt: skip


@router.post("/outputs/{output_id}/strip/read", response=StripRead)
def read_strip(request: HttpRequest, output_id: int, file: File[UploadedFile]) -> dict[str, Any]:
    """How the device was set that printed this measured strip."""
    return tickets.told(tickets.read(outputs.by_id(output_id), part_of_upload(file), file.name or ""))


@router.post("/outputs/{output_id}/strip/print", response=StripRead)
def print_strip(request: HttpRequest, output_id: int, given: StripPrint) -> dict[str, Any]:
    """Print the strip on a device of the house, measure it, and say how the device is set."""
    seed = int(datetime.now(UTC).timestamp() * 1000) % 100_000
    return tickets.told(tickets.print_and_read(outputs.by_id(output_id), given.device, given.way, seed))


@router.get("/documents", response=list[DocumentOut])
def list_documents(request: HttpRequest) -> list[Document]:
    """All documents, by name."""
    return list(Document.objects.all())


@router.post("/documents", response={201: ArrivedDocument})
def take_in(request: HttpRequest, file: File[UploadedFile]) -> Status[dict[str, Any]]:
    """Upload a PDF; 422 says why it cannot be read in full, and nothing of it is kept."""
    found, said = documents.take_in(part_of_upload(file), file.name or "", person_of(request))
    return Status(201, {"document": found, "said": said})


@router.delete("/documents/{document_id}", response={204: None})
def remove_document(request: HttpRequest, document_id: int) -> Status[None]:
    """Take a document off the shelf."""
    documents.remove(documents.by_id(document_id), person_of(request))
    return Status(204, None)


@router.get("/documents/{document_id}/decisions", response={200: DecisionsOut, 202: ReadingOut})
def decisions(request: HttpRequest, document_id: int, output: int) -> Status[Any]:
    """What an output would do with a document, color by color, refused first; 202 while a large one is being read."""
    return _told_or_read(readings.found(documents.by_id(document_id), outputs.by_id(output)))


@router.get("/documents/{document_id}/decisions/{page}", response=list[RecordOut])
def page_decisions(request: HttpRequest, document_id: int, page: int, output: int) -> list[dict[str, Any]]:
    """What an output would do with one page, whatever was left out of the whole."""
    return readings.decide_page(documents.by_id(document_id), outputs.by_id(output), page)


def _told_or_read(told: dict[str, Any] | Run | None) -> Status[Any]:
    if told is None:
        return Status(202, {"asked": False, "run_id": None, "progress": 0.0})
    if isinstance(told, Run):
        return Status(202, {"asked": True, "run_id": told.id, "progress": told.progress})
    return Status(200, told)


@router.post("/documents/{document_id}/decisions", response={202: RunOut})
def ask_decisions(request: HttpRequest, document_id: int, output: int) -> Status[Run]:
    """Have a large document read for an output."""
    return Status(202, readings.ask(documents.by_id(document_id), outputs.by_id(output), person_of(request)))


def _both(one: int, other: int, version: int) -> tuple[Output, Output]:
    second = outputs.by_id(other)
    return outputs.by_id(one), outputs.as_of(second, version) if version else second


@router.get("/documents/{document_id}/compare", response={200: Compared, 202: ReadingOut})
def compare(request: HttpRequest, document_id: int, one: int, other: int, version: int = 0) -> Status[Any]:
    """What two outputs make of a document, where they differ; `version` is the other's, 0 as it is now. 202 while a large
    document is being compared."""
    return _told_or_read(comparisons.found(documents.by_id(document_id), *_both(one, other, version)))


@router.post("/documents/{document_id}/compare", response={202: RunOut})
def ask_comparison(request: HttpRequest, document_id: int, one: int, other: int, version: int = 0) -> Status[Run]:
    """Have a large document compared."""
    sides = _both(one, other, version)
    return Status(202, comparisons.ask(documents.by_id(document_id), *sides, person_of(request)))


@router.get("/documents/{document_id}/pages/{page}/inks", response=PageInks)
def page_inks(request: HttpRequest, document_id: int, page: int, output: int) -> dict[str, Any]:
    """Inks of a page (from 1) as an output has it printed, spots included."""
    return documents.page_inks(documents.by_id(document_id), page - 1, outputs.by_id(output))


@router.get("/documents/{document_id}/pages/{page}", openapi_extra=file_of("image/png"))
def page_picture(request: HttpRequest, document_id: int, page: int, given: Query[PageLook]) -> HttpResponse:
    """A page (from 1) as PNG."""
    output = outputs.by_id(given.output) if given.output else None
    part = (given.left, given.top, given.width, given.height) if given.width and given.height else ()
    wanted = documents.Wanted(page - 1, given.ppi, given.look, given.plate if given.look == "plate" else "", part)
    made = documents.page_picture(documents.by_id(document_id), wanted, output)
    return HttpResponse(made, content_type="image/png", headers={"Cache-Control": "private, max-age=60"})


@router.post("/documents/{document_id}/send", response={202: list[RunOut]})
def send(request: HttpRequest, document_id: int, given: SendIn) -> Status[list[Run]]:
    """Send a document through outputs: a run for each."""
    document, user = documents.by_id(document_id), person_of(request)
    chosen = [outputs.by_id(output_id) for output_id in dict.fromkeys(given.outputs)]
    return Status(202, [sending.send(document, output, user) for output in chosen])
