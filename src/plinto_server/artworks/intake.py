"""Taking artwork in: looked at while its sender waits, decoded and put under the house rules by a job."""

from dataclasses import dataclass
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Sum

from plinto_core.errors import ArtworkError, PlintoError
from plinto_core.raster.decoded import decoded_artwork
from plinto_core.sandbox.client import sandbox
from plinto_server.artworks import levels, versions
from plinto_server.artworks.models import Artwork
from plinto_server.errors import TooLargeError
from plinto_server.files import space, store
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import OPENING, Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue

KIND = "intake"


@dataclass(frozen=True)
class Arrival:
    """What came of a file: artwork that is here already, or the run that opens it; `said` tells which."""

    artwork: Artwork | None
    run: Run | None
    said: str


def take_in(part: Part, file_name: str, user: User | None) -> Arrival:
    """Look at a picture and queue its opening. Raises `PlintoError`; nothing is kept then."""
    name = clean_name(file_name)
    if part.bytes > settings.MAX_UPLOAD_BYTES:
        raise TooLargeError(f"'{name}' has {part.bytes >> 20} MB; the limit is {settings.MAX_UPLOAD_BYTES >> 20} MB.")
    if not part.bytes:
        raise ArtworkError(f"'{name}' is empty. Export it again.")
    if (known := Artwork.objects.filter(sha256=part.sha256).first()) is not None:
        return Arrival(known, None, _known(known, name))
    facts = _look(part, name)
    _check_quota(part, name, user)
    space.room_for(levels.levels_bytes(facts), name)
    return _queue(part, name, facts, user)


def _look(part: Part, name: str) -> dict[str, Any]:
    most = round(settings.MAX_MEGAPIXELS * 1_000_000)
    return sandbox.run("picture", {"path": str(part.path), "name": name, "max_pixels": most}, name)


def _known(known: Artwork, name: str) -> str:
    as_what = "" if known.name == name else f" as '{known.name}'"
    return f"'{name}' is here already{as_what}: the same picture to the last byte."


def _check_quota(part: Part, name: str, user: User | None) -> None:
    if not settings.QUOTA_BYTES or user is None:
        return
    held = Artwork.objects.filter(taken_in_by=user).aggregate(sum=Sum("bytes"))["sum"] or 0
    if held + part.bytes > settings.QUOTA_BYTES:
        raise TooLargeError(
            f"'{name}' has {part.bytes >> 20} MB, and the artwork of {user.get_username()} takes {held >> 20} of "
            f"{settings.QUOTA_BYTES >> 20} MB. Remove what is not needed, or ask the administrator."
        )


@transaction.atomic
def _queue(part: Part, name: str, facts: dict[str, Any], user: User | None) -> Arrival:
    # Asked again inside the transaction: of many hands with the same picture, one opens it.
    if (known := Artwork.objects.filter(sha256=part.sha256).first()) is not None:
        return Arrival(known, None, _known(known, name))
    opening = Run.objects.filter(kind=KIND, source_sha256=part.sha256, state__in=("queued", "running")).first()
    if opening is not None:
        return Arrival(None, opening, f"'{name}' is being opened already, as '{opening.artwork_name}'.")
    store.keep(part)
    run = Run.objects.create(
        kind=KIND, source_sha256=part.sha256, artwork_name=name, file_name=name, asked_by=user, recipe=facts,
    )  # fmt: skip
    return Arrival(None, enqueue(run), f"'{name}' is being opened.")


def open_picture(run: Run, attempt: Attempt) -> Done:
    """Decode the picture once and do with it what the house rules say."""
    path, facts = store.path_of(run.source_sha256), run.recipe
    built = attempt.folder / "levels"
    levels.decode(
        path, run.artwork_name, facts, built, lambda share: attempt.progress(0.8 * share), attempt.cancelled
    )
    artwork = Artwork(
        name=run.artwork_name, sha256=run.source_sha256, bytes=path.stat().st_size, taken_in_by=run.asked_by,
        pixels_sha256=run.source_sha256, **facts,
    )  # fmt: skip
    plan, problem = None, ""
    try:
        plan = versions.plan_house_rules(artwork, decoded_artwork(built, path, artwork.name), attempt.folder)
    except PlintoError as error:
        # The picture is good; what the house rules wanted is not possible, and says so.
        problem = f"The house rules could not be followed: {error}"
    attempt.progress(0.95)

    def commit(done: Run) -> None:
        found, made = Artwork.objects.get_or_create(
            sha256=artwork.sha256,
            defaults={name: getattr(artwork, name) for name in ("name", "bytes", "taken_in_by", *versions.FIELDS)},
        )
        if made:
            versions.begin(found, done.asked_by, plan, problem)
        done.artwork = found
        levels.place(built, artwork.pixels_sha256, facts)
        if plan is not None and plan.levels is not None:
            levels.place(plan.levels, plan.facts["pixels_sha256"], plan.facts)

    return Done(commit=commit)


OPENING_PICTURES = Kind(KIND, open_picture, OPENING)
