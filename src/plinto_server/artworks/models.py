"""What is known of a piece of artwork; its bytes lie in the store."""

from django.conf import settings
from django.db import models


class Artwork(models.Model):
    """A picture as it was taken in. The original is never changed; `log` says what opening it does."""

    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64, unique=True)
    format = models.CharField(max_length=8)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    depth = models.PositiveSmallIntegerField()
    bytes = models.PositiveBigIntegerField()
    resolution_ppi = models.FloatField(null=True)
    profile_name = models.CharField(max_length=255, blank=True)
    log = models.JSONField(default=list)
    taken_in_at = models.DateTimeField(auto_now_add=True)
    taken_in_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("name", "id")
