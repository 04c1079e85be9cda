"""A recipe made into a line of stations, with what pictures and points need of it."""

import copy
from collections.abc import Callable
from dataclasses import asdict, replace
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.adjust.adjustment import Adjust
from plinto_core.adjust.regions import PixelGrid, region_weights
from plinto_core.chain.adjusted import AdjustedLink
from plinto_core.chain.growing import GrowingLink
from plinto_core.chain.kept_inks import KeptInks
from plinto_core.chain.library import Condition
from plinto_core.chain.link import Codes, Link, ValueGrid, bake, device_grid
from plinto_core.chain.node_store import LineNodes
from plinto_core.chain.profiled import ProfiledLink
from plinto_core.chain.spread import EVEN, Spread
from plinto_core.chain.stations import (
    Aim,
    BlackPointCompensation,
    Print,
    ProfiledInk,
    RebuiltInk,
    Source,
    matched_blacks,
)
from plinto_core.chain.trace import Trace
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.computed_once import computed_once
from plinto_core.errors import PipelineError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import driven_by_rgb, lab_to_inks
from plinto_core.pipeline.pipeline import Pipeline, Step
from plinto_core.pipeline.space import LAB, inks_space, space_of
from plinto_core.plate.station import Plates
from plinto_core.press.model import must_have_way_back
from plinto_core.recipe import AdjustStation, AimStation, DeliverStation, Recipe, canonical_digest
from plinto_core.recipe.limits import InkLimits
from plinto_core.recipe.plate import PlateStation
from plinto_core.recipe.region import Region
from plinto_core.separation.bounds import caps_and_total, ink_caps

if TYPE_CHECKING:
    from plinto_core.separation.inverse import Inverse

Array = NDArray[np.float64]
Comparison = Literal["reach", "unlimited", "complete"]

#: Nodes along each channel. Rebuilt inks are smooth over RGB; a profile's tables have corners, which a
#: device link made of them can only approach.
#: Absolute colors clip along the substrate's white as well, colors without black point compensation along its black, and
#: such an edge wants a finer grid.
REBUILT_POINTS, CLIPPED_POINTS, PROFILED_POINTS, CMYK_POINTS = 49, 97, 65, 17
#: Where they stand when inks are rebuilt from RGB: closer in the dark, where inks bend most a code, and towards white and
#: the full primaries. Over thirteen profiles 34 of 234 figures of the link miss their aim so, 51 with 0.75 in the dark and
#: 65 nodes where black is cut off. With 0.75 or 0.6 in the dark alone, light colors lose what dark ones gain.
REBUILT_SPREAD, CLIPPED_SPREAD = Spread(0.65, 0.85), Spread(0.6, 0.85)


