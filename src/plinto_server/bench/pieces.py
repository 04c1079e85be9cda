"""One large picture over all workers: its pieces are runs that any of them takes, the maker among them, who joins them.

What was made stays when the maker dies: the next attempt finds the pieces there. A piece whose own worker dies is queued
again like any run. People see one run; its pieces go with its end.
"""

import time
from pathlib import Path

from django.conf import settings
from django.db import transaction

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.pieces import Piece, joined, pieces_of, write_piece
from plinto_core.deliver.separate import Outcome
from plinto_core.errors import Cancelled, DeliveryError
from plinto_core.raster.decoded import DecodedArtwork
from plinto_server.files import store
from plinto_server.jobs.attempt import Attempt, patiently
from plinto_server.jobs.carry_out import carry_out
from plinto_server.jobs.kinds import Done
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue

KIND = "piece"
_LOOK_SECONDS = 0.3
#: How far the work is when all pieces are there.
_SHARE = 0.9
_STILL = (Run.State.QUEUED, Run.State.RUNNING, Run.State.DONE)


def made(run: Run, attempt: Attempt, artwork: DecodedArtwork, chain: Chain, path: Path) -> Outcome | None:
    """Make a run's file of pieces; None where the picture is no larger than one, or is not made of any.

    Raises `Cancelled`, and `DeliveryError` where a piece failed.
    """
    cut = pieces_of(artwork, chain, settings.PIECE_MEGAPIXELS) if settings.PIECE_MEGAPIXELS else ()
    if not cut:
        return None
    patiently(lambda: _ask(run, cut))
    while True:
        pieces = patiently(lambda: list(run.pieces.order_by("id").defer("recipe")))
        attempt.progress(_SHARE * sum(_done(piece) for piece in pieces) / len(cut))
        # A piece hears of it at once, the maker only when it looks again.
        if attempt.cancelled() or any(piece.state == Run.State.CANCELLED for piece in pieces):
            raise Cancelled(f"'{run.file_name}' was stopped between its pieces.")
        if len(pieces) < len(cut) or any(piece.state not in _STILL for piece in pieces):
            said = next((piece.message for piece in pieces if piece.state == Run.State.FAILED), "a piece was lost")
            raise DeliveryError(f"'{run.file_name}' was not made: {said}")
        if all(piece.state == Run.State.DONE for piece in pieces):
            break
        waiting = [piece for piece in pieces if piece.state == Run.State.QUEUED]
        if waiting:
            # Others take them from the front.
            carry_out(waiting[-1].id)
        else:
            time.sleep(_LOOK_SECONDS)
    files = [store.path_of(piece.result_sha256) for piece in pieces]
    return joined(artwork, chain, files, path, attempt.cancelled)


def make(run: Run, attempt: Attempt, artwork: DecodedArtwork, chain: Chain) -> Done:
    """Make one piece."""
    first, last = run.rows or (0, 0)
    path = attempt.folder / "piece.zip"
    write_piece(artwork, chain, Piece(first, last), path, attempt.progress, attempt.cancelled)
    return Done(store.part_of(path))


def let_go(run: Run) -> None:
    """Remove the pieces of a run that has ended; whoever is at one of them still finds that it is nobody's, and stops."""
    run.pieces.all().delete()


@transaction.atomic
def _ask(run: Run, cut: tuple[Piece, ...]) -> None:
    """Queue those pieces that an attempt before this one has not left behind."""
    wanted = [[piece.first, piece.last] for piece in cut]
    known = list(run.pieces.order_by("id").defer("recipe"))
    if [piece.rows for piece in known] == wanted and all(piece.state in _STILL for piece in known):
        return
    run.pieces.all().delete()
    for rows in wanted:
        enqueue(
            Run.objects.create(
                kind=KIND, piece_of=run, rows=rows, artwork_name=run.artwork_name, condition_name=run.condition_name,
                recipe={}, file_name=f"{run.file_name}, rows {rows[0]} to {rows[1]}"[:255], asked_by=run.asked_by,
                # What is begun is finished first.
                priority=min(run.priority + 1, 100),
            )
        )  # fmt: skip


def _done(piece: Run) -> float:
    return 1.0 if piece.state == Run.State.DONE else piece.progress if piece.state == Run.State.RUNNING else 0.0
