from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_route(route: Any) -> Iterable[str]:
    from plinto_server.colors.routes import digests

    return digests(route)


class ColorsConfig(AppConfig):
    name = "plinto_server.colors"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Routes hold the profiles that they go through, and have a history."""
        from plinto_server.accounts.roles import check_may
        from plinto_server.colors import routes
        from plinto_server.files.holders import holds_files
        from plinto_server.records.history import RecordKind, register

        holds_files("colors.Route", _of_route)
        register(RecordKind(routes.ROUTE, lambda user: check_may(user, "artwork"), routes.restore))
