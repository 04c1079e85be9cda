"""The core kept warm: conditions, chains, pictures and display tables of what is being worked on."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import replace
from pathlib import Path
from typing import Any, TypeVar, cast

import imagecodecs
import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from plinto_core.artwork.figures import Coverage, Differences, coverage, differences
from plinto_core.artwork.opened import open_artwork
from plinto_core.artwork.proof import View, artwork_grid, display_nodes, render, show_artwork
from plinto_core.artwork.pyramid import Pyramid, Window
from plinto_core.chain.compiled import Chain, Trace, compile_recipe
from plinto_core.chain.library import Condition as CoreCondition
from plinto_core.chain.library import Library, source_profile
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.recipe import AimStation, Recipe
from plinto_core.separation.black import BlackPolicy
from plinto_core.separation.inverse import InkLimits, Inverse
from plinto_server import store
from plinto_server.artworks import service as artworks
from plinto_server.artworks.models import Artwork
from plinto_server.conditions.models import Condition

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


_library = Library(Path(settings.DATA_DIR) / "cache")
_chains = Kept(64)
_pictures = Kept(24)
_tables = Kept(24)


def core_condition(condition: Condition) -> CoreCondition:
    """The condition with its forward model and inverse tables."""
    sha256 = condition.profile_sha256
    return _tables.get(("condition", sha256), lambda: _library.condition(parse(store.path_of(sha256).read_bytes())))


def embedded_profile(artwork: Artwork) -> Profile | None:
    """The profile inside the original."""
    path = store.path_of(artwork.sha256)
    return _pictures.get(("profile", artwork.sha256), lambda: open_artwork(path, artwork.name).profile)


def pyramid(artwork: Artwork) -> Pyramid:
    """The picture's levels, built again if they were cleared away."""
    return _pictures.get(
        ("levels", artwork.sha256), lambda: Pyramid(artworks.build_levels(artwork.sha256, artwork.name))
    )


def chain(artwork: Artwork, condition: Condition, recipe: Recipe) -> Chain:
    """The compiled line; what the inks do not depend on (name rule, compression) does not make a new one."""
    source = source_profile(recipe.source.profile, embedded_profile(artwork))
    key = (source.digest, condition.profile_sha256, recipe.aim, recipe.ink, recipe.deliver.depth)
    return _chains.get(key, lambda: compile_recipe(recipe, core_condition(condition), source))


def _reach(artwork: Artwork, condition: Condition, recipe: Recipe) -> Chain:
    """The colorimetric chain that tells what lies outside the gamut, whatever the intent."""
    if recipe.aim.intent in ("relative", "absolute"):
        return chain(artwork, condition, recipe)
    return chain(artwork, condition, replace(recipe, aim=AimStation("relative", True)))


def _unlimited(artwork: Artwork, condition: Condition, recipe: Recipe) -> Chain:
    if recipe.ink.method == "as-profiled":
        return chain(artwork, condition, recipe)
    limits = replace(recipe.ink.limits, total_percent=min(100.0 * len(condition.inks), 800.0))
    return chain(artwork, condition, replace(recipe, ink=replace(recipe.ink, limits=limits)))


def picture(artwork: Artwork, condition: Condition, recipe: Recipe, view: View, window: Window) -> NDArray[np.uint8]:
    """What the view shows of the window, (height, width, 3), for an sRGB display."""
    display = rgb_profile("sRGB")
    line = chain(artwork, condition, recipe)
    source = line.source.profile
    nodes = _tables.get(
        ("display", condition.profile_sha256, view.substrate),
        lambda: display_nodes(line.condition.model, display, view.substrate),
    )
    grid = _tables.get(("artwork", source.digest), lambda: artwork_grid(source, display))
    pixels = pyramid(artwork).window(window)
    corner = round(window.left * window.zoom), round(window.top * window.zoom)
    marked = view.mark_gamut and view.show == "print"
    # An unlimited chain with a limit of its own in the recipe: the map hatches against the recipe's limit.
    unlimited = _unlimited(artwork, condition, recipe) if view.show == "coverage" else line
    reach = _reach(artwork, condition, recipe) if marked else line
    enlarge = max(1, round(window.zoom)) if marked or view.show == "coverage" else 1
    return render(view, pixels, line, reach, unlimited, nodes, grid, corner, enlarge)


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
    profile = embedded_profile(artwork)
    if profile is None or profile.header.space != "RGB ":
        profile = display
    grid = _tables.get(("artwork", profile.digest), lambda: artwork_grid(profile, display))
    return encode_png(show_artwork(levels.window(window), grid))


def gamut_figures(artwork: Artwork, condition: Condition, recipe: Recipe, tolerance: float) -> Differences:
    """ΔE00 over the artwork and the share out of gamut."""
    line = chain(artwork, condition, recipe)
    return differences(pyramid(artwork), line, _reach(artwork, condition, recipe), tolerance)


def coverage_figures(artwork: Artwork, condition: Condition, recipe: Recipe) -> Coverage:
    """Ink over the artwork, with and without the limit."""
    line = chain(artwork, condition, recipe)
    return coverage(pyramid(artwork), line, _unlimited(artwork, condition, recipe))


def gray_axis(artwork: Artwork, condition: Condition, recipe: Recipe, steps: int = 65) -> NDArray[np.float64]:
    """Inks (steps, inks) 0…1 of the source's grays, light to dark."""
    gray = np.rint(np.repeat(np.linspace(65535, 0, steps)[:, None], 3, axis=1)).astype(np.uint16)
    return chain(artwork, condition, recipe).link_for(gray).inks_of(gray, 16) / 65535.0


def trace(
    artwork: Artwork, condition: Condition, recipe: Recipe, points: list[tuple[int, int]]
) -> tuple[Trace, NDArray[np.float64]]:
    """Every station's value at pixels (x, y), and the pixels' codes in the artwork's own depth."""
    pixels = pyramid(artwork).levels[0]
    height, width = pixels.shape[:2]
    codes = np.array([pixels[min(y, height - 1), min(x, width - 1)] for x, y in points])
    found = chain(artwork, condition, recipe).trace(codes / float(np.iinfo(codes.dtype).max))
    return found, codes.astype(np.float64)


def swatches(found: Trace) -> list[tuple[str, str]]:
    """Source and print color of every traced point as '#rrggbb' for an sRGB screen."""
    pairs = np.stack([found.source_lab, found.print_lab], axis=1)
    codes = np.rint(np.clip(cmm.from_lab(rgb_profile("sRGB"), pairs), 0, 1) * 255).astype(int)
    return [tuple("#" + "".join(f"{v:02x}" for v in rgb) for rgb in pair) for pair in codes]  # type: ignore[misc]


def darkest(condition: CoreCondition, limits: InkLimits, black: BlackPolicy) -> NDArray[np.float64]:
    """Media-relative Lab (3,) of the darkest neutral within limits and black policy."""
    return Inverse(condition.model, condition.tables, black, limits).black_point_lab
