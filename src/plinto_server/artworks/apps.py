from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


def _of_artwork(artwork: Any) -> Iterable[str]:
    return artwork.sha256, artwork.pixels_sha256, artwork.profile_sha256


def _of_version(version: Any) -> Iterable[str]:
    return version.facts.get("pixels_sha256", ""), version.facts.get("profile_sha256", "")


class ArtworksConfig(AppConfig):
    name = "plinto_server.artworks"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Artwork holds its original, and each of its versions the file and the profile that it is read from."""
        from plinto_server.artworks.intake import OPENING_PICTURES
        from plinto_server.artworks.reworking import REWORKING
        from plinto_server.files.holders import holds_files
        from plinto_server.jobs import kinds

        holds_files("artworks.Artwork", _of_artwork)
        holds_files("artworks.ArtworkVersion", _of_version)
        kinds.register(OPENING_PICTURES)
        kinds.register(REWORKING)
