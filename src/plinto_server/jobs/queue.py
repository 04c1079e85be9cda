"""Queueing runs, and finding those that a worker or the queue has lost."""

import logging
from datetime import UTC, datetime, timedelta

from django.db import transaction
from django.db.models import Q

from plinto_server.files.processes import is_gone
from plinto_server.jobs.brokers import broker
from plinto_server.jobs.brokers.protocol import SILENCE
from plinto_server.jobs.kinds import queue_of
from plinto_server.jobs.models import Run
from plinto_server.jobs.runs import run_by_id, tell

#: A waiting run whose task nobody has any more is queued again after this.
LOST = timedelta(seconds=20)
MAX_ATTEMPTS = 3
logger = logging.getLogger("plinto.queue")


def enqueue(run: Run) -> Run:
    """Hand a run to the workers once the transaction is through."""

    def hand_over() -> None:
        line = broker()
        try:
            task = line.hand_over(run.id, queue_of(run), run.priority)
        except line.unreachable as error:
            # The run is there and waits: whoever looks for lost ones hands it over once the queue answers again.
            logger.warning("run %d waits for a queue that cannot be reached: %s", run.id, error)
            return
        Run.objects.filter(id=run.id).update(task_id=task, queued_at=datetime.now(UTC))

    Run.objects.filter(id=run.id).update(queued_at=datetime.now(UTC))
    transaction.on_commit(hand_over)
    return run


def recover() -> int:
    """Queue again what a dead worker or the queue itself has lost; give up after three attempts. Returns how many."""
    now = datetime.now(UTC)
    lost = [
        run
        for run in Run.objects.filter(state=Run.State.RUNNING)
        if run.heartbeat_at is None or abs(now - run.heartbeat_at) > SILENCE or is_gone(run.worker)
    ]
    count = sum(_again(run) for run in lost)
    # A time to come was written by a clock that has been set since then.
    lost_since = Q(queued_at__lt=now - LOST) | Q(queued_at__gt=now + LOST) | Q(queued_at=None)
    waiting = Run.objects.filter(state=Run.State.QUEUED).filter(lost_since)
    for run in waiting:
        if not (run.task_id and broker().has(run.task_id, now)):
            count += 1
            enqueue(run)
    broker().forget_ended(now)
    return count


@transaction.atomic
def _again(run: Run) -> bool:
    now = datetime.now(UTC)
    still = Run.objects.filter(
        id=run.id, state=Run.State.RUNNING, attempts=run.attempts, heartbeat_at=run.heartbeat_at
    )
    if run.attempts < MAX_ATTEMPTS:
        if still.update(state=Run.State.QUEUED, progress=0.0, changed_at=now):
            enqueue(run)
            return True
        return False
    message = f"The worker stopped {MAX_ATTEMPTS} times on this file. Nothing was kept; ask for it again."
    if still.update(state=Run.State.FAILED, ended_at=now, changed_at=now, message=message):
        tell(run_by_id(run.id))
        return True
    return False
