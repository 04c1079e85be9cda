"""Sets of house rules, profiles that were brought in, and named adjustments."""

from django.db import models


class StoredProfile(models.Model):
    """A profile in the store; `space` is what its numbers are in (RGB, CMYK, GRAY, …)."""

    sha256 = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=255)
    space = models.CharField(max_length=8)
    profile_class = models.CharField(max_length=16)
    taken_in_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name", "id")


class RuleSet(models.Model):
    """House rules by name; the one `in_use` holds for everyone."""

    name = models.CharField(max_length=80, unique=True)
    rules = models.JSONField()
    in_use = models.BooleanField(default=False)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("name",)


class SavedAdjustment(models.Model):
    """An adjustment with a name, to be used on other artwork."""

    name = models.CharField(max_length=80, unique=True)
    adjustment = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name",)


class KeptSettings(models.Model):
    """Settings of a station (or a whole recipe) with a name; `inks` are those that they were made for."""

    station = models.CharField(max_length=12)
    name = models.CharField(max_length=80)
    inks = models.JSONField(default=list)
    settings = models.JSONField()

    class Meta:
        ordering = ("station", "name")
        constraints = (models.UniqueConstraint(fields=("station", "name"), name="one_of_a_name_each_station"),)
