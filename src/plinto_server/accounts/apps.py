from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "plinto_server.accounts"
    label = "accounts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Changes of people are recorded like those of everything else that is shared."""
        from plinto_server.accounts import people
        from plinto_server.accounts.roles import check_may
        from plinto_server.records import history

        history.register(history.RecordKind(people.KIND, lambda user: check_may(user, "people"), people.restore))
