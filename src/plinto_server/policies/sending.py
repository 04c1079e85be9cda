"""A document sent through an output, as a job: rewritten and written whole, or refused with every reason."""

import io
import json
from typing import Any

import numpy as np
from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from PIL import Image

from plinto_core.deliver.run_sheet import versions_here
from plinto_core.files import safe_name
from plinto_core.pdf.draw import Pixels
from plinto_core.pdf.report import DONE, thumbnails_of
from plinto_core.sandbox.client import sandbox
from plinto_server.errors import MissingError
from plinto_server.files import store
from plinto_server.jobs.again import compared
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue
from plinto_server.policies import sealed
from plinto_server.policies.documents import Wanted, drawn
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import prepared
from plinto_server.policies.readings import pinned_output

KIND = "document"
#: Decisions that a run sheet keeps one by one.
_MOST_TOLD = 2000
#: The last runs of an output among which is looked for what was sent before a change.
_MOST_LOOKED_AT = 500


def file_name_of(document: Document, output: Output) -> str:
    """What a document is called behind an output."""
    stem = safe_name(f"{document.name.removesuffix('.pdf')} {output.name}", "document")
    return f"{stem}.pdf"


@transaction.atomic
def send(document: Document, output: Output, user: User | None, priority: int = 0) -> Run:
    """Queue a document for an output, with everything pinned as it is now. Raises `PlintoError` where it cannot be."""
    ready = prepared(output)
    pinned = {digest: digest for digest in ready.profiles}
    if output.condition is not None:
        pinned["condition"] = output.condition.profile_sha256
    run = Run.objects.create(
        kind=KIND, source_sha256=document.sha256, artwork_name=document.name, condition=output.condition,
        condition_name=output.condition.name if output.condition else output.name, asked_by=user,
        file_name=file_name_of(document, output), pinned=pinned, priority=priority,
        recipe={
            "policy": ready.policy.to_json(), "rule": ready.rule.to_json(), "output": output.name, "output_id": output.id,
            "limit": ready.limit, "key": ready.key,
        },
    )  # fmt: skip
    return enqueue(run)


def sent_before(output: Output) -> list[dict[str, Any]]:
    """What this output was last sent as it is not any more: documents of the shelf by another policy, rule, condition or
    limit, artwork written on the Bench by another delivery rule or profile. Raises `PolicyError`, `MissingError`."""
    now = prepared(output).key
    sent = Run.objects.filter(kind=KIND, state=Run.State.DONE, recipe__output_id=output.id)
    last: dict[str, Run] = {}
    for run in sent.only("id", "source_sha256", "recipe", "ended_at").order_by("-id")[:_MOST_LOOKED_AT]:
        last.setdefault(run.source_sha256, run)
    changed = {digest: run for digest, run in last.items() if run.recipe.get("key") != now}
    documents = [
        _sent(changed[document.sha256], document.name, document_id=document.id)
        for document in Document.objects.filter(sha256__in=changed)
    ]
    return documents + _written_before(output)


def _written_before(output: Output) -> list[dict[str, Any]]:
    """Artwork whose last page by this output's delivery rule had another one, or was made for another profile."""
    profile = output.condition.profile_sha256 if output.condition else ""
    written = Run.objects.filter(output_id=output.id, state=Run.State.DONE, artwork__isnull=False)
    last: dict[int | None, Run] = {}
    for run in written.select_related("condition").order_by("-id")[:_MOST_LOOKED_AT]:
        last.setdefault(run.artwork_id, run)
    return [
        _sent(run, run.artwork_name, artwork_id=run.artwork_id, condition=run.condition.slug if run.condition else "")
        for run in last.values()
        if run.delivery_rule != output.rule or run.pinned.get("condition") != profile
    ]


def _sent(run: Run, name: str, **of: Any) -> dict[str, Any]:
    return {"name": name, "run_id": run.id, "sent_at": run.ended_at} | of


def make(run: Run, attempt: Attempt) -> Done:
    """Rewrite the document."""
    ready, source = pinned_output(run), store.path_of(run.source_sha256)
    out, report = attempt.folder / "document.pdf", attempt.folder / "report.json"
    given = {
        "path": str(source), "name": run.artwork_name, "side": ready.plain, "cache": str(settings.CACHE_DIR),
        "out": str(out), "told": str(report),
    }  # fmt: skip
    document = Document.objects.filter(sha256=run.source_sha256).first()
    limits = sealed.limits_of(source.stat().st_size, document.pages if document else 0)
    done = sandbox.run("sent", given, run.artwork_name, limits, attempt.cancelled, attempt.progress)
    told = json.loads(report.read_bytes())
    told["records"] = told["records"][:_MOST_TOLD]
    part = store.part_of(out)

    def page_at(page: int, ppi: float) -> Pixels:
        png = drawn(source, page, Wanted(page, ppi), (255, 255, 255), run.artwork_name)
        return np.asarray(Image.open(io.BytesIO(png)).convert("RGB"))

    told["thumbnails"] = thumbnails_of(told["records"], page_at)
    sheet = {
        **told, "output": run.recipe["output"], "rule": run.recipe["rule"], "total_ink_limit_percent": ready.limit,
        "written": {"name": run.file_name, "bytes": part.bytes, "sha256": part.sha256}, "versions": versions_here(),
    }  # fmt: skip
    pages, counts = done["pages"], sorted(done["counts"].items())
    words = ", ".join(f"{count} {DONE[word]}" for word, count in counts)
    message = compared(run, part.sha256) or f"{pages} {'page' if pages == 1 else 'pages'}: {words}."
    return Done(part, sheet, message=message)


def check_again(run: Run) -> None:
    """Raises `MissingError` naming what a document would have to be made of, and is not here any more."""
    if not store.is_here(run.source_sha256):
        raise MissingError(f"The document '{run.artwork_name}' is not here any more. Add it, and send it again.")
    if any(not store.is_here(str(digest)) for digest in run.pinned.values()):
        raise MissingError(f"A profile that '{run.file_name}' was made with is not here any more. Send it anew.")


SENDING = Kind(KIND, make, check_again=check_again)
