"""A recipe made into a line of stations, with what pictures and points need of it."""

import copy
import hashlib
import json
import threading
from dataclasses import asdict, dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.chain.library import Condition
from plinto_core.chain.link import Codes, Link, ValueGrid, bake, bake_nodes, nodes_used, rgb_grid
from plinto_core.chain.profiled import ProfiledLink
from plinto_core.chain.stations import Aim, Print, ProfiledInk, RebuiltInk, Source, Want, source_boundary
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.gamut.mapping import PERCEPTUAL, SATURATION, GamutMapping
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.recipe import DeliverStation, Recipe
from plinto_core.separation.inverse import Inverse

Array = NDArray[np.float64]

#: Nodes along red, green and blue. Rebuilt inks are smooth over RGB; a profile's tables have corners, which a
#: device link made of them can only approach.
#: Absolute colors clip along the substrate's white as well, and that edge wants a finer grid.
REBUILT_POINTS, ABSOLUTE_POINTS, PROFILED_POINTS = 33, 49, 65


@dataclass
class _Partial:
    """The nodes computed so far, which they are, and the link made of them."""

    nodes: NDArray[np.uint16]
    solved: NDArray[np.bool_]
    link: Link | None = None


@dataclass(frozen=True)
class Trace:
    """One color after every station; Lab media-relative except `source_lab` in the absolute intent.

    `delta_e` is ΔE00 between what was wanted (the source after white and black were matched) and the print.
    All arrays (..., channels).
    """

    rgb: Array
    source_lab: Array
    want_lab: Array
    aim_lab: Array
    inks: Array
    print_lab: Array
    delta_e: Array


