"""Batches and what each is made of."""

from django.conf import settings
from django.db import models


class Batch(models.Model):
    """Many runs asked for at once. `priority` is of its runs in the queue; a paused one hands out nothing more."""

    name = models.CharField(max_length=120)
    priority = models.SmallIntegerField(default=0)
    paused = models.BooleanField(default=False)
    #: Nothing of it waits any more: kept beside the items, so that who hands them out need not count them.
    handed_out = models.BooleanField(default=False, db_index=True)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("-id",)


class Item(models.Model):
    """One file to come: artwork for a condition, or a document through an output, and the run that makes it.

    `claimed_at` says since when somebody prepares its run; `said` why it could not be asked for.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        CLAIMED = "claimed"
        ASKED = "asked"
        REFUSED = "refused"
        CANCELLED = "cancelled"

    batch = models.ForeignKey(Batch, on_delete=models.CASCADE, related_name="items")
    number = models.PositiveIntegerField()
    artwork = models.ForeignKey("artworks.Artwork", null=True, on_delete=models.SET_NULL, related_name="+")
    condition = models.ForeignKey("conditions.Condition", null=True, on_delete=models.SET_NULL, related_name="+")
    document = models.ForeignKey("policies.Document", null=True, on_delete=models.SET_NULL, related_name="+")
    output = models.ForeignKey("policies.Output", null=True, on_delete=models.SET_NULL, related_name="+")
    #: The recipe as it was when the batch was asked for; of a document its output's own settings count.
    recipe = models.JSONField(null=True)
    of_name = models.CharField(max_length=255)
    for_name = models.CharField(max_length=120)
    file_name = models.CharField(max_length=255)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    claimed_at = models.DateTimeField(null=True)
    said = models.TextField(blank=True)
    run = models.OneToOneField("runs.Run", null=True, on_delete=models.SET_NULL, related_name="batch_item")

    class Meta:
        ordering = ("batch_id", "number")
        constraints = (models.UniqueConstraint(fields=("batch", "number"), name="one_item_each"),)
        indexes = (models.Index(fields=("batch", "state"), name="items_by_state"),)


class WatchedFolder(models.Model):
    """A folder of the server with in, out, done and failed inside; what is put into `in` goes to a condition or through
    an output. With `by_subfolder` each folder inside `in` that is called like a condition goes to that."""

    name = models.CharField(max_length=60, unique=True)
    condition = models.ForeignKey("conditions.Condition", null=True, on_delete=models.SET_NULL, related_name="+")
    output = models.ForeignKey("policies.Output", null=True, on_delete=models.SET_NULL, related_name="+")
    #: Used for every artwork in the place of its own; None: as each is set.
    recipe = models.JSONField(null=True)
    #: What it is called in the house, if it has a name there.
    recipe_name = models.CharField(max_length=80, blank=True)
    name_rule = models.CharField(max_length=200, blank=True)
    by_subfolder = models.BooleanField(default=False)
    active = models.BooleanField(default=True)
    made_at = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)

    class Meta:
        ordering = ("name",)


class WatchedFile(models.Model):
    """A file that was found: where its original lies meanwhile, how far it is, and under which name its result goes out.

    `step_until` keeps it for one worker while a step of it is taken.
    """

    class State(models.TextChoices):
        FOUND = "found"
        OPENING = "opening"
        MAKING = "making"
        DONE = "done"
        FAILED = "failed"

    folder = models.ForeignKey(WatchedFolder, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=255)
    #: Its name in the folder's `work`.
    kept_as = models.CharField(max_length=300)
    subfolder = models.CharField(max_length=255, blank=True)
    state = models.CharField(max_length=12, choices=State.choices, default=State.FOUND, db_index=True)
    said = models.TextField(blank=True)
    artwork = models.ForeignKey("artworks.Artwork", null=True, on_delete=models.SET_NULL, related_name="+")
    opening = models.ForeignKey("runs.Run", null=True, on_delete=models.SET_NULL, related_name="+")
    run = models.ForeignKey("runs.Run", null=True, on_delete=models.SET_NULL, related_name="+")
    #: Name in `out`, decided before anything is written there, so that a second try writes the same file.
    out_name = models.CharField(max_length=300, blank=True)
    step_until = models.DateTimeField(null=True)
    found_at = models.DateTimeField(auto_now_add=True)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)
