"""The report of a condition, with an artwork as it is and as it prints."""

from plinto_core.recipe import recipe_from_json
from plinto_core.screen.proof import RenderRequest
from plinto_server.artworks.models import Artwork
from plinto_server.artworks.pictures import fitting, pyramid
from plinto_server.bench import engine
from plinto_server.conditions import profile_inspection
from plinto_server.conditions.models import Condition
from plinto_server.warm.png import encode_png

_PROOF_PIXELS = 700


def report(condition: Condition, artwork: Artwork | None) -> str:
    """The judgement as a page that prints, with the artwork before and after where one is named."""
    pictures = []
    if artwork is not None:
        window = fitting(pyramid(artwork), _PROOF_PIXELS)
        recipe = recipe_from_json(condition.recipe)
        for caption, view in (
            (f"{artwork.name} as it is", RenderRequest("artwork")),
            (f"as {condition.name} prints it, substrate and black as they are", RenderRequest(substrate=True)),
        ):
            pixels = engine.picture(artwork, condition, recipe, view, window, "sRGB")
            pictures.append((caption, encode_png(pixels)))
    return profile_inspection.report(condition, pictures)
