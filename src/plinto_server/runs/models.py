"""Runs: what is being made and what was made."""

from django.conf import settings
from django.db import models

from plinto_server.artworks.models import Artwork
from plinto_server.conditions.models import Condition


class Run(models.Model):
    """Something in the making: a separation, whose `recipe` is a copy that later changes do not reach, a profile, or
    a measurement."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    class Kind(models.TextChoices):
        SEPARATION = "separation"
        PROFILE = "profile"
        MEASURE = "measure"

    kind = models.CharField(max_length=12, choices=Kind.choices, default=Kind.SEPARATION)
    #: Measurements that a profile is made of.
    source_sha256 = models.CharField(max_length=64, blank=True)
    artwork = models.ForeignKey(Artwork, null=True, on_delete=models.SET_NULL, related_name="runs")
    condition = models.ForeignKey(Condition, null=True, on_delete=models.SET_NULL)
    artwork_name = models.CharField(max_length=255)
    condition_name = models.CharField(max_length=120)
    artwork_version = models.PositiveIntegerField(default=0)
    recipe = models.JSONField()
    file_name = models.CharField(max_length=255)
    state = models.CharField(max_length=12, choices=State.choices, default=State.QUEUED, db_index=True)
    progress = models.FloatField(default=0.0)
    message = models.TextField(blank=True)
    cancel_asked = models.BooleanField(default=False)
    attempts = models.PositiveSmallIntegerField(default=0)
    heartbeat_at = models.DateTimeField(null=True)
    result_sha256 = models.CharField(max_length=64, blank=True)
    result_bytes = models.PositiveBigIntegerField(default=0)
    run_sheet = models.JSONField(null=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("-id",)
