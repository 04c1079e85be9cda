"""Shared by all tests: the shop's conditions, built once, and small pictures."""

import functools
import os
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import tifffile
from hypothesis import settings
from numpy.typing import NDArray

from plinto_core.chain.library import Condition, Library
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.standard import rgb_profile
from plinto_core.icc.values import CurveLut, Description, ParametricCurve, Xyz
from plinto_core.press.fit import Fit, fit_model
from plinto_demo.build import kept
from plinto_demo.kept_folder import kept_folder
from plinto_demo.shop import CONDITIONS, ShopCondition, measure_chart

# Kernels are compiled on first use, which no deadline of a single example can know.
# CI looks at the same examples every time: what it refuses is the change, not the day.
settings.register_profile("plinto", deadline=None, derandomize=bool(os.environ.get("CI")))
settings.load_profile("plinto")

#: The conditions that most tests go through: a mesh, coated offset, newsprint.
SLUGS = [shop.slug for shop in CONDITIONS[:3]]


def shop_condition(slug: str) -> ShopCondition:
    """The shop's facts about a condition."""
    return next(shop for shop in CONDITIONS if shop.slug == slug)


@functools.cache
def fitted(slug: str) -> Fit:
    """The forward model fitted to the condition's simulated chart."""
    return fit_model(measure_chart(shop_condition(slug)))


@functools.cache
def profile_of(slug: str) -> Profile:
    """The condition's profile as the demo builds it."""
    return kept(shop_condition(slug)).read()


@functools.cache
def foreign_profile() -> Profile:
    """An output profile in another layout: 'mAB ' and 'mBA ' tables with curves, 11 points, 8-bit B2A grid."""
    base = profile_of("halden-silk-150")
    from plinto_core.icc import cmm

    gamma = ParametricCurve(0, (1.3,))
    straight = ParametricCurve(0, (1.0,))
    axis = np.linspace(0, 1, 11)
    dots = np.stack(np.meshgrid(*[axis ** (1 / 1.3)] * 4, indexing="ij"), axis=-1)
    lab = cmm.to_lab(base, dots)
    encoded = np.stack([lab[..., 0] / 100, (lab[..., 1] + 128) / 255, (lab[..., 2] + 128) / 255], axis=-1)
    a2b = CurveLut(True, (straight,) * 3, grid=np.clip(encoded, 0, 1), a_curves=(gamma,) * 4)
    side = np.linspace(0, 1, 17)
    nodes = np.stack(np.meshgrid(side * 100, side * 255 - 128, side * 255 - 128, indexing="ij"), axis=-1)
    inks = cmm.from_lab(base, nodes)
    b2a = CurveLut(False, (straight,) * 3, grid=inks, grid_bytes=1, a_curves=(straight,) * 4)
    return write(
        Profile(
            Header("prtr", "CMYK", "Lab "),
            {
                "desc": Description({"enUS": "Another layout"}),
                "cprt": Description({"enUS": "Made by a test."}),
                "wtpt": Xyz(np.array([[0.9, 0.93, 0.76]])),
                **{f"A2B{i}": a2b for i in range(3)},
                **{f"B2A{i}": b2a for i in range(3)},
            },
        )
    )


@pytest.fixture(scope="session")
def library() -> Library:
    return Library(kept_folder() / "cache")


@pytest.fixture(scope="session")
def condition(library: Library) -> Callable[[str], Condition]:
    """A condition of the shop by slug; 'foreign' for the profile in another layout."""
    return lambda slug: library.condition(foreign_profile() if slug == "foreign" else profile_of(slug))


@pytest.fixture(scope="session")
def photo() -> NDArray[np.uint16]:
    """A picture of 240 × 320 with gradients, saturated corners, grays and noise; 16 bit."""
    y, x = np.mgrid[0:240, 0:320] / 240.0
    random = np.random.default_rng(5)
    picture = np.stack([x / 1.34, y, 1 - (x / 1.34 + y) / 2], axis=-1)
    picture[:60, :, :] = np.linspace(0, 1, 320)[None, :, None]
    picture[180:, 200:] = random.random((60, 120, 3))
    return np.rint(np.clip(picture, 0, 1) * 65535).astype(np.uint16)


@pytest.fixture
def photo_tiff(tmp_path: Path, photo: NDArray[np.uint16]) -> Path:
    """The picture as a TIFF in opRGB."""
    path = tmp_path / "photo.tif"
    tifffile.imwrite(
        path, photo, photometric="rgb", compression="lzw", iccprofile=rgb_profile("opRGB").raw, rowsperstrip=32,
        resolution=(300, 300), resolutionunit="inch", metadata=None,
    )  # fmt: skip
    return path
