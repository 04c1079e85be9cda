from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_removal(removal: Any) -> Iterable[str]:
    return list(removal.files)


class RemovalsConfig(AppConfig):
    name = "plinto_server.removals"
    label = "removals"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """The files of what was removed are held until it is forgotten."""
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs import kinds
        from plinto_server.removals import bin as removals

        holds_files("removals.Removal", _of_removal)
        kinds.looked_after.append(removals.forget)
