from django.apps import AppConfig


class CharacterizationsConfig(AppConfig):
    name = "plinto_server.characterizations"
    default_auto_field = "django.db.models.BigAutoField"
