"""Recipes with their history, and pins."""

from django.conf import settings
from django.db import models

from plinto_server.artworks.models import Artwork
from plinto_server.conditions.models import Condition


class RecipeHistory(models.Model):
    """The settings for one artwork in one condition; `cursor` is the revision in force, for undo and redo."""

    artwork = models.ForeignKey(Artwork, on_delete=models.CASCADE)
    condition = models.ForeignKey(Condition, on_delete=models.CASCADE)
    cursor = models.PositiveIntegerField(default=0)
    #: Counts every change, so that two people who save at once notice each other.
    version = models.PositiveIntegerField(default=0)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("artwork", "condition"), name="one_history_each"),)


class RecipeRevision(models.Model):
    """One state of the settings."""

    history = models.ForeignKey(RecipeHistory, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    recipe = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("history", "number"), name="one_revision_each"),)


class Pin(models.Model):
    """A place on the artwork whose color is followed down the line; x and y in its pixels."""

    artwork = models.ForeignKey(Artwork, on_delete=models.CASCADE, related_name="pins")
    name = models.CharField(max_length=40, blank=True)
    x = models.PositiveIntegerField()
    y = models.PositiveIntegerField()

    class Meta:
        ordering = ("id",)
