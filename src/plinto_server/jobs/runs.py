"""Runs by themselves: found, listed, cancelled, and whoever waits for one told of its end."""

from datetime import UTC, datetime

from django.db import transaction
from django.db.models import QuerySet
from django.db.models.fields.json import KT

from plinto_server.errors import ConflictError, MissingError
from plinto_server.jobs.kinds import kind_of, told_of_end
from plinto_server.jobs.models import Run


def run_by_id(run_id: int) -> Run:
    """Raises `MissingError`."""
    found = Run.objects.filter(id=run_id).first()
    if found is None:
        raise MissingError("This run is not here any more. Go back to the list of runs.")
    return found


def listed() -> "QuerySet[Run]":
    """Runs without their sheets and recipes, with the two figures of a sheet that lists show; pieces of one are no runs to
    people."""
    return (
        Run.objects.filter(piece_of=None).select_related("condition", "asked_by")
        .defer("run_sheet", "recipe")
        .annotate(
            largest=KT("run_sheet__largest_coverage_percent"),
            limit=KT("run_sheet__total_ink_limit_percent"),
            format=KT("recipe__deliver__format"),
        )
    )  # fmt: skip


def tell(run: Run) -> None:
    """Whoever waits for a run that came to nothing hears of it; its files are let go."""
    kind_of(run).ended(run)
    run.refresh_from_db()
    run.save(update_fields=["changed_at"])
    told_of_end(run)


@transaction.atomic
def cancel(run: Run) -> Run:
    """Stop a run that waits or works. Raises `ConflictError` for one that has ended."""
    now = datetime.now(UTC)
    if Run.objects.filter(id=run.id, state=Run.State.QUEUED).update(
        state=Run.State.CANCELLED,
        cancel_asked=True,
        ended_at=now,
        changed_at=now,
        message="Cancelled before it began.",
    ):
        tell(run_by_id(run.id))
        return run_by_id(run.id)
    Run.objects.filter(piece_of=run, state=Run.State.RUNNING).update(cancel_asked=True)
    if not Run.objects.filter(id=run.id, state=Run.State.RUNNING).update(cancel_asked=True, changed_at=now):
        raise ConflictError(f"'{run.file_name}' has ended already; there is nothing left to cancel.")
    return run_by_id(run.id)
