"""What is known of a piece of artwork and of its versions; bytes lie in the store."""

from django.conf import settings
from django.db import models


class Artwork(models.Model):
    """A picture as it was taken in. The original is never changed; `log` says what opening it does.

    Everything from `format` on describes the version in force. `pixels_sha256` is the file it is read from,
    `profile_sha256` the profile that gives its numbers their meaning: 'embedded' in that file, empty for none, or
    one of the store. `asks` are the ways out of an open question of the house rules, with `asks_space`.
    """

    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64, unique=True)
    bytes = models.PositiveBigIntegerField()
    taken_in_at = models.DateTimeField(auto_now_add=True)
    taken_in_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    version = models.PositiveIntegerField(default=0)
    asks = models.JSONField(default=list)
    asks_space = models.CharField(max_length=64, blank=True)

    format = models.CharField(max_length=16)
    stored_as = models.CharField(max_length=8, default="RGB")
    space = models.CharField(max_length=8, default="RGB")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    depth = models.PositiveSmallIntegerField()
    pages = models.PositiveIntegerField(default=1)
    has_alpha = models.BooleanField(default=False)
    resolution_ppi = models.FloatField(null=True)
    profile_name = models.CharField(max_length=255, blank=True)
    log = models.JSONField(default=list)
    pixels_sha256 = models.CharField(max_length=64, default="")
    profile_sha256 = models.CharField(max_length=64, blank=True, default="embedded")
    page = models.PositiveIntegerField(default=0)
    ground = models.JSONField(default=list)

    class Meta:
        ordering = ("name", "id")


#: Fields that a version has of its own.
VERSION_FIELDS = (
    "format", "stored_as", "space", "width", "height", "depth", "pages", "has_alpha", "resolution_ppi",
    "profile_name", "log", "pixels_sha256", "profile_sha256", "page", "ground",
)  # fmt: skip


class ArtworkVersion(models.Model):
    """One way to read the artwork: 0 as it came, then every decision and change, each of which can be gone back to."""

    artwork = models.ForeignKey(Artwork, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    action = models.CharField(max_length=12)
    note = models.TextField()
    facts = models.JSONField()
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("artwork", "number"), name="one_version_each"),)
