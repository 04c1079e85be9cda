"""The line on a Redis server, through django-tasks-rq: for workers on several machines.

RQ knows no numbers for priorities, so each queue has a second one behind it, for what batches and folders hand out;
within those two, first come is first served.
"""

from collections.abc import Sequence
from datetime import datetime

from django.core.management import call_command
from django_tasks import task_backends
from django_tasks.exceptions import TaskResultDoesNotExist
from redis.exceptions import RedisError

from plinto_server.jobs.brokers.protocol import SILENCE
from plinto_server.machines import BEHIND


class OnRedis:
    """See `Broker`."""

    unreachable: tuple[type[Exception], ...] = (RedisError,)

    def hand_over(self, run_id: int, queue: str, priority: int) -> str:
        """Below zero goes behind."""
        from plinto_server.jobs.tasks import carry_out_run

        name = f"{queue}{BEHIND}" if priority < 0 else queue
        return str(carry_out_run.using(queue_name=name).enqueue(run_id).id)

    def has(self, task_id: str, now: datetime) -> bool:
        """By what Redis says of the job; a server that was emptied knows none."""
        try:
            found = task_backends["default"].get_result(task_id)
        except TaskResultDoesNotExist:
            return False
        started = found.started_at
        return found.status == "READY" or (
            found.status == "RUNNING" and started is not None and started > now - SILENCE
        )

    def forget_ended(self, now: datetime) -> None:
        """Redis lets go by itself."""

    def work(self, queues: Sequence[str], verbosity: int) -> None:
        """In this very process: what it has warm (kernels, tables) stays warm from run to run."""
        call_command(
            "rqworker", *queues, *(f"{name}{BEHIND}" for name in queues), worker_class="rq.worker.SimpleWorker",
            job_class="django_tasks_rq.Job", verbosity=verbosity,
        )  # fmt: skip
