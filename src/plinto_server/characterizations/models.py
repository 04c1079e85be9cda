"""A characterization under way."""

from django.db import models

from plinto_server.conditions.models import Condition, Medium


class Characterization(models.Model):
    """A device on a medium on its way to a profile.

    `steps` holds for each step by name: `state` (open, measuring, done, stale), `settings`, `data_sha256` of what was
    measured, `result`, and while it is being measured `live`, the colors read so far as sRGB codes.
    """

    name = models.CharField(max_length=120)
    device_slug = models.CharField(max_length=60)
    medium = models.ForeignKey(Medium, null=True, on_delete=models.SET_NULL)
    inks = models.JSONField()
    device_inks = models.JSONField()
    steps = models.JSONField(default=dict)
    condition = models.ForeignKey(Condition, null=True, on_delete=models.SET_NULL)
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-changed_at",)
