"""The core kept warm: conditions, chains, pictures and display tables of what is being worked on."""

import os

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.cloud import Cloud, color_cloud
from plinto_core.analysis.cost import Cost, area_m2, cost_of
from plinto_core.analysis.figures import Coverage, Differences, Loss, coverage, differences, loss
from plinto_core.analysis.histogram import gray_ramp_inks, histogram
from plinto_core.analysis.hits import ColorCluster, worst_color_clusters
from plinto_core.chain.compiled import Chain, Comparison, comparison_recipe, compile_recipe
from plinto_core.chain.library import Condition as CoreCondition
from plinto_core.chain.library import source_profile
from plinto_core.chain.trace import Trace
from plinto_core.cores import cores
from plinto_core.errors import RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.raster.pyramid import Pyramid, Window
from plinto_core.recipe import Recipe
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits
from plinto_core.screen.proof import Renderer, RenderRequest, display_gap_share
from plinto_core.separation.inverse import Inverse
from plinto_server.artworks.models import Artwork
from plinto_server.artworks.pictures import own_profile, pyramid
from plinto_server.conditions.models import Condition
from plinto_server.house import service as house
from plinto_server.warm import shelves
from plinto_server.warm.behind import behind
from plinto_server.warm.turns import Turns

#: A few at once, so that lists, saving and signing in are never behind a row of them.
_AT_ONCE = 2
_PICTURES = Turns(_AT_ONCE)


def source_of(artwork: Artwork, recipe: Recipe) -> Profile:
    """The profile that the recipe's Source station names for this artwork."""
    choice = recipe.source.profile
    return source_profile(choice, own_profile(artwork), house.stored_profiles({choice}), artwork.space)


def chain(artwork: Artwork, condition: Condition, recipe: Recipe) -> Chain:
    """The compiled line; what the inks do not depend on (name rule, compression) does not make a new one."""
    source = source_of(artwork, recipe)
    stations = recipe.adjust, recipe.aim, recipe.ink, recipe.plate, recipe.deliver.ink_depth
    key = (source.digest, condition.profile_sha256, *stations)
    found = shelves.lines.get(
        key, lambda: compile_recipe(recipe, shelves.condition(condition.profile_sha256), source)
    )
    # A negative's table and a film's screen are looked at as they are now, whatever the line was compiled with.
    return found if found.recipe.deliver == recipe.deliver else found.delivering(recipe.deliver)


def comparison_line(artwork: Artwork, condition: Condition, recipe: Recipe, which: Comparison) -> Chain:
    """The line that this one is compared with."""
    return chain(artwork, condition, comparison_recipe(recipe, len(condition.inks), which))


def _scene(artwork: Artwork, condition: Condition, recipe: Recipe, display: Profile) -> Renderer:
    line = chain(artwork, condition, recipe)
    return Renderer(
        line, display, lambda which: comparison_line(artwork, condition, recipe, which), shelves.looks.get
    )


