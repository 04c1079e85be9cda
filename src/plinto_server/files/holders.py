"""Who holds files: apps say for a model which digests a row needs, and this keeps the holds in step with the rows.

A row that is saved or deleted changes its holds in the same transaction. A file that lost its last hold goes when
that transaction is through.
"""

from collections.abc import Callable, Iterable
from typing import Any

from django.apps import apps
from django.db import transaction
from django.db.models import Model
from django.db.models.signals import post_delete, post_save

from plinto_server.files import collector, store
from plinto_server.files.models import Blob, Hold

Digests = Callable[[Any], Iterable[str]]
_HEX = 64
_holders: dict[str, Digests] = {}


def holds_files(label: str, digests: Digests) -> None:
    """Say which files a row of the model `label` (app.Model) needs; called once, when its app is ready.

    `digests` may give anything that stands where a digest can stand; what is none ('embedded', a space's name, '')
    is passed over.
    """
    model = apps.get_model(label)
    _holders[model._meta.label_lower] = digests
    post_save.connect(_saved, sender=model, dispatch_uid=f"files.saved.{label}")
    post_delete.connect(_deleted, sender=model, dispatch_uid=f"files.deleted.{label}")


def is_digest(text: object) -> bool:
    """Whether this names a file of the store."""
    return isinstance(text, str) and len(text) == _HEX and set(text) <= set("0123456789abcdef")


def holds(instance: Model) -> bool:
    """Whether rows of this kind hold files at all."""
    return instance._meta.label_lower in _holders


def _wanted(instance: Model) -> set[str]:
    return {digest for digest in _holders[instance._meta.label_lower](instance) if is_digest(digest)}


def sync(instance: Model) -> None:
    """Bring the holds of a row in step with it; needed by hand only after `QuerySet.update`."""
    place = {"kind": instance._meta.label_lower, "key": str(instance.pk)}
    with transaction.atomic():
        had = set(Hold.objects.filter(**place).values_list("blob_id", flat=True))
        wanted = _wanted(instance)
        if had == wanted:
            return
        new = wanted - had
        known = set(Blob.objects.filter(sha256__in=new).values_list("sha256", flat=True))
        for sha256 in new - known:
            # Rows of an older data folder: their files are there without a record of them.
            if (path := store.path_of(sha256)).exists():
                store.note(sha256, path.stat().st_size)
                known.add(sha256)
        Hold.objects.bulk_create(Hold(blob_id=sha256, **place) for sha256 in sorted(new & known))
        if gone := had - wanted:
            Hold.objects.filter(**place, blob_id__in=gone).delete()
            collector.release_after_commit(gone)


def _saved(sender: Any, instance: Model, raw: bool = False, **_: Any) -> None:
    if not raw:
        sync(instance)


def _deleted(sender: Any, instance: Model, **_: Any) -> None:
    with transaction.atomic():
        rows = Hold.objects.filter(kind=instance._meta.label_lower, key=str(instance.pk))
        gone = set(rows.values_list("blob_id", flat=True))
        rows.delete()
        if gone:
            collector.release_after_commit(gone)


def adopt_older_data(**_: Any) -> None:
    """Give every file of a data folder from before holds its holders."""
    if Blob.objects.exists():
        return
    for label in _holders:
        for instance in apps.get_model(label)._default_manager.iterator():
            sync(instance)
