"""How far a source's colors reach, and what that is on a substrate."""

from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.stations import BlackPointCompensation, Source
from plinto_core.colorimetry.straight import lab_to_straight
from plinto_core.gamut.boundary import Boundary, boundary_of_surface
from plinto_core.icc.profile import parse
from plinto_core.press.model import ForwardModel, model_from_profile
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse, precompute

Array = NDArray[np.float64]


def surface_lab(source: Source) -> Array:
    """Lab (n, 3) of the surface of a source's gamut."""
    if source.profile.header.channels != 3:
        return source.apply(_ink_surface(source.profile.raw))
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
def _ink_surface(raw: bytes) -> Array:
    """Inks (n, inks) of the furthest colors of an output profile."""
    model = model_from_profile(parse(raw))
    inverse = Inverse(model, precompute(model), BLACK_PRESETS["gcr"], InkLimits(100.0 * len(model.inks)))
    return inverse.surface_inks


@lru_cache(64)
def _boundary(
    source: bytes, absolute: bool, white_xyz: bytes, blacks: tuple[float, float] | None, hue_kept: bool
) -> Boundary:
    """Triangulating a surface takes most of the time of a mapping, and many recipes share one."""
    surface = surface_lab(Source(parse(source), absolute))
    model = ForwardModel((), 0, np.empty((0, 3), np.float32), np.frombuffer(white_xyz))
    return boundary_of_surface(
        lab_to_straight(BlackPointCompensation(model, absolute, blacks, hue_kept).apply(surface))
    )


def source_boundary(source: Source, want: BlackPointCompensation) -> Boundary:
    """The source's gamut as it is wanted on the substrate, in straight coordinates."""
    white = want.model.white_xyz.tobytes()
    return _boundary(source.profile.raw, want.absolute, white, want.blacks, want.hue_kept)
