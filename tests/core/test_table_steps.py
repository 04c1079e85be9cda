"""Pictures as profiled: one compiled loop that must come to LittleCMS' own codes, on makes of profiles of several hands."""

from dataclasses import replace

import numpy as np
import pytest

from plinto_core.icc import cmm
from plinto_core.icc.profile import INTENTS, Header, Profile, parse, write
from plinto_core.icc.standard import rgb_profile
from plinto_core.icc.table_steps import steps_of
from plinto_core.icc.transform import transform
from plinto_core.icc.values import Curve, CurveLut, Description, ParametricCurve, TableLut, Xyz
from plinto_demo.makes import MAKES, make_profile
from tests.conftest import foreign_profile, profile_of


def rgb_source(curve, version=2, **tags):
    """A matrix profile of RGB with this curve, its white and colorants a little off those of the standards."""
    colorants = np.array([[0.45, 0.24, 0.02], [0.36, 0.69, 0.11], [0.15, 0.07, 0.69]])
    made = {
        "desc": Description({"enUS": "Made up"}),
        "wtpt": Xyz(np.array([[0.951, 1.0, 1.087]])),
        **{f"{channel}XYZ": Xyz(colorants[at : at + 1]) for at, channel in enumerate("rgb")},
        **{f"{channel}TRC": curve for channel in "rgb"},
        **tags,
    }
    return write(Profile(Header("mntr", "RGB ", "XYZ ", (version, 0)), made))


def gamma_table(entries):
    return Curve(np.round(np.linspace(0, 1, entries) ** 2.1 * 65535) / 65535)


SOURCES = {
    "sRGB": rgb_profile("sRGB"),
    "ROMM": rgb_profile("ROMM"),
    "one gamma": rgb_source(Curve(np.array([1.8]))),
    "a table of 33, version 2": rgb_source(gamma_table(33)),
    "a table of 4096, version 4": rgb_source(gamma_table(4096), 4),
    "a formula with a black of its own": rgb_source(ParametricCurve(2, (2.2, 0.97, 0.03, 0.01)), 4),
}
TARGETS = {
    **{make.name: make_profile(make) for make in MAKES if make.pcs == "Lab "},
    **{slug: profile_of(slug) for slug in ("cotton-54t", "sateen-reactive", "leafprint-negative")},
    "foreign": foreign_profile(),
}


def colors_of(random):
    """Codes (n, 3): everywhere, in the dark, grays, and the corners."""
    codes = random.integers(0, 65536, (12_000, 3)).astype(np.uint16)
    codes[::3] //= 9
    codes[1::6] = codes[1::6, :1]
    corners = np.array(np.meshgrid(*[[0, 65535]] * 3)).reshape(3, -1).T
    return np.concatenate([codes, corners]).astype(np.uint16)


def littlecms(source, target, codes, kind, intent, bpc):
    """Codes (n, inks) by LittleCMS alone."""
    ends = ("RGB ", 3), (target.header.space, target.header.channels)
    made = transform((source.raw, target.raw), *ends, (codes.dtype.name, kind), INTENTS.index(intent), bpc)
    return made.apply(codes)


#: Each target with two sources, each source with several targets: what a source's curve does and what a target's tables do
#: follow each other in the loop, and do not meet.
PAIRS = [
    (source, target)
    for at, target in enumerate(TARGETS)
    for source in (list(SOURCES)[at % len(SOURCES)], list(SOURCES)[(at * 5 + 3) % len(SOURCES)])
]


@pytest.mark.parametrize(("source", "target"), PAIRS)
def test_every_code_is_littlecms_own(source, target):
    """As profiled took 25 s for 40 megapixels; pixel by pixel nothing may change by it."""
    ends, random = (SOURCES[source], TARGETS[target]), np.random.default_rng(len(source) * 31 + len(target))
    wide = colors_of(random)
    channels = ends[1].header.channels
    small = (wide >> 8).astype(np.uint8)
    # Every intent and every kind of code; how codes are read and written is the same for all intents.
    for intent, bpc, codes, kind in (
        ("perceptual", False, wide, "uint16"), ("relative", True, wide, "uint16"), ("relative", True, small, "uint8"),
        ("relative", True, wide, "uint8"), ("relative", False, small, "uint8"), ("absolute", False, wide, "uint8"),
    ):  # fmt: skip
        exact = littlecms(*ends, codes, kind, intent, bpc)
        found = cmm.convert_codes(*ends, codes, np.dtype(kind), intent, bpc)
        assert found.dtype == exact.dtype and np.array_equal(found, exact), (intent, bpc, kind)
    if channels > 1:
        steps = steps_of(ends[0].raw, ends[1].raw, "relative", True)
        assert steps is not None, "this make is one that the steps are for"
        assert len(steps.inks(wide, np.dtype(np.uint8))[1]) < 0.003 * len(wide), "nearly nothing is left to LittleCMS"


