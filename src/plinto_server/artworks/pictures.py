"""Artwork as pictures: its levels and its profile kept warm, and its thumbnail."""

import numpy as np

from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.pyramid import Pyramid, Window
from plinto_core.screen.proof import artwork_grid
from plinto_server.artworks import levels, versions
from plinto_server.artworks.models import Artwork
from plinto_server.conditions.models import Condition
from plinto_server.warm import shelves
from plinto_server.warm.png import encode_png

_THUMBNAIL_PIXELS = 360


def _reading(artwork: Artwork) -> tuple[str, int, str]:
    return artwork.pixels_sha256, artwork.page, str(artwork.ground)


def own_profile(artwork: Artwork) -> Profile | None:
    """The profile of the artwork's version in force."""
    key = ("profile", *_reading(artwork), artwork.profile_sha256)
    return shelves.pictures.get(key, lambda: versions.current_profile(artwork))


def pyramid(artwork: Artwork) -> Pyramid:
    """The picture's levels, built again if they were cleared away."""
    return shelves.pictures.get(("levels", *_reading(artwork)), lambda: Pyramid(levels.levels_of(artwork)))


def fitting(stored: Pyramid, side: int) -> Window:
    """The whole picture, reduced to at most `side` screen pixels across and down."""
    zoom = min(side / stored.width, side / stored.height, 1.0)
    return Window(0, 0, max(round(stored.width * zoom), 1), max(round(stored.height * zoom), 1), zoom)


def thumbnail(artwork: Artwork) -> bytes:
    """A PNG of at most 360 pixels."""
    stored = pyramid(artwork)
    window = fitting(stored, _THUMBNAIL_PIXELS)
    display = rgb_profile("sRGB")
    profile = own_profile(artwork)
    if profile is None:
        # CMYK without a profile is shown as the first condition would print it; it is a thumbnail, not a proof.
        first = Condition.objects.filter(inks=["C", "M", "Y", "K"]).first()
        profile = shelves.profile(first.profile_sha256) if artwork.space == "CMYK" and first else display
    grid = shelves.looks.get(("artwork", profile.digest, display.digest), lambda: artwork_grid(profile, display))
    return encode_png(np.asarray(grid.at(stored.window(window)) + np.float32(0.5), np.uint8))
