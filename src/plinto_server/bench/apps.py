from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_revision(revision: Any) -> Iterable[str]:
    return (revision.recipe.get("source", {}).get("profile", ""),)


class BenchConfig(AppConfig):
    name = "plinto_server.bench"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """A recipe holds the source profile that it names."""
        from plinto_server.bench.separations import PIECES, SEPARATING
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs import kinds

        holds_files("bench.RecipeRevision", _of_revision)
        kinds.register(SEPARATING)
        kinds.register(PIECES)
