"""What is shown on a screen: the artwork, the print computed from the ink codes as written, plates, marks."""

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from plinto_core.artwork.figures import pixel_differences
from plinto_core.artwork.opened import Codes
from plinto_core.artwork.picture_kernels import hatch
from plinto_core.chain.compiled import REBUILT_POINTS, Chain
from plinto_core.chain.link import ValueGrid, rgb_grid
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.press.model import ForwardModel

Screen = NDArray[np.uint8]


@dataclass(frozen=True)
class Marks:
    """Hatching over the picture: where ΔE00 or total ink exceeds a threshold."""

    tolerance: float = 3.0
    color: tuple[int, int, int] = (255, 255, 255)
    angle_deg: float = 38.0


@dataclass(frozen=True)
class View:
    """What to show. `plates` empty means all inks; `tint` shows plates in ink color or as gray."""

    show: Literal["artwork", "print", "coverage"] = "print"
    substrate: bool = False
    plates: tuple[str, ...] = ()
    tint: Literal["ink", "gray"] = "ink"
    mark_gamut: bool = False
    marks: Marks = Marks()


def display_nodes(model: ForwardModel, display: Profile, substrate: bool) -> NDArray[np.float32]:
    """Display RGB (nodes, 3) 0…255 at the model's grid nodes, the depth of the print's black kept.

    With `substrate` the color of the stock is shown too: ICC-absolute Lab is taken as it is.
    """
    lab = model.to_absolute(model.nodes) if substrate else model.nodes.astype(np.float64)
    return np.asarray(np.clip(cmm.from_lab(display, lab), 0, 1) * 255, np.float32)


def artwork_grid(source: Profile, display: Profile) -> ValueGrid:
    """Source RGB to display RGB 0…255, media-relative."""
    shown = cmm.convert(source, display, rgb_grid(REBUILT_POINTS), "relative")
    return ValueGrid(REBUILT_POINTS, np.asarray(np.clip(shown, 0, 1) * 255, np.float32))


def _to_screen(values: NDArray[np.float32]) -> Screen:
    return np.asarray(values + np.float32(0.5), np.uint8)


def show_artwork(pixels: Codes, grid: ValueGrid) -> Screen:
    """Picture codes (h, w, 3) as the display shows them."""
    return _to_screen(grid.at(pixels))


def show_inks(codes: Codes, model: ForwardModel, nodes: NDArray[np.float32], view: View) -> Screen:
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
    return _to_screen(model.interpolate_codes(codes, nodes))


def show_coverage(wanted: Codes, limit_percent: float, marks: Marks, corner: tuple[int, int]) -> Screen:
    """Total ink before limiting as gray (white: none, dark: the most there can be), hatched over the limit."""
    top = np.iinfo(wanted.dtype).max
    total = wanted.sum(axis=-1, dtype=np.int32).astype(np.float32) * np.float32(100 / top)
    gray = _to_screen(255 - 240 * np.minimum(total / (100 * wanted.shape[-1]), 1))
    picture = np.repeat(gray[..., None], 3, axis=-1)
    color = np.array(marks.color, np.uint8)
    hatch(picture, total, limit_percent + 0.2, 100.0, np.radians(marks.angle_deg), color, *corner)
    return picture


def render(
    view: View, pixels: Codes, chain: Chain, reach: Chain, unlimited: Chain,
    nodes: NDArray[np.float32], grid: ValueGrid, corner: tuple[int, int] = (0, 0), enlarge: int = 1,
) -> Screen:  # fmt: skip
    """Picture codes (h, w, 3) as the view asks for; `corner` keeps hatching in place while dragging.

    `enlarge` repeats pixels before marks are drawn, so that hatching stays fine at high zoom.
    """

    def enlarged(values: NDArray[Any]) -> NDArray[Any]:
        return values.repeat(enlarge, axis=0).repeat(enlarge, axis=1) if enlarge > 1 else values

    if view.show == "artwork":
        return np.ascontiguousarray(enlarged(show_artwork(pixels, grid)))
    model = chain.condition.model
    if view.show == "coverage":
        wanted = enlarged(unlimited.link_for(pixels).inks_of(pixels))
        limit = chain.recipe.ink.limits.total_percent
        return show_coverage(wanted, limit, view.marks, corner)
    codes = chain.link_for(pixels).inks_of(pixels, chain.recipe.deliver.depth)
    picture = np.ascontiguousarray(enlarged(show_inks(codes, model, nodes, view)))
    if view.mark_gamut:
        field = np.ascontiguousarray(enlarged(pixel_differences(reach, pixels)))
        color = np.array(view.marks.color, np.uint8)
        angle = np.radians(view.marks.angle_deg)
        hatch(picture, field, view.marks.tolerance, 15.0, angle, color, *corner)
    return picture
