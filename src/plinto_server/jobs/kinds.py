"""Kinds of jobs: each app registers what it can do, so that nobody here knows them."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from plinto_server.files.store import Part
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.models import Run

#: Opening files is quick and somebody waits for it: it does not stand behind an hour of separations.
MAKING, OPENING = "default", "intake"


def _nothing(run: Run) -> None:
    """Most kinds have nobody to tell."""


@dataclass(frozen=True)
class Done:
    """What an attempt made. `commit` writes what belongs to it in the very transaction that ends the run."""

    part: Part | None = None
    sheet: dict[str, Any] | None = None
    commit: Callable[[Run], None] = _nothing
    message: str = ""


@dataclass(frozen=True)
class Kind:
    """`carry_out` makes it; `ended` hears of a run that failed or was cancelled."""

    name: str
    carry_out: Callable[[Run, Attempt], Done]
    queue: str = MAKING
    #: Whether a run holds what it made; not where something else was made of it that does (a condition its profile).
    holds_result: bool = True
    ended: Callable[[Run], None] = _nothing
    #: Says what is missing for making a file once more; None for kinds whose result is not made again.
    check_again: Callable[[Run], None] | None = None


_kinds: dict[str, Kind] = {}
_on_end: list[Callable[[Run], None]] = []
#: What each worker looks after every few seconds, beside runs that were lost.
looked_after: list[Callable[[], object]] = []
#: What begins with a worker, given what wakes it; each returns what ends it.
begun_with_worker: list[Callable[[Callable[[], None]], Callable[[], None]]] = []


def when_ended(hears: Callable[[Run], None]) -> None:
    """Have `hears` told of every run that ends, in the transaction that ends it; called when an app is ready."""
    _on_end.append(hears)


def told_of_end(run: Run) -> None:
    """Whoever wants to know hears that a run has ended."""
    for hears in _on_end:
        hears(run)


def register(kind: Kind) -> None:
    """Make a kind of job known; called when its app is ready."""
    _kinds[kind.name] = kind


def queue_of(run: Run) -> str:
    """The queue that a run waits in."""
    found = _kinds.get(run.kind)
    return found.queue if found else MAKING


def digests_of(run: Run) -> list[str]:
    """Files that a run holds: what it is made of while it goes on, what came out of it, what it can be made again with."""
    if run.moving:
        return [run.source_sha256, run.result_sha256, *map(str, run.pinned.values())]
    found = _kinds.get(run.kind)
    return [run.result_sha256, *map(str, run.pinned.values())] if found is None or found.holds_result else []


def kind_of(run: Run) -> Kind:
    """The kind of a run."""
    return _kinds[run.kind]
