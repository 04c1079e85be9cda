"""Removing so that it can be undone: rows and files are kept for a while, and come back as they were."""

import shutil
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any, cast

from django.apps import apps
from django.conf import settings
from django.contrib.auth.models import User
from django.core import serializers
from django.db import DEFAULT_DB_ALIAS, IntegrityError, transaction
from django.db.models import ForeignKey, Model
from django.db.models.deletion import Collector

from plinto_server.accounts.roles import Area, check_may
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files import holders
from plinto_server.files.models import Hold
from plinto_server.records import history
from plinto_server.records.models import Revision
from plinto_server.removals.models import Removal

#: For how long what was removed can be brought back.
KEPT = timedelta(minutes=15)


@transaction.atomic
def remove(
    found: Sequence[Model], name: str, author: User | None, area: Area, record: tuple[str, str] | None = None
) -> Removal | None:
    """Remove rows of one model with all that goes along, and keep them for `KEPT`. `name` says what it was; whoever may
    change the `area` may bring it back.

    `record` is the kind and key under which its history is kept. None where the disk is so full that the room is needed
    at once. Raises Django's `ProtectedError` where something else stands on them.
    """
    if not found:
        return None
    collector = Collector(using=DEFAULT_DB_ALIAS, origin=found[0])
    collector.collect(list(found))
    rows = [each for instances in collector.data.values() for each in instances]
    rows += [each for query in collector.fast_deletes for each in query]
    kept = None
    if shutil.disk_usage(settings.DATA_DIR).free > 2 * settings.LEAST_FREE_BYTES:
        kind, key = record or ("", "")
        kept = Removal.objects.create(
            name=name[:200], area=area, rows=serializers.serialize("json", rows), links=_links(collector),
            files=_files(rows), record_kind=kind, record_key=key, author=author,
            author_name=author.get_username() if author else "",
        )  # fmt: skip
    collector.delete()
    return kept


def _links(collector: Collector) -> list[Any]:
    """What points at the removed rows from outside, and is about to point at nothing."""
    found = []
    updates: dict[Any, Any] = dict(collector.field_updates)
    for (field, value), groups in updates.items():
        targets = {each.pk: getattr(each, field.attname) for group in groups for each in group}
        if value is None and targets:
            found.append([field.model._meta.label_lower, field.attname, targets])
    return found


def _files(rows: Iterable[Model]) -> list[str]:
    by_kind: dict[str, list[str]] = {}
    for each in rows:
        by_kind.setdefault(each._meta.label_lower, []).append(str(each.pk))
    digests: set[str] = set()
    for kind, keys in by_kind.items():
        digests.update(Hold.objects.filter(kind=kind, key__in=keys).values_list("blob_id", flat=True))
    return sorted(digests)


def lately() -> "list[Removal]":
    """What can be brought back, the latest first."""
    return list(Removal.objects.filter(at__gt=datetime.now(UTC) - KEPT).defer("rows", "links", "files"))


def by_id(removal_id: int) -> Removal:
    """Raises `MissingError`."""
    found = Removal.objects.filter(id=removal_id, at__gt=datetime.now(UTC) - KEPT).first()
    if found is None:
        raise MissingError(
            f"It can be brought back for {KEPT.seconds // 60} minutes; this was longer ago, or somebody did it already."
        )
    return found


def bring_back(found: Removal, author: User) -> None:
    """Put everything back as it was; with a history, that is a change of its own.

    Raises `ConflictError` where its place is taken, or what it belonged to is gone as well, `ForbiddenError` for whoever
    could not have removed it.
    """
    check_may(author, cast(Area, found.area))
    try:
        with transaction.atomic():
            rows = [each.object for each in serializers.deserialize("json", found.rows)]
            here = {(type(each), each.pk) for each in rows}
            for each in rows:
                _without_what_is_gone(each, here, found.name)
            for each in rows:
                each.save_base(raw=True, force_insert=True)
            for label, attname, targets in found.links:
                model = apps.get_model(label)
                for key, target in targets.items():
                    model._default_manager.filter(pk=key, **{f"{attname}__isnull": True}).update(**{attname: target})
            for each in rows:
                if holders.holds(each):
                    holders.sync(each)
            _note(found, author)
            found.delete()
    except IntegrityError as error:
        raise ConflictError(
            f"'{found.name}' cannot come back: something of its name or content is in its place now. Remove that first."
        ) from error


def _without_what_is_gone(row: Model, here: set[tuple[type[Model], Any]], name: str) -> None:
    """What a row pointed at and is gone since is let go of, where it can do without."""
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if not isinstance(field, ForeignKey) or value is None:
            continue
        target = field.related_model
        if (target, value) in here or target._base_manager.filter(pk=value).exists():
            continue
        if not field.null:
            raise ConflictError(
                f"'{name}' cannot come back: what it belonged to is gone as well. Bring that back first."
            )
        setattr(row, field.attname, None)


def _note(found: Removal, author: User | None) -> None:
    if not found.record_kind:
        return
    last = Revision.objects.filter(kind=found.record_kind, key=found.record_key).order_by("-number").first()
    if last is not None and last.after is None:
        history.write(
            found.record_kind, found.record_key, last.name, None, last.before, author, Revision.Action.RESTORED
        )


def forget(now: datetime | None = None) -> int:
    """Let go of what was removed longer ago than it is kept; its files go with it. How many there were."""
    old = Removal.objects.filter(at__lt=(now or datetime.now(UTC)) - KEPT)
    count = len(old)
    for each in old:
        each.delete()
    return count
