from django.apps import AppConfig


class RunsConfig(AppConfig):
    name = "plinto_server.runs"
    default_auto_field = "django.db.models.BigAutoField"
