"""What can be told about a picture without its pixels, as plain values."""

from typing import Any

from plinto_core.raster.opened import Artwork


def facts_of_picture(opened: Artwork) -> dict[str, Any]:
    """Everything about a picture that can be told without its pixels, as plain values."""
    return {
        "format": opened.format,
        "stored_as": opened.stored_as,
        "space": opened.space,
        "width": opened.width,
        "height": opened.height,
        "depth": opened.depth,
        "pages": opened.layout.pages,
        "has_alpha": opened.has_alpha,
        "resolution_ppi": opened.resolution_ppi,
        "profile_name": opened.profile.name[:255] if opened.profile else "",
        "log": list(opened.notes),
        "profile_sha256": "embedded" if opened.profile else "",
        "page": opened.flattening.page,
        "ground": list(opened.flattening.ground),
    }
