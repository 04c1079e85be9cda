"""Versions that take work, made by a job: colors converted to another space, the original flattened another way."""

from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import Cancelled, RecipeError
from plinto_server.artworks import levels, versions
from plinto_server.artworks.models import Artwork
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files import store
from plinto_server.house import service as house
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import OPENING, Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue

KIND = "version"


def ask(artwork: Artwork, wanted: dict[str, Any], user: User | None) -> Run:
    """Queue a version: `wanted` is {action: convert, profile, intent, bpc} or {action: flatten, page, ground}.

    Raises `PlintoError` at once where it cannot be made.
    """
    pinned = {}
    if wanted["action"] == "convert":
        target = house.profile_by_choice(wanted["profile"])
        if target.header.channels not in (3, 4):
            raise RecipeError(f"'{target.name}' is no space for artwork; choose an RGB or a CMYK profile.")
        if not artwork.profile_sha256:
            raise RecipeError(
                f"'{artwork.name}' has no profile, so there are no colors to convert. Assign one first."
            )
        pinned = {"target": target.digest if house.is_stored(target.digest) else ""}
    elif wanted["page"] >= artwork.pages:
        raise RecipeError(f"'{artwork.name}' has {artwork.pages} pages; there is no page {wanted['page'] + 1}.")
    with transaction.atomic():
        run = Run.objects.create(
            kind=KIND, artwork=artwork, artwork_name=artwork.name, file_name=artwork.name, asked_by=user,
            source_sha256=artwork.pixels_sha256, artwork_version=artwork.version, recipe=wanted, pinned=pinned,
        )  # fmt: skip
        return enqueue(run)


def make(run: Run, attempt: Attempt) -> Done:
    """Make the version that a run asks for, with its levels, and put it in force."""
    if run.artwork is None:
        raise MissingError(f"'{run.artwork_name}' was removed before its version could be made.")
    act = _convert if run.recipe["action"] == "convert" else _flatten
    return act(run, versions.at_version(run.artwork, run.artwork_version), attempt)


def _convert(run: Run, artwork: Artwork, attempt: Attempt) -> Done:
    intent, bpc = run.recipe["intent"], run.recipe["bpc"]
    opened, target = levels.opened(artwork), house.profile_by_choice(run.recipe["profile"])

    def progress(share: float) -> None:
        attempt.progress(share)
        if attempt.cancelled():
            raise Cancelled(f"'{artwork.name}' was stopped while it was converted.")

    part, facts, built = versions.converted_to(artwork, opened, target, intent, bpc, attempt.folder, progress)
    source = versions.current_profile(artwork, opened)
    how = f"{intent}, {'with' if bpc else 'without'} black point compensation"
    name = source.name if source else "no profile"
    said = f"Converted from {name} to {target.name}, {how}; the colors stayed, as far as it reaches."

    def commit(done: Run) -> None:
        store.keep(part)
        levels.place(built, part.sha256, facts)
        _add(done, artwork, "converted", said, facts)

    return Done(commit=commit)


def _flatten(run: Run, artwork: Artwork, attempt: Attempt) -> Done:
    page, (red, green, blue) = run.recipe["page"], run.recipe["ground"]
    facts = versions.flattened(artwork, page, (red, green, blue))
    built = attempt.folder / "levels"
    path = store.path_of(artwork.sha256)
    levels.decode(path, artwork.name, facts, built, lambda share: attempt.progress(0.95 * share), attempt.cancelled)
    shade = "#" + "".join(f"{round(v * 255):02x}" for v in (red, green, blue))
    said = f"Read again from the original: page {page + 1}, on {shade}."

    def commit(done: Run) -> None:
        levels.place(built, artwork.sha256, facts)
        _add(done, artwork, "flattened", said, facts)

    return Done(commit=commit)


def _add(run: Run, before: Artwork, action: str, said: str, facts: dict[str, Any]) -> None:
    now = Artwork.objects.filter(id=before.id).first()
    if now is None:
        raise MissingError(f"'{before.name}' was removed before its version could be made.")
    if now.version != run.artwork_version:
        raise ConflictError(
            f"Somebody changed '{now.name}' meanwhile: its version {now.version} is in force. Try again."
        )
    versions.add_version(now, action, said, facts, run.asked_by)


REWORKING = Kind(KIND, make, OPENING, holds_result=False)
