"""Runs: what is being made and what was made."""

from django.conf import settings
from django.db import models


class Run(models.Model):
    """A job: what is to be done (`kind`, `recipe`, pinned when it was asked for), how far it is, what came of it.

    `attempts` is the token of the attempt under way: whoever carries another one writes nothing any more. `worker`
    names the process that carries it out. `again_of` is the run whose file this one makes once more.
    """

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    #: A name of `plinto_server.jobs.kinds`.
    kind = models.CharField(max_length=12, default="separation")
    #: The file that it is made of: measurements, a profile or a picture.
    source_sha256 = models.CharField(max_length=64, blank=True)
    artwork = models.ForeignKey("artworks.Artwork", null=True, on_delete=models.SET_NULL, related_name="runs")
    condition = models.ForeignKey("conditions.Condition", null=True, on_delete=models.SET_NULL)
    artwork_name = models.CharField(max_length=255)
    condition_name = models.CharField(max_length=120)
    artwork_version = models.PositiveIntegerField(default=0)
    recipe = models.JSONField()
    #: Digests of the profiles that it goes through, so that they stay for making it again.
    pinned = models.JSONField(default=dict)
    #: The delivery rule that a written page is brought under.
    delivery_rule = models.JSONField(null=True)
    #: The output whose rule that is.
    output_id = models.PositiveIntegerField(null=True)
    file_name = models.CharField(max_length=255)
    state = models.CharField(max_length=12, choices=State.choices, default=State.QUEUED, db_index=True)
    progress = models.FloatField(default=0.0)
    message = models.TextField(blank=True)
    cancel_asked = models.BooleanField(default=False)
    attempts = models.PositiveSmallIntegerField(default=0)
    worker = models.CharField(max_length=80, blank=True)
    #: When the attempt under way, or the last one, began.
    began_at = models.DateTimeField(null=True)
    #: Higher ones are taken first; what a person waits for stands above what a batch hands out.
    priority = models.SmallIntegerField(default=0)
    heartbeat_at = models.DateTimeField(null=True)
    #: The task that was last queued for it, and when.
    task_id = models.CharField(max_length=64, blank=True)
    queued_at = models.DateTimeField(null=True)
    result_sha256 = models.CharField(max_length=64, blank=True)
    result_bytes = models.PositiveBigIntegerField(default=0)
    run_sheet = models.JSONField(null=True)
    #: The run whose file this one makes some `rows` of (first, and before which), for all workers to take part in it.
    piece_of = models.ForeignKey("self", null=True, on_delete=models.CASCADE, related_name="pieces")
    rows = models.JSONField(null=True)
    again_of = models.ForeignKey("self", null=True, on_delete=models.SET_NULL, related_name="repeats")
    asked_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True, db_index=True)
    ended_at = models.DateTimeField(null=True)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("-id",)

    @property
    def moving(self) -> bool:
        """Whether it waits or works."""
        return self.state in (self.State.QUEUED, self.State.RUNNING)
