"""Asking for runs, carrying them out, and picking up what a killed worker left."""

import errno
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.db.models import F, Q

from plinto_core.deliver.run_sheet import run_sheet
from plinto_core.deliver.separate import calibration_for, separate
from plinto_core.errors import Cancelled, PlintoError, RecipeError
from plinto_core.recipe import Recipe, recipe_from_json
from plinto_server import store
from plinto_server.artworks.models import Artwork
from plinto_server.conditions.models import Condition
from plinto_server.errors import ConflictError, MissingError
from plinto_server.runs.models import Run

#: A worker that has not been heard of for so long is taken for dead.
SILENCE = timedelta(seconds=20)
MAX_ATTEMPTS = 3
_BEAT_SECONDS = 0.4
_LIFE_SECONDS = 5.0


def run_by_id(run_id: int) -> Run:
    """Raises `MissingError`."""
    found = Run.objects.filter(id=run_id).first()
    if found is None:
        raise MissingError("This run is not here any more. Go back to the list of runs.")
    return found


def ask(artwork: Artwork, condition: Condition, recipe: Recipe, user: User | None) -> Run:
    """Queue a separation. Raises `PlintoError` at once where the recipe cannot work on this artwork."""
    from plinto_server.bench import engine

    line = engine.chain(artwork, condition, recipe)
    if recipe.deliver.format == "jpeg" and line.condition.model.inks != ("C", "M", "Y", "K"):
        raise RecipeError(f"JPEG holds CMYK, and {condition.name} has other inks. Write TIFF or PDF.")
    calibration_for(line.delivering(recipe.deliver))
    stem = recipe.deliver.file_name(
        artwork=artwork.name.rpartition(".")[0] or artwork.name,
        condition=condition.name,
        intent=recipe.aim.intent,
        limit=f"{recipe.ink.limits.total_percent:.0f}" if recipe.ink.method == "rebuilt" else "as profiled",
        date=datetime.now(UTC).strftime("%Y-%m-%d"),
    )
    run = Run.objects.create(
        artwork=artwork,
        condition=condition,
        artwork_name=artwork.name,
        condition_name=condition.name,
        artwork_version=artwork.version,
        recipe=recipe.to_json(),
        file_name=f"{stem}{recipe.deliver.suffix}",
        asked_by=user,
    )
    enqueue(run.id)
    return run


def enqueue(run_id: int) -> None:
    """Hand a run to the workers once the transaction is through."""
    from plinto_server.runs.tasks import carry_out_run

    transaction.on_commit(lambda: carry_out_run.enqueue(run_id))


def cancel(run: Run) -> Run:
    """Stop a run that waits or works. Raises `ConflictError` for one that has ended."""
    if Run.objects.filter(id=run.id, state=Run.State.QUEUED).update(
        state=Run.State.CANCELLED, cancel_asked=True, ended_at=datetime.now(UTC), message="Cancelled before it began."
    ):
        _tell(run)
        return run_by_id(run.id)
    if not Run.objects.filter(id=run.id, state=Run.State.RUNNING).update(cancel_asked=True):
        raise ConflictError(f"'{run.file_name}' has ended already; there is nothing left to cancel.")
    return run_by_id(run.id)


def recover() -> int:
    """Queue again what a worker left behind when it was killed; give up after three attempts."""
    silent = Q(state=Run.State.RUNNING) & Q(heartbeat_at__lt=datetime.now(UTC) - SILENCE)
    lost = list(Run.objects.filter(silent, attempts__gte=MAX_ATTEMPTS))
    given_up = Run.objects.filter(silent, attempts__gte=MAX_ATTEMPTS).update(
        state=Run.State.FAILED,
        ended_at=datetime.now(UTC),
        message=f"The worker stopped {MAX_ATTEMPTS} times on this file. Nothing was kept; ask for it again.",
    )
    for run in lost:
        _tell(run)
    again = list(Run.objects.filter(silent).values_list("id", flat=True))
    for run_id in again:
        if Run.objects.filter(silent, id=run_id).update(state=Run.State.QUEUED, progress=0.0):
            enqueue(run_id)
    return len(again) + given_up


def carry_out(run_id: int) -> None:
    """Make the file of a queued run. Every way it can end is written into the run."""
    claimed = Run.objects.filter(id=run_id, state=Run.State.QUEUED).update(
        state=Run.State.RUNNING, attempts=F("attempts") + 1, heartbeat_at=datetime.now(UTC), progress=0.0, message=""
    )
    if not claimed:
        return
    run = run_by_id(run_id)
    try:
        _make(run)
    except Cancelled:
        _end(run, Run.State.CANCELLED, "Cancelled; nothing was kept.")
    except PlintoError as error:
        _end(run, Run.State.FAILED, str(error))
    except OSError as error:
        full = error.errno == errno.ENOSPC
        cause = "The disk is full; nothing was kept. Make room and run it again." if full else f"{error}"
        _end(run, Run.State.FAILED, cause)
    except BaseException as error:
        # Whatever it was is a fault of ours: the run says so, and the worker's log has all of it.
        _end(run, Run.State.FAILED, f"An internal error stopped this run ({type(error).__name__}); see the log.")
        raise


