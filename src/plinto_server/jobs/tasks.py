"""What the background worker is handed."""

from django_tasks import task

from plinto_server.jobs.carry_out import carry_out


@task()
def carry_out_run(run_id: int) -> None:
    """Do what run `run_id` asks for."""
    carry_out(run_id)
