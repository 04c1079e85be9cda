from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_profile(profile: Any) -> Iterable[str]:
    return (profile.sha256,)


def _of_rules(found: Any) -> Iterable[str]:
    return found.rules.get("rgb", ""), found.rules.get("cmyk", ""), found.rules.get("display", "")


class HouseConfig(AppConfig):
    name = "plinto_server.house"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Profiles of the house and those that its rules name stay; rules and adjustments have a history."""
        from plinto_server.accounts.roles import check_may
        from plinto_server.files.holders import holds_files
        from plinto_server.house import kept_settings, service
        from plinto_server.records.history import RecordKind, register

        holds_files("house.StoredProfile", _of_profile)
        holds_files("house.RuleSet", _of_rules)
        register(RecordKind(service.RULES, lambda user: check_may(user, "house"), service.restore_rules))
        register(RecordKind(kept_settings.KIND, lambda user: check_may(user, "artwork"), kept_settings.restore))
        register(RecordKind(service.ADJUSTMENT, lambda user: check_may(user, "artwork"), service.restore_adjustment))
