from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_steps(found: Any) -> Iterable[str]:
    return (step.get("data_sha256", "") for step in found.steps.values())


class CharacterizationsConfig(AppConfig):
    name = "plinto_server.characterizations"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """A characterization holds what was measured for its steps, and hears of the profile that it led to."""
        from plinto_server.characterizations import service
        from plinto_server.conditions import profile_builds
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs import kinds

        holds_files("characterizations.Characterization", _of_steps)
        kinds.register(service.MEASURING)
        profile_builds.listen(service.before_entering, service.entered, service.ended)
