"""Outputs, their policies and delivery rules, and the documents that are sent through them."""

from datetime import datetime
from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from ninja import Field, File, Query, Router, Schema, Status, UploadedFile

from plinto_core.policy.policy import Policy, policy_from_json
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule
from plinto_core.policy.words import catches_in_words, does_in_words
from plinto_server.accounts.roles import may, person_of
from plinto_server.files.uploads import part_of_upload
from plinto_server.jobs.api import RunOut
from plinto_server.jobs.models import Run
from plinto_server.policies import documents, outputs, sending
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
    notes: str = Field("", max_length=2000)


class OutputChange(OutputIn):
    """A changed output, and the version that was looked at."""

    version: int = Field(ge=0, le=2**31)


class OutputOut(OutputIn):
    """An output as it is, its rows in words beside them."""

    id: int
    condition_name: str
    version: int
    words: list[RowWords]


class ReadyMade(Schema):
    """A policy to start from."""

    policy: Policy
    words: list[RowWords]


class DocumentOut(Schema):
    """A document on the shelf; `facts` is what inspecting it said."""

    id: int
    name: str
    bytes: int
    pages: int
    taken_in_at: datetime
    facts: dict[str, Any]


class ArrivedDocument(Schema):
    """A document that came, and what to say of it."""

    document: DocumentOut
    said: str


class RecordOut(Schema):
    """One kind of decision on one page; boxes are left, bottom, right, top in points."""

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


class PageLook(Schema):
    """How a page is looked at."""

    look: Literal["came", "prints", "plate"] = "came"
    output: int = 0
    plate: str = Field("", max_length=80)
    ppi: float = Field(72, ge=9, le=600)


class SendIn(Schema):
    """Outputs that a document is sent through, each as a run of its own."""

    outputs: list[int] = Field(min_length=1, max_length=50)


def _words(policy: Policy) -> list[dict[str, str]]:
    return [{"catches": catches_in_words(row.catches), "does": does_in_words(row.does)} for row in policy.rows]


def _out(found: Output, versions: dict[str, int] | None = None) -> dict[str, Any]:
    known = history.versions_of(outputs.OUTPUT, [str(found.id)]) if versions is None else versions
    policy = policy_from_json(found.policy)
    return {
        "id": found.id, "name": found.name, "condition": found.condition.slug if found.condition else "",
        "condition_name": found.condition.name if found.condition else policy.into, "policy": policy,
        "rule": found.rule, "notes": found.notes, "version": known.get(str(found.id), 0), "words": _words(policy),
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
        "notes": given.notes,
    }  # fmt: skip


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
    documents.remove(documents.by_id(document_id))
    return Status(204, None)


@router.get("/documents/{document_id}/decisions", response=DecisionsOut)
def decisions(request: HttpRequest, document_id: int, output: int) -> dict[str, Any]:
    """What an output would do with a document, color by color, refused first."""
    return documents.decisions(documents.by_id(document_id), outputs.by_id(output))


@router.get("/documents/{document_id}/pages/{page}")
def page_picture(request: HttpRequest, document_id: int, page: int, given: Query[PageLook]) -> HttpResponse:
    """A page (from 1) as PNG."""
    output = outputs.by_id(given.output) if given.output else None
    made = documents.page_picture(
        documents.by_id(document_id), page - 1, given.ppi, given.look, output, given.plate
    )  # fmt: skip
    return HttpResponse(made, content_type="image/png", headers={"Cache-Control": "private, max-age=60"})


@router.post("/documents/{document_id}/send", response={202: list[RunOut]})
def send(request: HttpRequest, document_id: int, given: SendIn) -> Status[list[Run]]:
    """Send a document through outputs: a run for each."""
    document, user = documents.by_id(document_id), person_of(request)
    chosen = [outputs.by_id(output_id) for output_id in dict.fromkeys(given.outputs)]
    return Status(202, [sending.send(document, output, user) for output in chosen])