def with_table(table):
    """A profile of four inks whose way back is this table alone."""
    base = foreign_profile()
    kept = {tag: value for tag, value in base.tags.items() if not tag.startswith("B2A")}
    return write(Profile(base.header, {**kept, "B2A0": table}))


def test_profiles_of_another_make_go_through_littlecms():
    """A curve before the grid that is a formula, a matrix, a connection space in XYZ, tables at the source: the codes are
    LittleCMS' all the same."""
    base = foreign_profile().tags["B2A1"]
    assert isinstance(base, CurveLut) and base.grid is not None
    straight, gamma = ParametricCurve(0, (1.0,)), ParametricCurve(0, (1.3,))
    turned = np.column_stack([np.eye(3)[[0, 1, 2]] * 0.9, [0.05, 0.05, 0.05]])
    others = {
        "formula": with_table(replace(base, b_curves=(gamma, straight, straight))),
        "matrix": with_table(replace(base, matrix=turned, m_curves=(straight,) * 3)),
        "XYZ": next(make_profile(make) for make in MAKES if make.pcs == "XYZ "),
    }
    codes = colors_of(np.random.default_rng(5))
    for name, target in others.items():
        for intent in ("perceptual", "relative"):
            assert steps_of(SOURCES["sRGB"].raw, target.raw, intent, True) is None, name
            exact = littlecms(SOURCES["sRGB"], target, codes, "uint16", intent, True)
            found = cmm.convert_codes(SOURCES["sRGB"], target, codes, np.dtype(np.uint16), intent, True)
            assert np.array_equal(found, exact)
    # Numbers that nobody means: the codes are LittleCMS' still, and nothing falls over.
    cotton, dark = TARGETS["foreign"], Xyz(np.zeros((1, 3)))
    odd = {
        "gamma −1": (SOURCES["sRGB"], with_table(replace(base, a_curves=(ParametricCurve(0, (-1.0,)),) * 4))),
        "slope 0": (
            SOURCES["sRGB"],
            with_table(replace(base, a_curves=(ParametricCurve(2, (2.2, 0, 0.1, 0.3)),) * 4)),
        ),
        "falling": (SOURCES["sRGB"], with_table(replace(base, b_curves=(Curve(np.array([1.0, 0.0])),) * 3))),
        "gamma 30,000": (rgb_source(ParametricCurve(0, (30_000.0,)), 4), cotton),
        "a white of 0": (rgb_source(gamma_table(33), 4, wtpt=dark), cotton),
        "a strange red": (rgb_source(gamma_table(33), 4, rXYZ=Xyz(np.array([[-3.0, 5.0, 9000.0]]))), cotton),
    }
    for name, (source, target) in odd.items():
        for intent in ("relative", "absolute"):
            exact = littlecms(source, target, codes, "uint16", intent, True)
            found = cmm.convert_codes(source, target, codes, np.dtype(np.uint16), intent, True)
            assert np.array_equal(found, exact), (name, intent)
    # Steps that come to other codes than LittleCMS are found out and not taken.
    uneven = parse(make_profile(MAKES[0]).raw).tags["B2A0"]
    assert isinstance(uneven, TableLut)
    jumps = np.where(np.indices(uneven.grid.shape).sum(axis=0) % 2, 1.0, 0.0)
    target = with_table(replace(uneven, grid=jumps))
    found = cmm.convert_codes(SOURCES["sRGB"], target, codes, np.dtype(np.uint16), "relative", False)
    exact = littlecms(SOURCES["sRGB"], target, codes, "uint16", "relative", False)
    assert np.array_equal(found, exact)
