"""Conditions from files: a profile or measurements, looked at while the sender waits, made into a condition by a run."""

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import CharacterizationError
from plinto_core.sandbox.client import check_file
from plinto_server.errors import TooLargeError
from plinto_server.files import store
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue

MOST_BYTES = 64 << 20
_MARK_AT = slice(36, 40)


def take_in(part: Part, file_name: str, user: User | None) -> Run:
    """A run that makes a condition of a profile or of measurements. Raises `PlintoError`; nothing is kept then."""
    name = clean_name(file_name, "file")
    if part.bytes > MOST_BYTES:
        raise TooLargeError(f"'{name}' has {part.bytes >> 20} MB; no profile or measurement needs more than 64.")
    with part.path.open("rb") as file:
        is_profile = file.read(40)[_MARK_AT] == b"acsp"
    found = check_file("profile" if is_profile else "measurements", part.path, name)
    if is_profile and not found["tells_of_inks"]:
        raise CharacterizationError(
            f"'{name}' is a profile of the class {found['profile_class']} for {found['space']}; a condition needs an "
            "output profile, or one with a table from inks to colors."
        )
    title = str(found["name"] if is_profile else found["title"])
    with transaction.atomic():
        run = Run.objects.create(
            kind="profile", artwork_name=name, condition_name=title[:120], file_name=f"{title[:100] or name}.icc",
            recipe={"intake": "profile" if is_profile else "measurements"}, source_sha256=store.keep(part),
            asked_by=user,
        )  # fmt: skip
        return enqueue(run)
