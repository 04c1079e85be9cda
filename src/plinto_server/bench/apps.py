from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "plinto_server.bench"
    default_auto_field = "django.db.models.BigAutoField"
