"""Documents, and the outputs they are sent through."""

from django.conf import settings
from django.db import models


class Document(models.Model):
    """A PDF as it was taken in, never changed; `facts` is what inspecting it said."""

    name = models.CharField(max_length=255)
    sha256 = models.CharField(max_length=64, unique=True)
    bytes = models.PositiveBigIntegerField()
    pages = models.PositiveIntegerField()
    facts = models.JSONField()
    #: What is shown of each page, alike neighbors told once (`plinto_core.pdf.frames`).
    frames = models.JSONField(default=list)
    taken_in_at = models.DateTimeField(auto_now_add=True)
    taken_in_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("name", "id")


class Output(models.Model):
    """A printer or a RIP queue: its condition, its policy, its delivery rule, and what is set at the device."""

    name = models.CharField(max_length=80, unique=True)
    condition = models.ForeignKey("conditions.Condition", null=True, on_delete=models.PROTECT, related_name="outputs")
    policy = models.JSONField()
    rule = models.JSONField()
    ticket = models.JSONField(default=dict)
    #: Of the condition, what held when somebody last looked at this output: profile and most ink.
    seen = models.JSONField(default=dict)
    notes = models.TextField(blank=True)
    position = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ("position", "name")
