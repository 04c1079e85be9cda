"""Letting go of files of runs after as many days as the house's rules say; the run, its sheet and what it was made of stay,
so that each can be made again."""

import time
from datetime import UTC, datetime, timedelta

from django.db import transaction

from plinto_server.house.models import RuleSet
from plinto_server.house.service import rules_of
from plinto_server.jobs.models import Run

#: What a person downloads; profiles and what was read belong to their conditions and documents.
_KINDS = ("separation", "document")
_EVERY_SECONDS = 600.0
_AT_ONCE = 200
_looked_at = float("-inf")


def look() -> None:
    """As `let_go`, every ten minutes."""
    global _looked_at  # noqa: PLW0603 - one clock of this process
    if time.monotonic() - _looked_at > _EVERY_SECONDS:
        _looked_at = time.monotonic()
        let_go()


def let_go(now: datetime | None = None) -> int:
    """Let go of the files of runs that ended longer ago than the rules in use keep them. Returns how many."""
    in_use = RuleSet.objects.filter(in_use=True).first()
    days = rules_of(in_use).results_days if in_use else None
    if in_use is None or days is None:
        return 0
    ended = Run.objects.filter(
        state=Run.State.DONE, kind__in=_KINDS, ended_at__lt=(now or datetime.now(UTC)) - timedelta(days=days)
    )
    ids = list(ended.exclude(result_sha256="").order_by("id").values_list("id", flat=True)[:_AT_ONCE])
    for run_id in ids:
        with transaction.atomic():
            run = Run.objects.get(id=run_id)
            run.result_sha256, run.result_bytes = "", 0
            run.message = (
                f"Removed after {days} days, as the house rules '{in_use.name}' say. Make it again from its run."
            )
            # Saved as a row, so that what it held is let go with it.
            run.save(update_fields=["result_sha256", "result_bytes", "message", "changed_at"])
    return len(ids)
