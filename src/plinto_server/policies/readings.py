"""What an output would do with a large document, worked out by a job: kept as a file until the output changes."""

import json
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet

from plinto_core.errors import DocumentError
from plinto_core.policy.policy import policy_from_json
from plinto_core.policy.rule import rule_from_json
from plinto_core.sandbox.client import Limits
from plinto_server.files import store
from plinto_server.house import service as house
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import OPENING, Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue
from plinto_server.jobs.runs import cancel
from plinto_server.policies import sealed
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import Prepared, prepared
from plinto_server.warm import shelves

KIND = "reading"
#: Objects that are decided while somebody waits: about a second.
AT_ONCE = 4000
#: Kinds of decisions that are told to the screen; the report that is written has all of them.
MOST_RECORDS = 5000
Plain = dict[str, Any]


def decide(document: Document, ready: Prepared, limits: Limits = sealed.AT_ONCE, **more: Any) -> Plain:
    """What an output would do with a document, kind of color by kind of color, refused first. Raises `PlintoError`."""
    told = sealed.told("decided", document.sha256, document.name, {"side": ready.plain}, limits, **more)
    told["more"] = max(0, len(told["records"]) - MOST_RECORDS)
    told["records"] = told["records"][:MOST_RECORDS]
    return told


def decide_page(document: Document, output: Output, page: int) -> list[Plain]:
    """What an output would do with a page (from 1), all of it: of a large document not every page is told with the whole.
    Raises `PlintoError`."""
    if not 1 <= page <= document.pages:
        raise DocumentError(f"There is no page {page}; '{document.name}' has {document.pages}.")
    ready = prepared(output)

    def told() -> list[Plain]:
        given = {"side": ready.plain, "page": page - 1}
        found: list[Plain] = sealed.told("decided", document.sha256, document.name, given, sealed.AT_ONCE)["records"]
        return found

    records: list[Plain] = shelves.looks.get(("decisions of a page", document.sha256, ready.key, page), told)
    return records


def is_large(document: Document) -> bool:
    """Whether deciding takes longer than somebody waits."""
    return int(document.facts.get("objects", AT_ONCE + 1)) > AT_ONCE


def found(document: Document, output: Output) -> Plain | Run | None:
    """The decisions; the job that works them out; None where nobody has asked yet. Raises `DocumentError` if it failed."""
    ready = prepared(output)
    key = ("decisions", document.sha256, ready.key)
    if not is_large(document):
        told: Plain = shelves.looks.get(key, lambda: decide(document, ready))
        return told
    return told_by(_runs(document, output), ready.key, key)


def told_by(runs: "QuerySet[Run]", version: str, key: tuple[object, ...]) -> Plain | Run | None:
    """What a job worked out for a version of the outputs, kept in memory under `key`; the job while it is under way; None
    where there is none. Raises `DocumentError` if it failed."""
    run = runs.filter(recipe__key=version).exclude(state=Run.State.CANCELLED).first()
    if run is None or run.moving:
        return run
    if run.state == Run.State.FAILED:
        raise DocumentError(run.message)
    digest = run.result_sha256
    kept: Plain = shelves.looks.get(key, lambda: json.loads(store.path_of(digest).read_bytes()))
    return kept


def asked_already(runs: "QuerySet[Run]", version: str) -> Run | None:
    """The job that works it out for a version of the outputs, or has; those of earlier versions make room."""
    found = None
    for run in runs:
        if run.recipe["key"] == version and run.state in (Run.State.QUEUED, Run.State.RUNNING, Run.State.DONE):
            found = run
        elif run.moving:
            cancel(run)
        else:
            run.delete()
    return found


def _runs(document: Document, output: Output) -> "QuerySet[Run]":
    return Run.objects.filter(kind=KIND, source_sha256=document.sha256, recipe__output_id=output.id)


@transaction.atomic
def ask(document: Document, output: Output, user: User | None) -> Run:
    """Have the decisions worked out; those of an earlier version of the output make room."""
    ready = prepared(output)
    if (asked := asked_already(_runs(document, output), ready.key)) is not None:
        return asked
    pinned = {digest: digest for digest in ready.profiles}
    if output.condition is not None:
        pinned["condition"] = output.condition.profile_sha256
    run = Run.objects.create(
        kind=KIND, source_sha256=document.sha256, artwork_name=document.name, condition=output.condition,
        condition_name=output.name, asked_by=user, file_name=f"{document.name}, read for {output.name}", pinned=pinned,
        recipe={
            "key": ready.key, "output_id": output.id, "document_id": document.id, "policy": ready.policy.to_json(),
            "rule": ready.rule.to_json(), "limit": ready.limit,
        },
    )  # fmt: skip
    return enqueue(run)


def pinned_output(run: Run) -> Prepared:
    """Everything that a run of a document was asked for with."""
    policy, rule = policy_from_json(run.recipe["policy"]), rule_from_json(run.recipe["rule"])
    condition = shelves.condition(run.pinned["condition"]) if "condition" in run.pinned else None
    profiles = {digest: house.profile_by_choice(digest) for key, digest in run.pinned.items() if key != "condition"}
    return Prepared(policy, rule, condition, run.recipe["limit"], profiles, key=run.recipe.get("key", ""))


def make(run: Run, attempt: Attempt) -> Done:
    """Decide, with progress."""
    document = Document.objects.filter(sha256=run.source_sha256).first()
    if document is None:
        raise DocumentError(f"'{run.artwork_name}' was removed meanwhile.")
    limits = sealed.limits_of(document.bytes, document.pages)
    told = decide(document, pinned_output(run), limits, progress=attempt.progress, cancelled=attempt.cancelled)
    out = attempt.folder / "decisions.json"
    out.write_text(json.dumps(told))
    return Done(store.part_of(out), message=f"{told['pages']} pages, {told['objects']} objects.")


READING = Kind(KIND, make, OPENING)
