"""How far a source's colors reach, and what that is on a substrate."""

from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.stations import BlackPointCompensation, Source
from plinto_core.colorimetry.straight import lab_to_straight
from plinto_core.gamut.boundary import Boundary, boundary_of_surface, leaned_on
from plinto_core.icc.profile import parse
from plinto_core.pipeline.space import space_of
from plinto_core.press.model import ForwardModel, model_from_profile
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse, go_around, precompute

Array = NDArray[np.float64]


def surface_lab(source: Source) -> Array:
    """Lab (n, 3) of the surface of an RGB source's gamut."""
    axis = np.linspace(0, 1, 17)
    u, v = (grid.ravel() for grid in np.meshgrid(axis, axis))
    faces = []
    for fixed in range(3):
        for level in (0.0, 1.0):
            face = np.insert(np.column_stack([u, v]), fixed, level, axis=1)
            faces.append(face)
    # The circle of pure hues once more and closely, since gamuts come to a point there.
    corners = np.array([[1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 1, 1], [0, 0, 1], [1, 0, 1], [1, 0, 0]], float)
    along = np.linspace(0, 6, 6 * 48 + 1)
    circle = np.column_stack([np.interp(along, np.arange(7), corners[:, k]) for k in range(3)])
    return source.apply(np.concatenate([*faces, circle]))


@cache
def _far_inks(raw: bytes) -> tuple[Array, bool]:
    """Inks (..., inks) of the furthest colors of an output profile, and whether they go around the neutrals; where they do
    not, or it is a gray, inks from everywhere."""
    profile = parse(raw)
    if profile.header.channels == 1:
        return np.linspace(0, 1, 65)[:, None], False
    model = model_from_profile(profile)
    inverse = Inverse(model, precompute(model), BLACK_PRESETS["gcr"], InkLimits(100.0 * len(model.inks)))
    return (inverse.surface_inks, True) if go_around(model) else (inverse.everywhere_inks, False)


@lru_cache(64)
def _boundary(
    source: bytes, absolute: bool, white_xyz: bytes, blacks: tuple[float, float] | None, hue_kept: bool
) -> Boundary:
    """Triangulating a surface takes most of the time of a mapping, and many recipes share one."""
    model = ForwardModel((), 0, np.empty((0, 3), np.float32), np.frombuffer(white_xyz))
    told, want = Source(parse(source), absolute), BlackPointCompensation(model, absolute, blacks, hue_kept)
    if space_of(told.profile).kind == "rgb":
        return boundary_of_surface(lab_to_straight(want.apply(surface_lab(told))))
    inks, around = _far_inks(source)
    found = lab_to_straight(want.apply(told.apply(inks)))
    return boundary_of_surface(found) if around else leaned_on(found)


def source_boundary(source: Source, want: BlackPointCompensation) -> Boundary:
    """The source's gamut as it is wanted on the substrate, in straight coordinates."""
    white = want.model.white_xyz.tobytes()
    return _boundary(source.profile.raw, want.absolute, white, want.blacks, want.hue_kept)