class Chain:
    """Source → Aim → Ink → print for one recipe, condition and source profile."""

    def __init__(self, recipe: Recipe, condition: Condition, source: Profile) -> None:
        self.recipe, self.condition = recipe, condition
        self._growing = threading.Lock()
        self._partial: _Partial | None = None
        model = condition.model
        absolute = recipe.aim.intent == "absolute"
        self.source = Source(source, absolute)
        self.print = Print(model)
        self.rebuilt = recipe.ink.method == "rebuilt"
        self.inverse = Inverse(model, condition.tables, recipe.ink.black, recipe.ink.limits)
        blacks = None
        # The perceptual and saturation mappings of Plinto's own start from matched blacks in any case.
        if recipe.aim.compensates_black or (self.rebuilt and recipe.aim.intent in _STYLES):
            blacks = (float(self.source.black_lab[0]), self._print_black())
        self.want = Want(model, absolute, blacks)
        self.aim = Aim(self._mapping())
        self.ink: RebuiltInk | ProfiledInk = (
            RebuiltInk(self.inverse)
            if self.rebuilt
            else ProfiledInk(source, condition.profile, recipe.aim.intent, recipe.aim.compensates_black)
        )

    @property
    def digest(self) -> str:
        """SHA-256 of all that the inks depend on: profiles, aim and ink settings."""
        parts = {
            "source": self.source.profile.digest,
            "condition": self.condition.profile.digest,
            "aim": asdict(self.recipe.aim),
            "ink": asdict(self.recipe.ink),
        }
        return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()

    def _print_black(self) -> float:
        if self.rebuilt:
            return float(self.inverse.black_point_lab[0])
        inks = cmm.from_lab(self.condition.profile, [[0.0, 0.0, 0.0]], "relative")
        return float(self.condition.model.lab(inks)[0, 0])

    def _mapping(self) -> GamutMapping | None:
        style = _STYLES.get(self.recipe.aim.intent)
        if style is None or not self.rebuilt:
            return None
        return GamutMapping(source_boundary(self.source, self.want), self.inverse.boundary, style)

    def inks(self, rgb: ArrayLike) -> Array:
        """RGB 0…1 (..., 3) to inks 0…1 (..., inks), exactly, without the link's grid."""
        if isinstance(self.ink, ProfiledInk):
            return self.ink.apply(rgb)
        return self.ink.apply(self.aim.apply(self.want.apply(self.source.apply(rgb))))

    @cached_property
    def link(self) -> Link | ProfiledLink:
        """What pictures go through: the baked chain, or the profiles' own tables."""
        if isinstance(self.ink, ProfiledInk):
            ink = self.ink
            return ProfiledLink(self.condition.model.inks, ink.source, ink.target, ink.intent, ink.bpc, self.digest)
        return self.baked

    @property
    def _points(self) -> int:
        if not self.rebuilt:
            return PROFILED_POINTS
        return ABSOLUTE_POINTS if self.recipe.aim.intent == "absolute" else REBUILT_POINTS

    @property
    def _bounds(self) -> tuple[Array, float]:
        inks = len(self.condition.model.inks)
        return (self.inverse.caps, self.inverse.total) if self.rebuilt else (np.ones(inks), float(inks))

    @cached_property
    def baked(self) -> Link:
        """The chain on a grid, which other software can be given as a device link."""
        return bake(self.inks, self.condition.model.inks, *self._bounds, self.digest, self._points)

    def link_for(self, pixels: Codes) -> Link | ProfiledLink:
        """A link that is good for these picture codes (..., 3): only the nodes they touch are computed.

        A picture touches a tenth of the grid. Nodes do not depend on each other, so the inks are the same as
        through the whole link.
        """
        if not self.rebuilt or "baked" in self.__dict__:
            return self.link
        used = nodes_used(pixels, self._points)
        with self._growing:
            if self._partial is None:
                empty = np.zeros((self._points**3, len(self.condition.model.inks)), np.uint16)
                self._partial = _Partial(empty, np.zeros(self._points**3, np.bool_))
            missing = np.flatnonzero(used & ~self._partial.solved)
            if len(missing):
                nodes = self._partial.nodes.copy()
                nodes[missing] = bake_nodes(self.inks, rgb_grid(self._points)[missing], *self._bounds)
                self._partial = _Partial(nodes, self._partial.solved | used)
            if self._partial.link is None:
                inks = self.condition.model.inks
                self._partial.link = Link(inks, self._points, self._partial.nodes, *self._bounds, "")
            return self._partial.link

    @cached_property
    def want_grid(self) -> ValueGrid:
        """RGB to wanted Lab, for measuring pictures."""
        nodes = self.want.apply(self.source.apply(rgb_grid(REBUILT_POINTS)))
        return ValueGrid(REBUILT_POINTS, nodes.astype(np.float32))

    def unlimited(self) -> "Chain":
        """The same chain with no limit on total ink, to see what the limit does."""
        if not self.rebuilt:
            return self
        limits = replace(self.recipe.ink.limits, total_percent=100.0 * len(self.condition.model.inks))
        ink = replace(self.recipe.ink, limits=limits)
        return Chain(replace(self.recipe, ink=ink), self.condition, self.source.profile)

    def delivering(self, deliver: DeliverStation) -> "Chain":
        """The same chain, already baked, for another way of writing; the inks stay the same."""
        other = copy.copy(self)
        other.recipe = replace(self.recipe, deliver=deliver)
        return other

    def trace(self, rgb: ArrayLike) -> Trace:
        """Every station's value for RGB 0…1 (..., 3), the inks as a file of the chosen depth holds them."""
        rgb = np.asarray(rgb, np.float64)
        source_lab = self.source.apply(rgb)
        want_lab = self.want.apply(source_lab)
        exact = self.inks(rgb)
        pixels = np.rint(rgb * 65535).astype(np.uint16)
        codes = self.link_for(pixels).inks_of(pixels, self.recipe.deliver.depth)
        inks = codes / float(np.iinfo(codes.dtype).max)
        print_lab = self.print.apply(inks)
        return Trace(
            rgb,
            source_lab,
            want_lab,
            self.print.apply(exact),
            inks,
            print_lab,
            delta_e_2000(want_lab, print_lab),
        )


_STYLES = {"perceptual": PERCEPTUAL, "saturation": SATURATION}


def compile_recipe(recipe: Recipe, condition: Condition, source: Profile) -> Chain:
    """The line of stations that a recipe asks for. Same recipe, same profiles: same inks, on every run."""
    return Chain(recipe, condition, source)
