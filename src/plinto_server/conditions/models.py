"""Printing conditions of the house."""

from django.db import models


class Condition(models.Model):
    """Process, substrate and inks with the profile that describes them; `recipe` is what a new one starts from.

    `status` is draft, trusted or out of date. `made_from` names the file it came from, `report` holds what the
    characterization said.
    """

    slug = models.SlugField(unique=True)
    name = models.CharField(max_length=120)
    process = models.CharField(max_length=200)
    notes = models.TextField(blank=True)
    profile_sha256 = models.CharField(max_length=64)
    inks = models.JSONField()
    total_ink_percent = models.FloatField()
    substrate_lab = models.JSONField()
    darkest_lab = models.JSONField()
    fit_mean = models.FloatField()
    fit_p95 = models.FloatField()
    patches = models.PositiveIntegerField()
    recipe = models.JSONField()
    status = models.CharField(max_length=12, default="trusted")
    made_from = models.CharField(max_length=255, blank=True)
    report = models.JSONField(default=dict)
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ("position", "name")
