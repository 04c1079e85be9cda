"""Making the file of a finished run once more, from what was pinned when it was asked for."""

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.deliver.run_sheet import differing_versions
from plinto_server.errors import ConflictError
from plinto_server.jobs.kinds import kind_of
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue


@transaction.atomic
def again(run: Run, user: User | None) -> Run:
    """Queue the making of a finished run's file once more. Raises `PlintoError` naming what is missing."""
    check = kind_of(run).check_again
    if check is None or run.state != Run.State.DONE or run.run_sheet is None:
        raise ConflictError("Only a file that was made can be made again.")
    check(run)
    made = Run.objects.create(
        kind=run.kind, source_sha256=run.source_sha256, artwork=run.artwork, condition=run.condition,
        artwork_name=run.artwork_name, condition_name=run.condition_name, artwork_version=run.artwork_version,
        recipe=run.recipe, pinned=run.pinned, delivery_rule=run.delivery_rule, output_id=run.output_id,
        file_name=run.file_name, again_of=run, asked_by=user,
    )  # fmt: skip
    return enqueue(made)


def compared(run: Run, sha256: str) -> str:
    """Whether a file that was made again is the same to the bit, and if not, which versions differ; '' for a first one."""
    before = run.again_of.run_sheet if run.again_of else None
    if before is None:
        return ""
    if before["written"]["sha256"] == sha256:
        return "The same file to the last bit."
    differing = differing_versions(before)
    why = (
        f": made with {', '.join(differing)}"
        if differing
        else "; every version is the same, so this is a fault of ours"
    )
    return f"Not the same file{why}."
