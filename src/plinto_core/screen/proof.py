"""What is shown on a screen: the artwork, the print computed from the ink codes as written, plates, marks."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, Literal, cast

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.adjustment import hue_weight
from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.figures import pixel_differences, pixel_loss
from plinto_core.chain.compiled import CMYK_POINTS, REBUILT_POINTS, Chain, Comparison
from plinto_core.chain.link import ValueGrid, device_grid
from plinto_core.chain.stations import BlackPointCompensation
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.deliver.halftone import dots_seen, mean_seen
from plinto_core.deliver.negative import NegativeLine
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.press.model import ForwardModel
from plinto_core.raster.opened import Codes
from plinto_core.raster.picture_kernels import hatch

Screen = NDArray[np.uint8]
Field = NDArray[np.float32]

#: ΔE00 that the map of differences shows as black.
MAP_TOP = 15.0
#: From a display's values to its light, near enough for mixing dots (IEC 61966-2-1).
_SCREEN_GAMMA = 2.2
#: From this ΔE00 on a display is said not to show a color.
_DISPLAY_TOLERANCE = 2.0


@dataclass(frozen=True)
class Marks:
    """Hatching over the picture: where ΔE00 or total ink exceeds a threshold."""

    tolerance: float = 3.0
    color: tuple[int, int, int] = (255, 255, 255)
    angle_deg: float = 38.0


@dataclass(frozen=True)
class ColorFamily:
    """A wanted Lab and the distance (ΔE*ab) within which colors belong to it."""

    lab: tuple[float, float, float]
    radius: float


@dataclass(frozen=True)
class HueRange:
    """A range of CIELAB hue angles of the artwork: its middle and its whole width in degrees."""

    center_deg: float
    width_deg: float


@dataclass(frozen=True)
class RenderRequest:
    """What to show. `plates` empty means all inks; `tint` shows plates in ink color or as gray.

    `show` 'artwork' is the original, 'adjusted' what Adjust makes of it, 'film' the dots that films are
    made of, 'negative' the contact negative, not mirrored. `mark` hatches what is out of gamut, what
    leaving inks out loses, what the display cannot show, a color family, a range of hues of the artwork, or the
    region named `region`.
    """

    show: Literal["artwork", "adjusted", "print", "coverage", "difference", "film", "negative"] = "print"
    substrate: bool = False
    black_depth: bool = True
    plates: tuple[str, ...] = ()
    tint: Literal["ink", "gray"] = "ink"
    mark: Literal["", "gamut", "loss", "display", "family", "hue", "region"] = ""
    family: ColorFamily | None = None
    hue: HueRange | None = None
    region: str = ""
    marks: Marks = Marks()


def display_lab(model: ForwardModel, substrate: bool, stretched_from: float | None = None) -> NDArray[np.float64]:
    """Lab (nodes, 3) that a display is to show for the model's grid nodes.

    With `substrate` the color of the stock is shown too: ICC-absolute Lab is taken as it is. The print's black
    keeps its depth, unless its L* is given: then it is stretched to the display's, as black point compensation does.
    """
    relative = model.nodes.astype(np.float64)
    lab = model.to_absolute(relative) if substrate else relative
    return lab if stretched_from is None else BlackPointCompensation(model, False, (stretched_from, 0.0)).apply(lab)


def display_nodes(
    model: ForwardModel, display: Profile, substrate: bool, stretched_from: float | None = None
) -> NDArray[np.float32]:
    """Display RGB (nodes, 3) 0…255 at the model's grid nodes."""
    lab = display_lab(model, substrate, stretched_from)
    return np.asarray(np.clip(cmm.from_lab(display, lab), 0, 1) * 255, np.float32)


def display_gap_nodes(model: ForwardModel, display: Profile, substrate: bool) -> NDArray[np.float32]:
    """ΔE00 (nodes, 1) between what the print looks like and the nearest that the display can show."""
    lab = display_lab(model, substrate)
    shown = cmm.to_lab(display, np.clip(cmm.from_lab(display, lab), 0, 1))
    return np.asarray(delta_e_2000(lab, shown), np.float32)[:, None]


def display_gap_share(model: ForwardModel, display: Profile, substrate: bool) -> float:
    """Share (0…1) of the condition's gamut, by volume in Lab, that the display cannot show."""
    lab = display_lab(model, substrate)
    # One node a cell of 4 ΔE stands for that cell: nodes lie dense where inks change little.
    _, first = np.unique(np.floor(lab / 4).astype(int), axis=0, return_index=True)
    return float((display_gap_nodes(model, display, substrate)[first, 0] > _DISPLAY_TOLERANCE).mean())


def artwork_grid(
    source: Profile, display: Profile, adjust: Callable[[Any], Any] = lambda device: device
) -> ValueGrid:
    """Source device values to display RGB 0…255, media-relative, after `adjust`."""
    channels = source.header.channels
    points = CMYK_POINTS if channels == 4 else REBUILT_POINTS
    shown = cmm.convert(source, display, adjust(device_grid(points, channels)), "relative")
    return ValueGrid(points, np.asarray(np.clip(shown, 0, 1) * 255, np.float32), channels)


