"""Writing, comparing and going back. A change and its revision are one transaction."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Max, QuerySet

from plinto_server.errors import ConflictError, MissingError
from plinto_server.records.models import Revision

Plain = dict[str, Any]


@dataclass(frozen=True)
class RecordKind:
    """A kind of shared thing. `check_may` raises `ForbiddenError` for whoever may not change it, `restore` puts it back
    as it was then, through the same door as any other change."""

    name: str
    check_may: Callable[[User], None]
    restore: Callable[[str, Plain, User], None]


@dataclass(frozen=True)
class Change:
    """A field that differs: its place, and its values as they were and as they became."""

    field: str
    before: Any
    after: Any


_kinds: dict[str, RecordKind] = {}


def register(kind: RecordKind) -> None:
    """Make a kind of record known; called when its app is ready."""
    _kinds[kind.name] = kind


def versions_of(kind: str, keys: Iterable[str]) -> dict[str, int]:
    """How often each thing was changed, by key: the number that has to be sent along with the next change."""
    rows = Revision.objects.filter(kind=kind, key__in=list(keys)).values("key").annotate(last=Max("number"))
    return {row["key"]: row["last"] for row in rows.order_by()}


def version_of(kind: str, key: str) -> int:
    """How often a thing was changed; 0 where nobody has yet."""
    return versions_of(kind, [key]).get(key, 0)


def check_version(kind: str, key: str, looked_at: int) -> None:
    """Refuse a change of something that somebody changed meanwhile; call it inside the transaction of the change.

    Raises `ConflictError`, which says who it was.
    """
    last = Revision.objects.filter(kind=kind, key=key).order_by("-number").first()
    if (last.number if last else 0) != looked_at:
        who = (last.author_name if last else "") or "Somebody else"
        raise ConflictError(
            f"{who} changed '{last.name if last else key}' in the meantime; nothing of yours was written. Look at it "
            "as it is now, then make your change again."
        )


def write(
    kind: str, key: str, name: str, before: Plain | None, after: Plain | None, author: User | None,
    action: Revision.Action | None = None,
) -> None:  # fmt: skip
    """Add a revision, where something differs at all."""
    if before == after:
        return
    made = Revision.Action.MADE if before is None else Revision.Action.CHANGED
    Revision.objects.create(
        kind=kind, key=key, number=version_of(kind, key) + 1, name=name[:200],
        action=action or (Revision.Action.REMOVED if after is None else made),
        before=before, after=after, author=author, author_name=author.get_username() if author else "",
    )  # fmt: skip


def revisions(kind: str = "", key: str = "") -> "QuerySet[Revision]":
    """Revisions of one thing, of a kind, or of everything, the latest first."""
    found = Revision.objects.all()
    found = found.filter(kind=kind) if kind else found
    return found.filter(key=key) if key else found


def revision(kind: str, key: str, number: int) -> Revision:
    """Raises `MissingError`."""
    found = Revision.objects.filter(kind=kind, key=key, number=number).first()
    if found is None:
        raise MissingError(f"There is no revision {number} of this. Choose one of its history.")
    return found


def differences(before: Plain | None, after: Plain | None) -> list[Change]:
    """Fields that differ, nested ones with their path."""
    old, new = _flat(before or {}), _flat(after or {})
    return [
        Change(field, old.get(field), new.get(field))
        for field in sorted(old.keys() | new.keys())
        if old.get(field) != new.get(field)
    ]


def _flat(plain: Plain, where: str = "") -> Plain:
    found: Plain = {}
    for key, value in plain.items():
        place = f"{where} › {key}" if where else key
        found |= _flat(value, place) if isinstance(value, dict) and value else {place: value}
    return found


@transaction.atomic
def go_back(kind: str, key: str, number: int, looked_at: int, user: User) -> Revision:
    """Put a thing back as it was after revision `number`. Raises `ConflictError`, `ForbiddenError`, `MissingError`."""
    known = _kinds.get(kind)
    wanted = revision(kind, key, number)
    if known is None or wanted.after is None:
        raise MissingError("This was removed by that revision; choose one from before.")
    known.check_may(user)
    check_version(kind, key, looked_at)
    known.restore(key, wanted.after, user)
    last = Revision.objects.filter(kind=kind, key=key).order_by("-number")[0]
    if last.number > looked_at:
        last.action = Revision.Action.RESTORED
        last.save(update_fields=["action"])
    return last
