"""A document sent through an output, as a job: rewritten and written whole, or refused with every reason."""

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import PolicyError
from plinto_core.files import safe_name
from plinto_core.pdf.apply import apply
from plinto_core.pdf.report import report
from plinto_core.policy.conversion import destination_of
from plinto_core.policy.policy import policy_from_json
from plinto_core.policy.rule import rule_from_json
from plinto_server.files import store
from plinto_server.house import service as house
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import prepared
from plinto_server.warm import shelves

KIND = "document"
#: Decisions that a run sheet keeps one by one.
_MOST_TOLD = 2000


@transaction.atomic
def send(document: Document, output: Output, user: User | None) -> Run:
    """Queue a document for an output, with everything pinned as it is now. Raises `PlintoError` where it cannot be."""
    ready = prepared(output)
    stem = safe_name(f"{document.name.removesuffix('.pdf')} {output.name}", "document")
    pinned = {digest: digest for digest in ready.profiles}
    if output.condition is not None:
        pinned["condition"] = output.condition.profile_sha256
    run = Run.objects.create(
        kind=KIND, source_sha256=document.sha256, artwork_name=document.name, condition=output.condition,
        condition_name=output.condition.name if output.condition else output.name, asked_by=user,
        file_name=f"{stem}.pdf", pinned=pinned,
        recipe={
            "policy": ready.policy.to_json(), "rule": ready.rule.to_json(), "output": output.name, "limit": ready.limit,
        },
    )  # fmt: skip
    return enqueue(run)


def make(run: Run, attempt: Attempt) -> Done:
    """Rewrite the document."""
    policy, rule = policy_from_json(run.recipe["policy"]), rule_from_json(run.recipe["rule"])
    limit = run.recipe["limit"]
    condition = shelves.condition(run.pinned["condition"]) if "condition" in run.pinned else None
    profiles = {digest: house.profile_by_choice(digest) for key, digest in run.pinned.items() if key != "condition"}
    out = attempt.folder / "document.pdf"
    done = apply(
        store.path_of(run.source_sha256), out, policy, rule, condition, name=run.artwork_name, limit=limit,
        profiles=profiles, progress=attempt.progress, stopped=attempt.cancelled,
    )  # fmt: skip
    if done.refused:
        reasons = "; ".join(done.refusals[:5])
        more = f"; and {len(done.refusals) - 5} more" if len(done.refusals) > 5 else ""
        raise PolicyError(f"Refused by '{policy.name}': {reasons}{more}")
    told = report(done, policy, destination_of(policy.into, condition, limit).letters)
    told["records"] = told["records"][:_MOST_TOLD]
    sheet = {**told, "output": run.recipe["output"], "rule": run.recipe["rule"], "total_ink_limit_percent": limit}
    counts = ", ".join(f"{count} {word}" for word, count in sorted(done.counts.items()))
    return Done(store.part_of(out), sheet, message=f"{done.pages} pages: {counts}.")


SENDING = Kind(KIND, make)
