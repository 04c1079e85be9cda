"""Revisions of shared things."""

from django.conf import settings
from django.db import models


class Revision(models.Model):
    """One change of one shared thing: `kind` and `key` name it, `number` counts its changes from 1.

    `before` and `after` are the whole thing as plain values, None before it was made and after it was removed.
    """

    class Action(models.TextChoices):
        MADE = "made"
        CHANGED = "changed"
        REMOVED = "removed"
        RESTORED = "restored"

    kind = models.CharField(max_length=20)
    key = models.CharField(max_length=120)
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=200)
    action = models.CharField(max_length=10, choices=Action.choices)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    at = models.DateTimeField(auto_now_add=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    #: The account's name as it was: people leave, what they did stays theirs.
    author_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ("-id",)
        constraints = (models.UniqueConstraint(fields=("kind", "key", "number"), name="one_number_each"),)
