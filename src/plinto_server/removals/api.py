"""What was removed lately, and back."""

from datetime import datetime

from django.http import HttpRequest
from ninja import Router, Schema, Status

from plinto_server.accounts.roles import person_of
from plinto_server.removals import bin as removals
from plinto_server.removals.models import Removal

router = Router(tags=["removals"])


class RemovedOut(Schema):
    """Something that can still be brought back: its name, who removed it, and when."""

    id: int
    name: str
    author_name: str
    at: datetime


@router.get("", response=list[RemovedOut])
def removed_lately(request: HttpRequest) -> list[Removal]:
    """What can still be brought back, the latest first."""
    return removals.lately()


@router.post("/{removal_id}/back", response={204: None})
def bring_back(request: HttpRequest, removal_id: int) -> Status[None]:
    """Put it back as it was: 404 when it is too late, 409 where its place is taken."""
    removals.bring_back(removals.by_id(removal_id), person_of(request))
    return Status(204, None)
