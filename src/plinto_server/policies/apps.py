from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_document(document: Any) -> Iterable[str]:
    return (document.sha256,)


def _of_output(output: Any) -> Iterable[str]:
    return (output.policy.get("gray", ""), output.policy.get("rgb", ""), output.policy.get("cmyk", ""))


class PoliciesConfig(AppConfig):
    name = "plinto_server.policies"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Documents hold their file, outputs the profiles that they assume; outputs have a history."""
        from plinto_server.accounts.roles import check_may
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs import kinds
        from plinto_server.policies import outputs
        from plinto_server.policies.comparisons import COMPARING
        from plinto_server.policies.readings import READING
        from plinto_server.policies.sending import SENDING
        from plinto_server.records.history import RecordKind, register

        holds_files("policies.Document", _of_document)
        holds_files("policies.Output", _of_output)
        register(RecordKind(outputs.OUTPUT, lambda user: check_may(user, "house"), outputs.restore))
        kinds.register(SENDING)
        kinds.register(READING)
        kinds.register(COMPARING)