def picture(
    artwork: Artwork, condition: Condition, recipe: Recipe, view: RenderRequest, window: Window, display: str
) -> NDArray[np.uint8]:
    """What the view shows of the window, (height, width, 3), for a display."""
    stored = pyramid(artwork)
    if window.left >= stored.width or window.top >= stored.height:
        raise RecipeError(
            f"'{artwork.name}' is {stored.width} × {stored.height} pixels; there is nothing at "
            f"{window.left:g}, {window.top:g}."
        )
    every = os.cpu_count() or 1
    # Alone, a picture is there soonest on every core; two of them on the same cores only wait for each other.
    with _PICTURES.turn() as alone, cores(every if alone else every // _AT_ONCE):
        return _picture(artwork, condition, recipe, view, window, display, stored)


def _picture(
    artwork: Artwork,
    condition: Condition,
    recipe: Recipe,
    view: RenderRequest,
    window: Window,
    display: str,
    stored: Pyramid,
) -> NDArray[np.uint8]:
    pixels, places = stored.window(window), stored.places(window)
    scene = _scene(artwork, condition, recipe, house.profile_by_choice(display))
    if view.show == "film":
        return scene.film(view, pixels, places, window.zoom, artwork.resolution_ppi or 72.0)
    corner = round(window.left * window.zoom), round(window.top * window.zoom)
    enlarge = max(1, round(window.zoom)) if view.mark or view.show == "coverage" else 1
    return scene.render(view, pixels, places, corner, enlarge)


def gamut_figures(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Differences:
    """ΔE00 over the artwork and the share out of gamut."""
    line = chain(artwork, condition, recipe)
    return behind(
        differences, pyramid(artwork), line, comparison_line(artwork, condition, recipe, "reach"), tolerance
    )


def loss_figures(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Loss:
    """What leaving inks out costs."""
    complete = comparison_line(artwork, condition, recipe, "complete")
    return behind(loss, pyramid(artwork), chain(artwork, condition, recipe), complete, tolerance)


def coverage_figures(artwork: Artwork, condition: Condition, recipe: Recipe) -> Coverage:
    """Ink over the artwork, with and without the limit."""
    line = chain(artwork, condition, recipe)
    return behind(coverage, pyramid(artwork), line, comparison_line(artwork, condition, recipe, "unlimited"))


def cost(artwork: Artwork, condition: Condition, found: Coverage, copies: int) -> Cost | None:
    """What copies of a separation take and cost; None for artwork without a resolution and printers driven by RGB."""
    if not artwork.resolution_ppi or driven_by_rgb(tuple(condition.inks)):
        return None
    means = dict(zip(condition.inks, found.mean_percent, strict=True))
    size = area_m2(artwork.width, artwork.height, artwork.resolution_ppi)
    return cost_of(means, size, condition.costs, copies)


def hits(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> list[ColorCluster]:
    """The colors that take the biggest hit."""
    return behind(worst_color_clusters, pyramid(artwork), chain(artwork, condition, recipe), tolerance)


def cloud(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Cloud:
    """The artwork as a cloud of its colors."""
    return behind(color_cloud, pyramid(artwork), chain(artwork, condition, recipe), tolerance=tolerance)


def channel_histogram(artwork: Artwork, condition: Condition, recipe: Recipe) -> dict[str, list[float]]:
    """How the artwork's numbers and lightness are spread, unadjusted."""
    return behind(histogram, pyramid(artwork), chain(artwork, condition, recipe))


def display_gap(condition: Condition, display: str, substrate: bool) -> float:
    """Share (0…1) of the condition's gamut that the display cannot show."""
    profile, model = house.profile_by_choice(display), shelves.condition(condition.profile_sha256).model
    key = ("gap share", model.digest, profile.digest, substrate)
    return shelves.lasting.get(key, lambda: display_gap_share(model, profile, substrate))


def gray_axis(artwork: Artwork, condition: Condition, recipe: Recipe) -> NDArray[np.float64]:
    """Inks (steps, inks) 0…1 of the source's grays, light to dark, as they are on the plates."""
    return gray_ramp_inks(chain(artwork, condition, recipe))


def trace(
    artwork: Artwork, condition: Condition, recipe: Recipe, points: list[tuple[int, int]]
) -> tuple[list[Trace], NDArray[np.float64]]:
    """Every station's value at pixels (x, y), one trace each, and the pixels' codes in the artwork's own depth."""
    pixels = pyramid(artwork).levels[0]
    height, width = pixels.shape[:2]
    for x, y in points:
        if not (0 <= x < width and 0 <= y < height):
            raise RecipeError(f"'{artwork.name}' is {width} × {height} pixels; there is none at {x}, {y}.")
    codes = np.array([pixels[y, x] for x, y in points])
    line, top = chain(artwork, condition, recipe), float(np.iinfo(codes.dtype).max)
    found = [
        line.trace(code / top, PixelGrid(np.array([x + 0.5]), np.array([y + 0.5]), width, height))
        for code, (x, y) in zip(codes, points, strict=True)
    ]
    return found, codes.astype(np.float64)


def swatches(labs: list[NDArray[np.float64]]) -> list[str]:
    """'#rrggbb' of Lab colors (3,) for an sRGB screen."""
    if not labs:
        return []
    codes = np.rint(np.clip(cmm.from_lab(rgb_profile("sRGB"), np.stack(labs)), 0, 1) * 255).astype(int)
    return ["#" + "".join(f"{v:02x}" for v in rgb) for rgb in codes]


def darkest(condition: CoreCondition, limits: InkLimits, black: BlackPolicy) -> NDArray[np.float64]:
    """Media-relative Lab (3,) of the darkest neutral within limits and black policy."""
    return Inverse(condition.model, condition.tables, black, limits).black_point_lab
