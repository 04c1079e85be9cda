"""People of the house and what they may change."""

from django.conf import settings
from django.db import models


class Role(models.TextChoices):
    """What somebody does here; each may look at everything."""

    OPERATOR = "operator"
    COLOR_LEAD = "color lead"
    PREPRESS_LEAD = "prepress lead"
    ADMINISTRATOR = "administrator"


class Person(models.Model):
    """An account's role. `demo` marks the account that the demo shows everybody: only the demo lets it in."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="person")
    role = models.CharField(max_length=16, choices=Role.choices, default=Role.OPERATOR)
    demo = models.BooleanField(default=False)