def _to_screen(values: NDArray[np.float32]) -> Screen:
    return np.asarray(values + np.float32(0.5), np.uint8)


def show_inks(codes: Codes, model: ForwardModel, nodes: NDArray[np.float32], view: RenderRequest) -> Screen:
    """Ink codes (h, w, inks) as print, or as the plates that the view names."""
    chosen = [i for i, ink in enumerate(model.inks) if ink in view.plates]
    if chosen and view.tint == "gray":
        top = np.iinfo(codes.dtype).max
        strongest = codes[..., chosen].max(axis=-1).astype(np.float32) * np.float32(255 / top)
        return np.repeat(_to_screen(255 - strongest)[..., None], 3, axis=-1)
    if chosen:
        only = np.zeros_like(codes)
        only[..., chosen] = codes[..., chosen]
        codes = only
    return model.screen_codes(codes, nodes)


def _gray(darkness: NDArray[np.floating[Any]]) -> Screen:
    """Darkness 0…1 as gray, white to nearly black."""
    return np.repeat(_to_screen(255 - 240 * np.minimum(darkness, 1).astype(np.float32))[..., None], 3, axis=-1)


def _finer(axis: NDArray[np.floating[Any]], times: int) -> NDArray[np.float64]:
    """Pixel centers, each cut into `times` even parts."""
    if times == 1:
        return np.asarray(axis, np.float64)
    parts = (np.arange(times) + 0.5) / times - 0.5
    return np.asarray((axis[:, None] + parts).ravel(), np.float64)


