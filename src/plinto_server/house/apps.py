from django.apps import AppConfig


class HouseConfig(AppConfig):
    name = "plinto_server.house"
    default_auto_field = "django.db.models.BigAutoField"
