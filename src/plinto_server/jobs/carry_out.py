"""Carrying a run out: claimed under a token, made, and ended in one transaction, or ended in words."""

import logging
from datetime import UTC, datetime

from django.db import OperationalError, transaction

from plinto_core.errors import Cancelled, PlintoError
from plinto_server.files import space, store
from plinto_server.files.processes import process_name
from plinto_server.jobs.attempt import Attempt, SupersededError, patiently
from plinto_server.jobs.kinds import Done, kind_of, told_of_end
from plinto_server.jobs.models import Run
from plinto_server.jobs.runs import run_by_id, tell
from plinto_server.jobs.wake import wake

logger = logging.getLogger("plinto.worker")
FULL = "The disk is full; nothing was kept. Make room and run it again."


def carry_out(run_id: int) -> None:
    """Make what a queued run asks for. Every way it can end is written into the run."""
    run = patiently(lambda: _claimed(run_id))
    if run is None:
        return
    with Attempt(run) as attempt:
        try:
            done = kind_of(run).carry_out(run, attempt)
            patiently(lambda: _finish(run, attempt, done))
        except SupersededError:
            logger.warning("run %d was taken over by another attempt; this one left nothing", run_id)
        except Cancelled:
            _end(attempt, Run.State.CANCELLED, "Cancelled; nothing was kept.")
        except PlintoError as error:
            _end(attempt, Run.State.FAILED, str(error))
        except (OSError, OperationalError) as error:
            if not space.is_full(error):
                _end(attempt, Run.State.FAILED, _internal(error))
                raise
            _end(attempt, Run.State.FAILED, FULL)
        except BaseException as error:
            # Whatever it was is a fault of ours: the run says so, and the worker's log has all of it.
            _end(attempt, Run.State.FAILED, _internal(error))
            raise
    # A batch or a folder may have more to do now.
    wake()


def _internal(error: BaseException) -> str:
    return f"An internal error stopped this run ({type(error).__name__}); the server's log has all of it."


@transaction.atomic
def _claimed(run_id: int) -> Run | None:
    run = Run.objects.filter(id=run_id, state=Run.State.QUEUED).first()
    if run is None:
        return None
    now = datetime.now(UTC)
    run.state, run.attempts, run.worker = Run.State.RUNNING, run.attempts + 1, process_name()
    run.heartbeat_at = run.began_at = now
    run.progress, run.message, run.cancel_asked = 0.0, "", False
    run.save()
    return run


@transaction.atomic
def _finish(run: Run, attempt: Attempt, done: Done) -> None:
    now = datetime.now(UTC)
    ended = {"state": Run.State.DONE, "progress": 1.0, "message": done.message, "ended_at": now, "changed_at": now}
    if not attempt.mine().update(**ended):
        raise SupersededError
    for field, value in ended.items():
        setattr(run, field, value)
    if done.part is not None:
        run.result_sha256, run.result_bytes = store.keep(done.part), done.part.bytes
    run.run_sheet = done.sheet
    done.commit(run)
    run.save()
    told_of_end(run)


@space.even_when_full
def _end(attempt: Attempt, state: Run.State, message: str) -> None:
    def write() -> None:
        with transaction.atomic():
            now = datetime.now(UTC)
            if attempt.mine().update(state=state, message=message, ended_at=now, changed_at=now):
                tell(run_by_id(attempt.run_id))

    patiently(write)
