"""What the background worker is handed."""

from django_tasks import task

from plinto_server.runs import service


@task()
def carry_out_run(run_id: int) -> None:
    """Make the file of run `run_id`."""
    service.carry_out(run_id)
