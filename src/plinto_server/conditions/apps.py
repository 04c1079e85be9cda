from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_condition(condition: Any) -> Iterable[str]:
    return (condition.profile_sha256,)


def _of_strip(strip: Any) -> Iterable[str]:
    return (strip.data_sha256,)


class ConditionsConfig(AppConfig):
    name = "plinto_server.conditions"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """A condition holds its profile, a strip its measurements; what is decided about them has a history."""
        from plinto_server.accounts.roles import check_may
        from plinto_server.conditions import drift, library, presets, profile_builds
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs import kinds
        from plinto_server.records.history import RecordKind, register

        holds_files("conditions.Condition", _of_condition)
        holds_files("conditions.StripReading", _of_strip)
        kinds.register(profile_builds.BUILDING)
        library.on_tolerances(drift.judge_anew)
        register(RecordKind(library.CONDITION, lambda user: check_may(user, "conditions"), library.restore_condition))
        register(RecordKind(presets.KIND, lambda user: check_may(user, "conditions"), presets.restore))
        register(RecordKind(library.MEDIUM, lambda user: check_may(user, "conditions"), library.restore_medium))
