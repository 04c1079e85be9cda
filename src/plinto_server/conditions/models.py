"""Printing conditions of the house."""

from dataclasses import replace

from django.db import models

from plinto_core.analysis.cost import Costs, costs_from_json


class Medium(models.Model):
    """What is printed on, as it is bought: a roll or a sheet with its size and price."""

    name = models.CharField(max_length=120, unique=True)
    width_mm = models.FloatField()
    length_m = models.FloatField()
    price = models.FloatField()
    currency = models.CharField(max_length=8, default="EUR")

    class Meta:
        ordering = ("name",)

    @property
    def cost_per_m2(self) -> float:
        """Price over area."""
        return self.price / (self.width_mm / 1000 * self.length_m)


class OwnPreset(models.Model):
    """Settings of a profile that the house starts from, beside those by process."""

    name = models.CharField(max_length=80, unique=True)
    total_percent = models.FloatField()
    black = models.JSONField()
    why = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ("name",)


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
    #: What the printer lays down: the inks, or light and dark ones behind the profile's calibration.
    device_inks = models.JSONField(default=list)
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
    #: Whether it comes from a supplier's numbers, which stand in its report.
    from_numbers = models.BooleanField(default=False)
    position = models.PositiveSmallIntegerField(default=0)
    medium = models.ForeignKey(Medium, null=True, on_delete=models.SET_NULL)
    #: By ink: grams a square meter of a solid takes, and the price of a kilogram.
    ink_costs = models.JSONField(default=dict)
    #: Percent under which dots do not print, and what becomes of them on its plates; 0 where all do.
    smallest_dot_percent = models.FloatField(default=0.0)
    smallest_dot = models.CharField(max_length=5, default="raise")
    #: How the printer is set for it, as far as somebody has said: see `print_mode`.
    mode = models.JSONField(default=dict, blank=True)
    #: ΔE00 by what is measured (paper, solids, mean, worst); empty where the usual ones hold.
    tolerances = models.JSONField(default=dict)

    class Meta:
        ordering = ("position", "name")

    @property
    def costs(self) -> Costs:
        """What inks and medium cost, as far as somebody has said."""
        known = costs_from_json({"inks": self.ink_costs})
        if self.medium is None:
            return known
        return replace(known, medium_per_m2=self.medium.cost_per_m2, currency=self.medium.currency)


class StripReading(models.Model):
    """A control strip measured on one day and compared with its condition's aims."""

    condition = models.ForeignKey(Condition, on_delete=models.CASCADE, related_name="strips")
    measured_at = models.DateTimeField()
    file_name = models.CharField(max_length=255)
    data_sha256 = models.CharField(max_length=64)
    drift = models.JSONField()

    class Meta:
        ordering = ("measured_at", "id")