class Chain:
    """Source → Adjust → Aim → Ink → Plate → print for one recipe, condition and source profile."""

    def __init__(self, recipe: Recipe, condition: Condition, source: Profile) -> None:
        self.recipe, self.condition = recipe, condition
        #: The line that this one is a copy of, for another way of writing: what is computed of either serves both.
        self.computed_with: Chain | None = None
        model = condition.model
        absolute = recipe.aim.intent == "absolute"
        self.channels = source.header.channels
        self.source = Source(source, absolute)
        self.adjust = Adjust(recipe.adjust.base, source)
        self.print = Print(model)
        self.rebuilt = recipe.ink.method == "rebuilt"
        if not self.rebuilt:
            must_have_way_back(condition.profile)
        self._limits = recipe.ink.limits.without(self._without()) if self._without() else recipe.ink.limits
        if driven_by_rgb(model.inks):
            # Its inks are its own affair: there is nothing to be limited here.
            self._limits = InkLimits(100.0 * len(model.inks))
        self._caps, self._total = caps_and_total(self._limits, recipe.ink.black, model.inks)
        self.plates = None if recipe.plate.is_nothing else Plates(recipe.plate, model.inks, *self.bounds)

    # What solves is loaded and computed where something is to be solved: a link whose nodes are kept needs none of it.

    @computed_once
    def inverse(self) -> "Inverse":
        """Lab to this condition's inks within the recipe's black and limits."""
        return self._inverse(self._limits)

    def _inverse(self, limits: InkLimits) -> "Inverse":
        from plinto_core.separation.inverse import Inverse

        return Inverse(self.condition.model, self.condition.tables, self.recipe.ink.black, limits)

    @computed_once
    def want(self) -> BlackPointCompensation:
        """See `BlackPointCompensation`."""
        aim = self.recipe.aim
        blacks = None
        # The perceptual and saturation mappings of Plinto's own start from matched blacks in any case.
        if aim.compensates_black or (self.rebuilt and aim.intent in _COMPRESSED):
            blacks = matched_blacks(self.source.black_lab, self._print_black_lab)
        return BlackPointCompensation(self.condition.model, self.source.absolute, blacks, hue_kept=self.rebuilt)

    @computed_once
    def aim(self) -> Aim:
        """See `Aim`."""
        if not self.rebuilt or self.recipe.aim.intent not in _COMPRESSED:
            return Aim(None)
        from plinto_core.chain.source_gamut import source_boundary
        from plinto_core.gamut.mapping import STYLES

        wide = source_boundary(self.source, self.want)
        return Aim(self.inverse.mapping_from(wide, STYLES[self.recipe.aim.intent]))

    @computed_once
    def ink(self) -> RebuiltInk | ProfiledInk:
        """The station that the recipe's method names."""
        aim = self.recipe.aim
        if self.rebuilt:
            return RebuiltInk(self.inverse, self.aim.mapping.style.hue if self.aim.mapping else 1.0)
        return ProfiledInk(self.source.profile, self.condition.profile, aim.intent, aim.compensates_black)

    def _without(self) -> tuple[str, ...]:
        """Inks left out everywhere but in regions that say otherwise."""
        without = self.recipe.ink.without
        only = any(region.black == "only" for region in self.recipe.adjust.regions)
        return (*without, "K") if only and "K" in self.condition.model.inks and "K" not in without else without

    @property
    def digest(self) -> str:
        """SHA-256 of all that the inks depend on: profiles, adjustments, aim, ink and plate settings."""
        parts = {
            "source": self.source.profile.digest,
            "condition": self.condition.profile.digest,
            **{name: asdict(getattr(self.recipe, name)) for name in ("adjust", "aim", "ink", "plate")},
        }
        return canonical_digest(parts)

    @property
    def print_black(self) -> float:
        """L* of the darkest neutral that the print has, all inks counted."""
        return float(self._print_black_lab[0])

    @computed_once
    def _print_black_lab(self) -> Array:
        if self.rebuilt:
            # With an ink left out colors are held, not rescaled to a poorer black: what is lost shows as ΔE.
            ink = self.recipe.ink
            limits = self._limits if driven_by_rgb(self.condition.model.inks) else ink.limits
            return (self.inverse if limits == self._limits else self._inverse(limits)).darkest_lab
        return np.asarray(self.condition.model.lab(lab_to_inks(self.condition.profile, [[0.0, 0.0, 0.0]]))[0])

    @computed_once
    def _kept(self) -> KeptInks | None:
        keep = self.recipe.ink.keep
        if not keep or self.channels != 4:
            return None
        # Adjustments come before: what is kept is looked up by adjusted values, so the look is the source's own.
        look = self.recipe.ink.keep_as == "look"
        return KeptInks(
            keep, self.source.profile, self.condition.model, self.bounds[0],
            (lambda device: self.want.apply(self.source.apply(device))) if look else None,
        )  # fmt: skip

    @computed_once
    def to_aim(self) -> Pipeline:
        """Adjust, source, match and aim: device values 0…1 to the Lab that the inks shall make."""
        device = space_of(self.source.profile)
        key = self.digest
        return Pipeline((
            Step("adjust", device, device, self.adjust.apply, key),
            Step("source", device, LAB, self.source.apply, key),
            Step("match", LAB, LAB, self.want.apply, key),
            Step("aim", LAB, LAB, self.aim.apply, key),
        ))  # fmt: skip

    @computed_once
    def pipeline(self) -> Pipeline:
        """Device values 0…1 to inks 0…1, exactly, without grid, regions and plates; every figure and link is made of it."""
        device, inks = (
            space_of(self.source.profile),
            inks_space(self.condition.model.inks, self.condition.profile.digest),
        )
        adjust = self.to_aim.stages[0]
        if not self.rebuilt:
            return Pipeline((adjust, Step("ink", device, inks, self.ink.apply, self.digest)))
        made = Pipeline((*self.to_aim.stages[1:], Step("ink", LAB, inks, self.ink.apply, self.digest)))
        if self._kept is None:
            return Pipeline((adjust, *made.stages))
        kept = self._kept
        # What is kept is told by the values themselves, so source, aim and ink are one step for such a line.
        return Pipeline((adjust, Step("ink", device, inks, lambda values: kept.around(made, values), self.digest)))

    def wanted_lab(self, device: ArrayLike) -> Array:
        """Device values (..., channels) to the Lab wanted on the substrate (..., 3), adjusted, before the aim."""
        return self.to_aim.up_to("match").apply(device)

    def inks(self, device: ArrayLike) -> Array:
        """Device values 0…1 (..., channels) to inks 0…1 (..., inks), exactly, without grid, regions and plates."""
        return self.pipeline.apply(device)

    @computed_once
    def link(self) -> Link | ProfiledLink | AdjustedLink:
        """What pictures go through up to Ink: the baked chain, or the profiles' own tables."""
        if self.rebuilt:
            return self.baked
        aim, target = self.recipe.aim, self.condition.profile
        plain = ProfiledLink(
            self.condition.model.inks, self.source.profile, target, aim.intent, aim.compensates_black, self.digest
        )
        return plain if self.adjust.adjustment.is_nothing else AdjustedLink(self.adjust, plain)

    @property
    def _points(self) -> int:
        if self.channels == 4:
            return CMYK_POINTS
        if self.channels != 3:
            raise PipelineError(
                f"'{self.source.profile.name}' describes {self.channels} channels, and pictures have three or four: send "
                "its colors through a route."
            )
        if not self.rebuilt:
            return PROFILED_POINTS
        return REBUILT_POINTS if self.recipe.aim.compensates_black else CLIPPED_POINTS

    @property
    def _spread(self) -> Spread:
        if not self.rebuilt or self.channels == 4:
            return EVEN
        return REBUILT_SPREAD if self.recipe.aim.compensates_black else CLIPPED_SPREAD

    @property
    def bounds(self) -> tuple[Array, float]:
        """Largest value of each ink (inks,), and of their sum, as fractions."""
        inks = self.condition.model.inks
        if not self.rebuilt:
            return np.ones(len(inks)), float(len(inks))
        caps = self._caps.copy()
        if self.channels == 4 and any("K" in each for each in self.recipe.ink.keep) and "K" in inks:
            # "Black at most" is for the black that is generated; pure black of the artwork only knows the ink's limit.
            at = inks.index("K")
            caps[at] = ink_caps(self._limits, inks)[at]
        return caps, self._total

    @property
    def written_inks(self) -> tuple[str, ...]:
        """Inks that a delivered file holds: the separation's, or the printer's own behind its calibration."""
        behind = self.condition.calibration if self.recipe.deliver.calibrated else None
        return behind.device_inks if behind else self.condition.model.inks

    @computed_once
    def baked(self) -> Link:
        """The chain on a grid, which other software can be given as a device link."""
        if self.rebuilt:
            return self._growing.whole()
        # Tables of a profile are quick to ask, and asked for whole.
        inks = self.condition.model.inks
        return bake(self.inks, inks, *self.bounds, self.digest, self._points, self.channels, self._spread)

    @computed_once
    def _growing(self) -> GrowingLink:
        inks, store = self.condition.model.inks, self.condition.nodes
        nodes = np.zeros((self._points**self.channels, len(inks)), np.uint16)
        empty = Link(inks, self._points, nodes, *self.bounds, self.digest, self.channels, self._spread)
        kept = LineNodes(store, self.condition.profile.digest, self._node_digest) if store else None
        return GrowingLink(empty, self.inks, kept)

    def link_for(self, pixels: Codes) -> Link | ProfiledLink | AdjustedLink:
        """A link that is good for these picture codes (..., channels): only the nodes they touch are computed."""
        if self.computed_with is not None:
            return self.computed_with.link_for(pixels)
        if not self.rebuilt or "baked" in self.__dict__:
            return self.link
        return self._growing.for_pixels(pixels)

    @property
    def _node_digest(self) -> str:
        # Regions have lines of their own, plates come after the link.
        without = "".join(self._without())
        adjust = asdict(self.recipe.adjust.base)
        parts = {"aim": asdict(self.recipe.aim), "ink": asdict(self.recipe.ink), "adjust": adjust, "without": without}
        return canonical_digest({**parts, "source": self.source.profile.digest})

    def keep_nodes(self) -> None:
        """Keep on disk what was solved, for the next process: for lines that files are made of."""
        if self.computed_with is not None:
            self.computed_with.keep_nodes()
            return
        if self.rebuilt:
            self._growing.keep()
        for _, inside in self.regions:
            inside.keep_nodes()

    @computed_once
    def regions(self) -> tuple[tuple[Region, "Chain"], ...]:
        """Every region with the line that holds inside it, lowest first."""
        found = []
        for region in self.recipe.adjust.regions:
            without = self.recipe.ink.without
            if region.black == "none" and "K" in self.condition.model.inks:
                without = tuple(sorted({*without, "K"}))
            adjust = AdjustStation(region.adjustment if not region.adjustment.is_nothing else self.recipe.adjust.base)
            inside = replace(
                self.recipe,
                adjust=adjust,
                ink=replace(self.recipe.ink, without=without),
                plate=PlateStation(),
            )
            # Where black is kept to some regions, the others go without it like the rest.
            if region.black != "only" and self._without() != self.recipe.ink.without:
                inside = replace(inside, ink=replace(inside.ink, without=self._without()))
            found.append((region, Chain(inside, self.condition, self.source.profile)))
        return tuple(found)

    @computed_once
    def source_grid(self) -> ValueGrid:
        """Device values to the source's own Lab, media-relative and unadjusted: what color ranges are told by."""
        return self._grid(lambda device: cmm.to_lab(self.source.profile, device))

    @computed_once
    def want_grid(self) -> ValueGrid:
        """Device values to wanted Lab, for measuring pictures; regions aside."""
        return self._grid(self.wanted_lab)

    @computed_once
    def lightness_grid(self) -> ValueGrid:
        """Device values to adjusted lightness 0…100 between the source's own black and white, (…, 1)."""
        darkest = float(self.source.black_lab[0])
        scale = 100 / (100 - darkest)

        def lightness(device: Array) -> Array:
            return np.clip((self.source.apply(self.adjust.apply(device))[..., :1] - darkest) * scale, 0, 100)

        return self._grid(lightness)

    def _grid(self, values: Callable[[Array], Array]) -> ValueGrid:
        points = CMYK_POINTS if self.channels == 4 else REBUILT_POINTS
        nodes = values(device_grid(points, self.channels))
        return ValueGrid(points, nodes.astype(np.float32), self.channels)

    def weights(self, region: Region, pixels: Codes, places: PixelGrid) -> NDArray[np.float32]:
        """How far pixels (h, w, channels) lie in a region, (h, w) 0…1."""
        return region_weights(region, places, self.source_grid.at(pixels) if region.color else None)

    def blended(
        self, pixels: Codes, places: PixelGrid, values: Callable[["Chain", Codes], NDArray[np.float32]]
    ) -> NDArray[np.float32]:
        """Values (h, w, m) of pixels by this line, blended with those of the regions' lines where they weigh."""
        out = values(self, pixels)
        for region, inside, part, weights in self._weighing(pixels, places):
            del region
            other = values(inside, np.ascontiguousarray(pixels[part]))
            out[part] += weights[..., None] * (other - out[part])
        return out

    def _weighing(self, pixels: Codes, places: PixelGrid) -> "list[tuple[Region, Chain, Any, NDArray[np.float32]]]":
        """For each region that has a part in these pixels: its line, that part as slices, and the weights there."""
        found = []
        for region, inside in self.regions:
            weights = self.weights(region, pixels, places)
            rows, columns = np.flatnonzero(weights.any(axis=1)), np.flatnonzero(weights.any(axis=0))
            if len(rows):
                part = slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1)
                found.append((region, inside, part, weights[part]))
        return found

    def wanted(self, pixels: Codes, places: PixelGrid) -> NDArray[np.float32]:
        """Wanted Lab (h, w, 3) of picture codes (h, w, channels), adjustments and regions included."""
        return self.blended(pixels, places, lambda line, part: line.want_grid.at(part))

    def separated(self, pixels: Codes, places: PixelGrid, depth: int, *, whole: bool = False) -> Codes:
        """Ink codes (h, w, inks) before Plate; `whole` bakes the whole link, as for files."""
        link = self.link if whole else self.link_for(pixels)
        out = link.inks_of(pixels, depth)
        for _region, inside, part, weights in self._weighing(pixels, places):
            piece = np.ascontiguousarray(pixels[part])
            other = (inside.link if whole else inside.link_for(piece)).inks_of(piece, depth)
            # Rounded down: a mean of two pixels that hold a limit holds it as well.
            share = np.rint(weights * 65536).astype(np.uint64)[..., None]
            mixed = out[part].astype(np.uint64) * (65536 - share) + other.astype(np.uint64) * share
            out[part] = mixed >> np.uint64(16)
        return out

    def ink_codes(self, pixels: Codes, places: PixelGrid, depth: int, *, whole: bool = False) -> Codes:
        """Picture codes (h, w, channels) to the ink codes (h, w, inks) that are written, of `depth` bits."""
        if self.plates is None:
            return self.separated(pixels, places, depth, whole=whole)
        return self.plates.apply(self.separated(pixels, places, 16, whole=whole), depth)

    def after_press_gain(self, codes: Codes) -> Codes:
        """Written ink codes as this press prints them: the same, but for a gain that Plate compensates."""
        return self.plates.after_press_gain(codes) if self.plates else codes

    def printed(self, pixels: Codes, places: PixelGrid) -> NDArray[np.float32]:
        """Media-relative Lab (h, w, 3) that the written inks print."""
        codes = self.ink_codes(pixels, places, self.recipe.deliver.ink_depth)
        return self.condition.model.lab_of_codes(self.after_press_gain(codes))

    def comparison_line(self, which: Comparison) -> "Chain":
        """The line that this one is compared with; itself where they are the same."""
        recipe = comparison_recipe(self.recipe, len(self.condition.model.inks), which)
        return self if recipe == self.recipe else Chain(recipe, self.condition, self.source.profile)

    def delivering(self, deliver: DeliverStation) -> "Chain":
        """The same chain, already baked, for another way of writing; the inks stay the same."""
        other = copy.copy(self)
        other.recipe = replace(self.recipe, deliver=deliver)
        other.computed_with = self.computed_with or self
        return other

    def trace(self, device: ArrayLike, places: PixelGrid | None = None) -> Trace:
        """Every station's value for device values 0…1 (n, channels), the inks as a file of the chosen depth has them.

        `places` puts the colors on the artwork, as a grid of one row; without it no region counts.
        """
        device = np.atleast_2d(np.asarray(device, np.float64))
        pixels = np.rint(device * 65535).astype(np.uint16)[None]
        line = self if places else Chain(_without_regions(self.recipe), self.condition, self.source.profile)
        at = places or PixelGrid(np.zeros(len(device)), np.zeros(1), 1, 1)

        def follow(values: Callable[[Chain], Array]) -> Array:
            """Exact values of this line, blended with those of the regions."""
            out = values(line)
            for region, inside in line.regions:
                weight = line.weights(region, pixels, at)[0][:, None]
                out = out + weight * (values(inside) - out) if weight.any() else out
            return out

        source_lab = line.source.apply(device)
        adjusted = follow(lambda each: each.adjust.apply(device))
        want_lab = follow(lambda each: each.wanted_lab(device))
        codes = line.ink_codes(pixels, at, self.recipe.deliver.ink_depth)[0]
        print_lab = line.print.apply(line.after_press_gain(codes) / float(np.iinfo(codes.dtype).max))
        return Trace(
            device,
            source_lab,
            adjusted,
            line.source.apply(adjusted),
            want_lab,
            follow(lambda each: each.to_aim.apply(device)),
            codes / float(np.iinfo(codes.dtype).max),
            print_lab,
            delta_e_2000(want_lab, print_lab),
        )


