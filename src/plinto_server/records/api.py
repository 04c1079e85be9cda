"""History: who changed what, when, and back."""

from datetime import datetime
from typing import Any

from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja import Field, Router, Schema

from plinto_server.records import history
from plinto_server.records.models import Revision

router = Router(tags=["records"])


class ChangeOut(Schema):
    """A field that differs."""

    field: str
    before: Any = None
    after: Any = None


class RevisionOut(Schema):
    """A change of a shared thing with its author; `number` counts those of the thing, `id` all of the house."""

    id: int
    kind: str
    key: str
    number: int
    name: str
    action: Revision.Action
    at: datetime
    author_name: str
    changes: list[ChangeOut]
    can_restore: bool

    @staticmethod
    def resolve_changes(found: Revision) -> list[history.Change]:
        return history.differences(found.before, found.after)

    @staticmethod
    def resolve_can_restore(found: Revision) -> bool:
        return found.after is not None


class BackIn(Schema):
    """The thing, the revision to go back to, and the version that was looked at."""

    kind: str = Field(max_length=20)
    key: str = Field(max_length=120)
    number: int = Field(ge=1, le=2**31)
    version: int = Field(ge=0, le=2**31)


@router.get("", response=list[RevisionOut])
def revisions(request: HttpRequest, kind: str = "", key: str = "", before: int | None = None) -> list[Revision]:
    """The latest hundred changes of one thing (`kind` and `key`), of a kind, or of everything; `before` the one with that
    id."""
    found = history.revisions(kind, key)
    return list((found.filter(id__lt=before) if before else found)[:100])


@router.get("/compare", response=list[ChangeOut])
def compare(request: HttpRequest, kind: str, key: str, first: int, second: int) -> list[history.Change]:
    """What differs between a thing after one revision and after another."""
    return history.differences(
        history.revision(kind, key, first).after, history.revision(kind, key, second).after
    )  # fmt: skip


@router.post("/back", response=RevisionOut)
def go_back(request: HttpRequest, given: BackIn) -> Revision:
    """Put a thing back as it was; that too is a revision."""
    assert isinstance(request.user, User)
    return history.go_back(given.kind, given.key, given.number, given.version, request.user)
