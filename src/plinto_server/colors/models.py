"""Lists of colors, and routes that they are sent along."""

from django.conf import settings
from django.db import models


class ColorList(models.Model):
    """A list as `plinto_core.route.color_list` knows it; `values` are its float64 in C order, little-endian, `spectra` its
    float32 where it has any.

    `places` are pixels (x, y) of `artwork` that each color was sampled at; empty for lists from elsewhere.
    """

    name = models.CharField(max_length=120, unique=True)
    channels = models.JSONField()
    names = models.JSONField()
    values = models.BinaryField()
    spectra = models.BinaryField(null=True)
    count = models.PositiveIntegerField()
    artwork = models.ForeignKey("artworks.Artwork", null=True, on_delete=models.SET_NULL, related_name="+")
    places = models.JSONField(default=list)
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("name",)


class Route(models.Model):
    """Steps in their order: a profile each (a space's name or a digest), with intent, black point compensation, and
    whether it is passed over."""

    name = models.CharField(max_length=120, unique=True)
    steps = models.JSONField()

    class Meta:
        ordering = ("name",)
