"""Rows that were removed, as they were."""

from django.conf import settings
from django.db import models


class Removal(models.Model):
    """One removal: of one thing, or of several at once, with all that went along.

    `rows` are the removed rows as Django serializes them; `links` are the rows that pointed at them and point at nothing
    since: [model, field, {key: what it pointed at}]; `files` are the digests that the rows held. Where the thing has a
    history, `record_kind` and `record_key` name it there. Whoever may change the `area` may bring it back.
    """

    name = models.CharField(max_length=200)
    area = models.CharField(max_length=20)
    rows = models.TextField()
    links = models.JSONField(default=list)
    files = models.JSONField(default=list)
    record_kind = models.CharField(max_length=20, blank=True)
    record_key = models.CharField(max_length=120, blank=True)
    at = models.DateTimeField(auto_now_add=True, db_index=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    author_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ("-id",)
