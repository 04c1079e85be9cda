from django.apps import AppConfig


class ConditionsConfig(AppConfig):
    name = "plinto_server.conditions"
    default_auto_field = "django.db.models.BigAutoField"