def comparison_recipe(recipe: Recipe, inks: int, which: Comparison) -> Recipe:
    """The recipe of the line that tells what is out of gamut ('reach': colorimetric, all else alike), what the total
    limit does ('unlimited'), or what leaving inks out loses ('complete')."""
    ink = recipe.ink
    if which == "reach":
        colorimetric = recipe.aim.intent in ("relative", "absolute")
        return recipe if colorimetric else replace(recipe, aim=AimStation("relative", True))
    if ink.method == "as-profiled":
        return recipe
    if which == "unlimited":
        return replace(recipe, ink=replace(ink, limits=replace(ink.limits, total_percent=100.0 * inks)))
    regions = tuple(replace(region, black="as set") for region in recipe.adjust.regions)
    return replace(recipe, ink=replace(ink, without=()), adjust=replace(recipe.adjust, regions=regions))


#: The intents that bring the whole source into what the print reaches, relations kept.
_COMPRESSED = ("perceptual", "saturation")


def _without_regions(recipe: Recipe) -> Recipe:
    return replace(recipe, adjust=AdjustStation(recipe.adjust.base)) if recipe.adjust.regions else recipe


def compile_recipe(recipe: Recipe, condition: Condition, source: Profile) -> Chain:
    """The line of stations that a recipe asks for. Same recipe, same profiles: same inks, on every run."""
    return Chain(recipe, condition, source)