def _make(run: Run) -> None:
    if run.kind == Run.Kind.PROFILE:
        _make_profile(run)
    elif run.kind == Run.Kind.MEASURE:
        _measure(run)
    else:
        _make_separation(run)


def _make_profile(run: Run) -> None:
    from plinto_server.conditions import building

    with _Heartbeat(run.id) as beat:
        profile, report = building.carry_out(run, beat.progress)
        beat.progress(0.9)
        if beat.cancelled():
            raise Cancelled(f"'{run.file_name}' was stopped.")
        condition = building.enter(run, profile, report)
    run.condition, run.result_sha256, run.result_bytes = condition, profile.digest, len(profile.raw)
    run.run_sheet = {"profile": profile.name, "slug": condition.slug, "report": report}
    run.save(update_fields=["condition", "result_sha256", "result_bytes", "run_sheet"])
    _end(run, Run.State.DONE, "")


def _measure(run: Run) -> None:
    from plinto_server.characterizations.service import measure

    with _Heartbeat(run.id) as beat:
        sha256 = measure(run, beat.progress, beat.cancelled)
    run.result_sha256, run.result_bytes = sha256, store.path_of(sha256).stat().st_size
    run.run_sheet = dict(run.recipe)
    run.save(update_fields=["result_sha256", "result_bytes", "run_sheet"])
    _end(run, Run.State.DONE, "")


def _make_separation(run: Run) -> None:
    from plinto_server.bench import engine

    if run.artwork is None or run.condition is None:
        raise MissingError(f"The artwork or condition of '{run.file_name}' was removed before it could be made.")
    recipe = recipe_from_json(run.recipe)
    from plinto_server.artworks import versions

    source = versions.at_version(run.artwork, run.artwork_version)
    chain = engine.chain(source, run.condition, recipe)
    # The chain may have been compiled for another name or compression; those are this recipe's.
    chain = chain.delivering(recipe.deliver)
    artwork = versions.opened(source)
    folder = Path(settings.DATA_DIR) / "making"
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"run-{run.id}{recipe.deliver.suffix}"
    for left_by_a_killed_worker in folder.glob(f".{path.name}-*"):
        left_by_a_killed_worker.unlink()
    with _Heartbeat(run.id) as beat:
        outcome = separate(artwork, chain, path, beat.progress, beat.cancelled)
    sheet = run_sheet(artwork, run.artwork.sha256, chain, outcome, run.file_name)
    sheet["artwork"] |= {"version": run.artwork_version, "pixels_sha256": source.pixels_sha256, "notes": source.log}
    store.keep_file(path, outcome.sha256)
    run.result_sha256, run.result_bytes, run.run_sheet = outcome.sha256, outcome.bytes, sheet
    run.save(update_fields=["result_sha256", "result_bytes", "run_sheet"])
    _end(run, Run.State.DONE, "")


class _Heartbeat:
    """Shows that the worker lives, writes progress, and asks now and then whether the run was cancelled.

    The sign of life comes from a thread: decoding a large picture can take longer than the silence allowed.
    """

    def __init__(self, run_id: int) -> None:
        self._run_id = run_id
        self._last = 0.0
        self._cancelled = False
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._live, daemon=True)

    def __enter__(self) -> "_Heartbeat":
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()

    def _live(self) -> None:
        while not self._over.wait(_LIFE_SECONDS):
            Run.objects.filter(id=self._run_id).update(heartbeat_at=datetime.now(UTC))
        connection.close()

    def progress(self, share: float) -> None:
        now = time.monotonic()
        if now - self._last >= _BEAT_SECONDS:
            self._last = now
            Run.objects.filter(id=self._run_id).update(progress=share, heartbeat_at=datetime.now(UTC))
            self._cancelled = Run.objects.filter(id=self._run_id, cancel_asked=True).exists()

    def cancelled(self) -> bool:
        return self._cancelled


def _end(run: Run, state: Run.State, message: str) -> None:
    if state != Run.State.DONE:
        _tell(run)
    run.state, run.message, run.ended_at = state, message, datetime.now(UTC)
    run.progress = 1.0 if state == Run.State.DONE else run.progress
    run.save(update_fields=["state", "message", "ended_at", "progress"])


def _tell(run: Run) -> None:
    """A characterization's step that came to nothing can be asked for again."""
    if run.recipe.get("characterization"):
        from plinto_server.characterizations.service import ended

        ended(run)
