from django.apps import AppConfig


class ArtworksConfig(AppConfig):
    name = "plinto_server.artworks"
    default_auto_field = "django.db.models.BigAutoField"
