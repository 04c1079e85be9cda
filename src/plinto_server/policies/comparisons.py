"""Two outputs on one document, where they differ: at once for a small one, by a job with progress for a large one."""

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
from plinto_server.policies import sealed
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import Prepared, prepared
from plinto_server.policies.readings import MOST_RECORDS, asked_already, is_large, told_by
from plinto_server.warm import shelves

KIND = "comparison"
Plain = dict[str, Any]


def found(document: Document, one: Output, other: Output) -> Plain | Run | None:
    """What differs; the job that works it out; None where nobody has asked yet. Raises `PlintoError`."""
    sides = prepared(one), prepared(other)
    key = ("compared", document.sha256, sides[0].key, sides[1].key)
    if not is_large(document):
        told: Plain = shelves.looks.get(key, lambda: _compare(document, *sides))
        return told
    return told_by(_runs(document, one, other), _key(sides), key)


@transaction.atomic
def ask(document: Document, one: Output, other: Output, user: User | None) -> Run:
    """Have it worked out; comparisons with what the two were earlier make room."""
    sides = prepared(one), prepared(other)
    if (asked := asked_already(_runs(document, one, other), _key(sides))) is not None:
        return asked
    pinned = {digest: digest for side in sides for digest in side.profiles}
    for at, output in enumerate((one, other)):
        if output.condition is not None:
            pinned[f"condition {at}"] = output.condition.profile_sha256
    run = Run.objects.create(
        kind=KIND, source_sha256=document.sha256, artwork_name=document.name, condition=one.condition,
        condition_name=one.name, asked_by=user, pinned=pinned,
        file_name=f"{document.name}, {one.name} beside {other.name}"[:255],
        recipe={
            "key": _key(sides), "about": _about(one, other), "document_id": document.id,
            "sides": [
                {"policy": side.policy.to_json(), "rule": side.rule.to_json(), "limit": side.limit} for side in sides
            ],
        },
    )  # fmt: skip
    return enqueue(run)


def make(run: Run, attempt: Attempt) -> Done:
    """Compare, with progress."""
    document = Document.objects.filter(sha256=run.source_sha256).first()
    if document is None:
        raise DocumentError(f"'{run.artwork_name}' was removed meanwhile.")
    one, other = (_pinned_side(run, at) for at in (0, 1))
    limits = sealed.limits_of(document.bytes, document.pages, times=2)
    told = _compare(document, one, other, limits, progress=attempt.progress, cancelled=attempt.cancelled)
    out = attempt.folder / "comparison.json"
    out.write_text(json.dumps(told))
    differing = len(told["differing"]) + told["more"]
    return Done(store.part_of(out), message=f"{differing} kinds of color differ.")


def _compare(
    document: Document, one: Prepared, other: Prepared, limits: Limits = sealed.AT_ONCE, **more: Any
) -> Plain:
    sides = {"one": one.plain, "other": other.plain}
    told = sealed.told("compared", document.sha256, document.name, sides, limits, **more)
    told["more"] = max(0, len(told["differing"]) - MOST_RECORDS)
    told["differing"] = told["differing"][:MOST_RECORDS]
    return told


def _pinned_side(run: Run, at: int) -> Prepared:
    given = run.recipe["sides"][at]
    digest = run.pinned.get(f"condition {at}")
    profiles = {key: house.profile_by_choice(key) for key in run.pinned if not key.startswith("condition")}
    return Prepared(
        policy_from_json(given["policy"]), rule_from_json(given["rule"]), shelves.condition(digest) if digest else None,
        given["limit"], profiles,
    )  # fmt: skip


def _runs(document: Document, one: Output, other: Output) -> "QuerySet[Run]":
    return Run.objects.filter(kind=KIND, source_sha256=document.sha256, recipe__about=_about(one, other))


def _about(one: Output, other: Output) -> str:
    return f"{one.id} {other.id}"


def _key(sides: tuple[Prepared, Prepared]) -> str:
    return f"{sides[0].key} {sides[1].key}"


COMPARING = Kind(KIND, make, OPENING)
