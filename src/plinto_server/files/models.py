"""Which files are in the store, and who holds each of them."""

from django.db import models


class Blob(models.Model):
    """A file of the store by its content. `touched_at` is when somebody last brought these bytes in."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    bytes = models.PositiveBigIntegerField()
    touched_at = models.DateTimeField(db_index=True)


class Hold(models.Model):
    """One row that needs a file: `kind` is its table (app.model), `key` its primary key. A held file cannot go."""

    blob = models.ForeignKey(Blob, on_delete=models.PROTECT, related_name="holds")
    kind = models.CharField(max_length=80)
    key = models.CharField(max_length=64)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("kind", "key", "blob"), name="one_hold_each"),)
