"""The core kept warm: conditions, chains, pictures and display tables of what is being worked on."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from pathlib import Path
from typing import Any, TypeVar, cast

import imagecodecs
import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from plinto_core.adjust.regions import Places
from plinto_core.artwork.cloud import Cloud, color_cloud
from plinto_core.artwork.figures import Coverage, Differences, Loss, coverage, differences, loss
from plinto_core.artwork.histogram import gray_ramp_inks, histogram
from plinto_core.artwork.hits import HitFamily, hardest_hit
from plinto_core.artwork.proof import Scene, View, artwork_grid, display_gap_share
from plinto_core.artwork.pyramid import Pyramid, Window
from plinto_core.chain.compiled import Chain, Companion, companion_recipe, compile_recipe
from plinto_core.chain.library import Condition as CoreCondition
from plinto_core.chain.library import Library, source_profile
from plinto_core.chain.trace import Trace
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.recipe import Recipe
from plinto_core.separation.black import BlackPolicy
from plinto_core.separation.inverse import InkLimits, Inverse
from plinto_server import store
from plinto_server.artworks import service as artworks
from plinto_server.artworks import versions
from plinto_server.artworks.models import Artwork
from plinto_server.conditions.models import Condition
from plinto_server.house import service as house

T = TypeVar("T")


class Kept:
    """The last `size` results by key; two threads that want the same one wait for one computation."""

    def __init__(self, size: int) -> None:
        self._size = size
        self._values: OrderedDict[Hashable, Any] = OrderedDict()
        self._busy: dict[Hashable, threading.Lock] = {}
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The value for `key`, made if it is not there."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                return cast(T, self._values[key])
            busy = self._busy.setdefault(key, threading.Lock())
        with busy:
            with self._lock:
                if key in self._values:
                    return cast(T, self._values[key])
            try:
                value = make()
                with self._lock:
                    self._values[key] = value
                    while len(self._values) > self._size:
                        self._values.popitem(last=False)
            finally:
                with self._lock:
                    self._busy.pop(key, None)
            return value


_library = Library(Path(settings.CACHE_DIR))
_chains = Kept(64)
_pictures = Kept(24)
_tables = Kept(24)


def kept(key: Hashable, make: Callable[[], T]) -> T:
    """A result kept by its key, for the services beside the Bench."""
    return _tables.get(key, make)


def core_condition(condition: Condition) -> CoreCondition:
    """The condition with its forward model and inverse tables."""
    sha256 = condition.profile_sha256
    return _tables.get(("condition", sha256), lambda: _library.condition(parse(store.path_of(sha256).read_bytes())))


def _reading(artwork: Artwork) -> tuple[str, int, str]:
    return artwork.pixels_sha256, artwork.page, str(artwork.ground)


def own_profile(artwork: Artwork) -> Profile | None:
    """The profile of the artwork's version in force."""
    key = ("profile", *_reading(artwork), artwork.profile_sha256)
    return _pictures.get(key, lambda: versions.current_profile(artwork))


def pyramid(artwork: Artwork) -> Pyramid:
    """The picture's levels, built again if they were cleared away."""
    return _pictures.get(("levels", *_reading(artwork)), lambda: Pyramid(artworks.build_levels(artwork)))


def source_of(artwork: Artwork, recipe: Recipe) -> Profile:
    """The profile that the recipe's Source station names for this artwork."""
    choice = recipe.source.profile
    return source_profile(choice, own_profile(artwork), house.stored_profiles({choice}), artwork.space)


def chain(artwork: Artwork, condition: Condition, recipe: Recipe) -> Chain:
    """The compiled line; what the inks do not depend on (name rule, compression) does not make a new one."""
    source = source_of(artwork, recipe)
    stations = recipe.adjust, recipe.aim, recipe.ink, recipe.plate, recipe.deliver.ink_depth
    key = (source.digest, condition.profile_sha256, *stations)
    return _chains.get(key, lambda: compile_recipe(recipe, core_condition(condition), source))


def companion(artwork: Artwork, condition: Condition, recipe: Recipe, which: Companion) -> Chain:
    """The line that this one is compared with."""
    return chain(artwork, condition, companion_recipe(recipe, len(condition.inks), which))


def _scene(artwork: Artwork, condition: Condition, recipe: Recipe, display: Profile) -> Scene:
    line = chain(artwork, condition, recipe)
    return Scene(line, display, lambda which: companion(artwork, condition, recipe, which), _tables.get)


