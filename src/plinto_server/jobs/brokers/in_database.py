"""The line in Plinto's own database, through django-tasks-db: all that one machine needs."""

from collections.abc import Sequence
from datetime import datetime, timedelta

from django.core.management import call_command
from django_tasks_db.models import DBTaskResult

from plinto_server.files import database
from plinto_server.jobs.brokers.protocol import SILENCE

#: How long the rows of what has ended are kept.
_KEEP = timedelta(days=1)


class InDatabase:
    """See `Broker`."""

    unreachable: tuple[type[Exception], ...] = database.UNUSABLE

    def hand_over(self, run_id: int, queue: str, priority: int) -> str:
        """Each priority has its own place."""
        from plinto_server.jobs.tasks import carry_out_run

        return str(carry_out_run.using(queue_name=queue, priority=priority).enqueue(run_id).id)

    def has(self, task_id: str, now: datetime) -> bool:
        """By the row of the task."""
        task = DBTaskResult.objects.filter(id=task_id).first()
        if task is None:
            return False
        started = task.status == "RUNNING" and task.started_at is not None
        return task.status == "READY" or (started and task.started_at > now - SILENCE)

    def forget_ended(self, now: datetime) -> None:
        """A day after they ended, a week after they began."""
        DBTaskResult.objects.filter(finished_at__lt=now - _KEEP).delete()
        DBTaskResult.objects.filter(status="RUNNING", started_at__lt=now - 7 * _KEEP).delete()

    def work(self, queues: Sequence[str], verbosity: int) -> None:
        """The worker that django-tasks-db ships."""
        call_command("db_worker", queue_name=",".join(queues), interval=0.2, startup_delay=False, verbosity=verbosity)