class Renderer:
    """A line as one display shows it.

    `comparison_line` gives the lines it is compared with, `kept` a result by its key, so that whoever shows many scenes
    computes each table once.
    """

    def __init__(
        self,
        line: Chain,
        display: Profile,
        comparison_line: Callable[[Comparison], Chain] | None = None,
        kept: Callable[[Hashable, Callable[[], Any]], Any] = lambda key, make: make(),
    ) -> None:
        self.line, self.display = line, display
        self._comparison_line = comparison_line or line.comparison_line
        self._kept = kept

    def _artwork_grid(self) -> ValueGrid:
        source, display = self.line.source.profile, self.display
        return cast(
            ValueGrid,
            self._kept(("artwork", source.digest, display.digest), lambda: artwork_grid(source, display)),
        )

    def _adjusted_grid(self, line: Chain) -> ValueGrid:
        if line.adjust.adjustment.is_nothing:
            return self._artwork_grid()
        source, display = line.source.profile, self.display
        key = ("adjusted", source.digest, display.digest, line.adjust.adjustment)
        return cast(ValueGrid, self._kept(key, lambda: artwork_grid(source, display, line.adjust.apply)))

    def _nodes(self, view: RenderRequest) -> NDArray[np.float32]:
        model, display = self.line.condition.model, self.display
        black = None if view.black_depth else self.line.print_black
        key = ("display", model.digest, display.digest, view.substrate, black)
        made = self._kept(key, lambda: display_nodes(model, display, view.substrate, black))
        return cast(NDArray[np.float32], made)

    def _gap(self, view: RenderRequest) -> NDArray[np.float32]:
        model, display = self.line.condition.model, self.display
        key = ("gap", model.digest, display.digest, view.substrate)
        return cast(NDArray[np.float32], self._kept(key, lambda: display_gap_nodes(model, display, view.substrate)))

    def render(
        self,
        view: RenderRequest,
        pixels: Codes,
        places: PixelGrid,
        corner: tuple[int, int] = (0, 0),
        enlarge: int = 1,
    ) -> Screen:
        """Picture codes (h, w, channels) as the view asks for; `corner` keeps hatching in place while dragging.

        `enlarge` repeats pixels before marks are drawn, so that hatching stays fine at high zoom.
        """

        def enlarged(values: NDArray[Any]) -> NDArray[Any]:
            wide = values.repeat(enlarge, axis=0).repeat(enlarge, axis=1) if enlarge > 1 else values
            return np.ascontiguousarray(wide)

        picture = enlarged(self._picture(view, pixels, places))
        threshold, reach, field = self._mark(view, pixels, places)
        if field is not None:
            color = np.array(view.marks.color, np.uint8)
            hatch(picture, enlarged(field), threshold, reach, np.radians(view.marks.angle_deg), color, *corner)
        return picture

    def _picture(self, view: RenderRequest, pixels: Codes, places: PixelGrid) -> Screen:
        if view.show == "artwork":
            return _to_screen(self._artwork_grid().at(pixels))
        if view.show == "adjusted":
            return _to_screen(
                self.line.blended(pixels, places, lambda line, part: self._adjusted_grid(line).at(part))
            )
        if view.show == "coverage":
            return _gray(self._total(pixels, places) / (100 * len(self.line.condition.model.inks)))
        if view.show == "difference":
            return _gray(pixel_differences(self.line, pixels, places) / np.float32(MAP_TOP))
        if view.show == "negative":
            tones = NegativeLine(self.line, self.line.recipe.deliver.negative.table).tones(pixels, places)
            return np.repeat(np.asarray(255 - (tones >> 8), np.uint8)[..., None], 3, axis=-1)
        codes = self.line.ink_codes(pixels, places, self.line.recipe.deliver.ink_depth)
        if not view.plates:
            codes = self.line.after_press_gain(codes)
        return show_inks(codes, self.line.condition.model, self._nodes(view), view)

    def film(self, view: RenderRequest, pixels: Codes, places: PixelGrid, zoom: float, ppi: float) -> Screen:
        """The dots of the Deliver station's films, one plate in gray or all in their inks, a screen pixel each.

        `zoom` is screen pixels for an artwork pixel; from 1 on, pixels are repeated as a film has them.
        """
        settings, model = self.line.recipe.deliver.film, self.line.condition.model
        codes = self.line.ink_codes(pixels, places, 16)
        times = max(1, round(zoom))
        if times > 1:
            codes = codes.repeat(times, axis=0).repeat(times, axis=1)
        xs, ys = (_finer(axis, times) for axis in (places.xs, places.ys))
        film_scale = (settings.dpi if settings.halftone else ppi) / ppi
        chosen = [ink for ink in model.inks if not view.plates or ink in view.plates]
        primaries = self._primaries(view, chosen)
        index = [model.inks.index(ink) for ink in chosen]
        if view.tint == "gray" or len(chosen) == 1:
            return _to_screen(dots_seen(codes[..., index], xs, ys, film_scale, settings, tuple(chosen), primaries))
        # Dots mix in the eye as light, and grow on press: so dots are drawn with the colors of solids and overprints in
        # light, and brought to what the same inks print. From afar the rosette is the proof.
        light = (primaries / np.float32(255)) ** np.float32(_SCREEN_GAMMA)
        seen = dots_seen(codes[..., index], xs, ys, film_scale, settings, tuple(chosen), light)
        alone = np.zeros_like(codes)
        alone[..., index] = codes[..., index]
        print_ = model.interpolate_codes(self.line.after_press_gain(alone), self._nodes(view))
        printed = (np.clip(print_, 0, 255) / np.float32(255)) ** np.float32(_SCREEN_GAMMA)
        seen *= printed / np.maximum(mean_seen(codes[..., index], light), np.float32(1e-4))
        return _to_screen(np.clip(seen, 0, 1) ** np.float32(1 / _SCREEN_GAMMA) * np.float32(255))

    def _primaries(self, view: RenderRequest, inks: list[str]) -> NDArray[np.float32]:
        """Display color of every overprint of solids of `inks`, the first the lowest bit; one plate is black."""
        if len(inks) == 1 or view.tint == "gray":
            return np.repeat(np.array([[255.0]] + [[0.0]] * (2 ** len(inks) - 1), np.float32), 3, axis=1)
        model = self.line.condition.model
        solids = np.zeros((2 ** len(inks), len(model.inks)), np.uint8)
        for which in range(len(solids)):
            for k, ink in enumerate(inks):
                solids[which, model.inks.index(ink)] = 255 * (which >> k & 1)
        return model.interpolate_codes(solids, self._nodes(view))

    def _total(self, pixels: Codes, places: PixelGrid) -> Field:
        """Total ink in percent before limiting (h, w)."""
        wanted = self._comparison_line("unlimited").ink_codes(pixels, places, 8)
        return np.asarray(wanted.sum(axis=-1, dtype=np.int32) * (100 / 255), np.float32)

    def _mark(self, view: RenderRequest, pixels: Codes, places: PixelGrid) -> tuple[float, float, Field | None]:  # noqa: PLR0911
        """Threshold, the rise over it at which hatching is densest, and the field (h, w) it is compared with."""
        tolerance = view.marks.tolerance
        if view.show == "coverage":
            return self.line.recipe.ink.limits.total_percent + 0.2, 100.0, self._total(pixels, places)
        if view.mark == "region":
            region = next((each for each, _ in self.line.regions if each.name == view.region), None)
            return 0.05, 1.5, self.line.weights(region, pixels, places) if region else None
        if view.mark == "hue" and view.hue:
            lab = self.line.source_grid.at(pixels)
            return 0.05, 1.5, hue_weight(lab, view.hue.center_deg, view.hue.width_deg).astype(np.float32)
        if view.show in ("artwork", "adjusted", "negative"):
            return 0.0, 1.0, None
        if view.mark == "gamut":
            return tolerance, 15.0, pixel_differences(self._comparison_line("reach"), pixels, places)
        if view.mark == "loss":
            return tolerance, 15.0, pixel_loss(self.line, self._comparison_line("complete"), pixels, places)
        if view.mark == "display":
            codes = self.line.after_press_gain(self.line.ink_codes(pixels, places, 8))
            return (
                _DISPLAY_TOLERANCE,
                15.0,
                self.line.condition.model.interpolate_codes(codes, self._gap(view))[..., 0],
            )
        if view.mark == "family" and view.family:
            away = np.linalg.norm(self.line.wanted(pixels, places) - np.array(view.family.lab, np.float32), axis=-1)
            return 0.0, 1.0, np.asarray(view.family.radius - away, np.float32)
        return 0.0, 1.0, None