def picture(
    artwork: Artwork, condition: Condition, recipe: Recipe, view: View, window: Window, display: str
) -> NDArray[np.uint8]:
    """What the view shows of the window, (height, width, 3), for a display."""
    levels = pyramid(artwork)
    pixels, places = levels.window(window), levels.places(window)
    scene = _scene(artwork, condition, recipe, house.profile_by_choice(display))
    if view.show == "film":
        return scene.film(view, pixels, places, window.zoom, artwork.resolution_ppi or 72.0)
    corner = round(window.left * window.zoom), round(window.top * window.zoom)
    enlarge = max(1, round(window.zoom)) if view.mark or view.show == "coverage" else 1
    return scene.render(view, pixels, places, corner, enlarge)


def encode_png(pixels: NDArray[np.uint8]) -> bytes:
    """PNG for the screen: packed in the quickest way that still halves it, since it is made for one look."""
    png = imagecodecs.PNG
    return bytes(imagecodecs.png_encode(pixels, level=1, strategy=png.STRATEGY.RLE, filter=png.FILTER.UP))


def thumbnail(artwork: Artwork) -> bytes:
    """A PNG of at most 360 pixels."""
    levels = pyramid(artwork)
    zoom = min(360 / levels.width, 360 / levels.height, 1.0)
    window = Window(0, 0, round(levels.width * zoom), round(levels.height * zoom), zoom)
    display = rgb_profile("sRGB")
    profile = own_profile(artwork)
    if profile is None:
        # CMYK without a profile is shown as the first condition would print it; it is a thumbnail, not a proof.
        first = Condition.objects.filter(inks=["C", "M", "Y", "K"]).first()
        profile = core_condition(first).profile if artwork.space == "CMYK" and first else display
    grid = _tables.get(("artwork", profile.digest, display.digest), lambda: artwork_grid(profile, display))
    return encode_png(np.asarray(grid.at(levels.window(window)) + np.float32(0.5), np.uint8))


def gamut_figures(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Differences:
    """ΔE00 over the artwork and the share out of gamut."""
    line = chain(artwork, condition, recipe)
    return differences(pyramid(artwork), line, companion(artwork, condition, recipe, "reach"), tolerance)


def loss_figures(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Loss:
    """What leaving inks out costs."""
    complete = companion(artwork, condition, recipe, "complete")
    return loss(pyramid(artwork), chain(artwork, condition, recipe), complete, tolerance)


def coverage_figures(artwork: Artwork, condition: Condition, recipe: Recipe) -> Coverage:
    """Ink over the artwork, with and without the limit."""
    line = chain(artwork, condition, recipe)
    return coverage(pyramid(artwork), line, companion(artwork, condition, recipe, "unlimited"))


def hits(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> list[HitFamily]:
    """The colors that take the biggest hit."""
    return hardest_hit(pyramid(artwork), chain(artwork, condition, recipe), tolerance)


def cloud(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Cloud:
    """The artwork as a cloud of its colors."""
    return color_cloud(pyramid(artwork), chain(artwork, condition, recipe), tolerance=tolerance)


def channel_histogram(artwork: Artwork, condition: Condition, recipe: Recipe) -> dict[str, list[float]]:
    """How the artwork's numbers and lightness are spread, unadjusted."""
    return histogram(pyramid(artwork), chain(artwork, condition, recipe))


def display_gap(condition: Condition, display: str, substrate: bool) -> float:
    """Share (0…1) of the condition's gamut that the display cannot show."""
    profile, model = house.profile_by_choice(display), core_condition(condition).model
    key = ("gap share", model.digest, profile.digest, substrate)
    return _tables.get(key, lambda: display_gap_share(model, profile, substrate))


def gray_axis(artwork: Artwork, condition: Condition, recipe: Recipe) -> NDArray[np.float64]:
    """Inks (steps, inks) 0…1 of the source's grays, light to dark, as they are on the plates."""
    return gray_ramp_inks(chain(artwork, condition, recipe))


def trace(
    artwork: Artwork, condition: Condition, recipe: Recipe, points: list[tuple[int, int]]
) -> tuple[list[Trace], NDArray[np.float64]]:
    """Every station's value at pixels (x, y), one trace each, and the pixels' codes in the artwork's own depth."""
    pixels = pyramid(artwork).levels[0]
    height, width = pixels.shape[:2]
    held = [(min(x, width - 1), min(y, height - 1)) for x, y in points]
    codes = np.array([pixels[y, x] for x, y in held])
    line, top = chain(artwork, condition, recipe), float(np.iinfo(codes.dtype).max)
    found = [
        line.trace(code / top, Places(np.array([x + 0.5]), np.array([y + 0.5]), width, height))
        for code, (x, y) in zip(codes, held, strict=True)
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
