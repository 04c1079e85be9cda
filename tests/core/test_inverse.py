"""Lab to inks: colors come back, limits hold, black does what it is told, ramps stay smooth."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plinto_core import __version__
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry import delta_e_2000
from plinto_core.errors import RecipeError
from plinto_core.icc.standard import rgb_profile
from plinto_core.measurement.chart import characterization_chart
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.fit import fit_model
from plinto_core.press.model import model_from_profile
from plinto_core.recipe import InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS, BlackPolicy
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse, precompute
from plinto_core.truth.black import darkest_found
from plinto_demo.inks import BLACK, CYAN, MAGENTA, YELLOW, Band, Ink, Stock
from plinto_demo.makes import MAKES, make_profile
from plinto_demo.press import Instrument, Press
from tests.conftest import SLUGS, shop_condition

RANDOM = np.random.default_rng(8)


def _reachable(model, inverse, count=6000):
    """Lab of random ink values within the limits."""
    dots = RANDOM.random((count * 3, len(model.inks))) * inverse.caps
    dots = dots[dots.sum(axis=1) <= inverse.total][:count]
    return model.lab(dots)


@pytest.mark.parametrize("kind", list(BLACK_PRESETS))
@pytest.mark.parametrize("slug", SLUGS)
def test_colors_in_the_gamut_come_back(condition, slug, kind):
    known = condition(slug)
    limit = shop_condition(slug).total_ink_percent
    inverse = Inverse(known.model, known.tables, BLACK_PRESETS[kind], InkLimits(limit))
    wanted = _reachable(known.model, inverse)
    error = delta_e_2000(known.model.lab(inverse.inks(wanted)), wanted)
    # The aims of measures.md for the separation round trip.
    assert error.mean() <= 0.2
    assert np.percentile(error, 99) <= 0.8


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    total=st.floats(60, 400), cap=st.floats(20, 100), amount=st.floats(0, 100), start=st.floats(0, 100),
    top=st.floats(0, 100), shape=st.floats(0.5, 4), seed=st.integers(0, 999),
)  # fmt: skip
def test_limits_hold_for_any_color_and_any_setting(condition, total, cap, amount, start, top, shape, seed):
    known = condition("cotton-54t")
    limits = InkLimits(total, (("M", cap),))
    inverse = Inverse(known.model, known.tables, BlackPolicy(amount, start, top, shape), limits)
    lab = np.random.default_rng(seed).random((400, 3)) * [110, 280, 280] - [5, 140, 140]
    inks = inverse.inks(lab)
    assert inks.min() >= 0
    assert inks.sum(axis=1).max() <= total / 100 + 1e-9
    assert inks[:, 1].max() <= cap / 100 + 1e-9
    assert inks[:, 3].max() <= top / 100 + 1e-9


@pytest.mark.parametrize("kind", ["skeleton", "gcr", "ucr"])
@pytest.mark.parametrize("slug", SLUGS)
def test_black_rises_along_the_grays_without_steps(condition, slug, kind):
    known = condition(slug)
    inverse = Inverse(
        known.model, known.tables, BLACK_PRESETS[kind], InkLimits(shop_condition(slug).total_ink_percent)
    )
    lightness = np.linspace(100, float(inverse.black_point_lab[0]), 256)
    inks = inverse.inks(np.column_stack([lightness, np.zeros((256, 2))])) * 255
    assert np.diff(inks[:, 3]).min() > -1.0, "black falls back"
    steps = np.abs(np.diff(inks, axis=0))
    around = (steps[:-2] + steps[2:]) / 2
    # No step larger than twice its neighbors' mean, beyond the rounding of 8-bit codes.
    assert (steps[1:-1] - 2 * around).max() < 2.5


def test_black_kinds_differ_as_their_names_say(condition):
    known = condition("halden-silk-150")
    gray = np.array([[45.0, 0, 0]])
    black = {
        kind: Inverse(known.model, known.tables, policy, InkLimits(320)).inks(gray)[0, 3]
        for kind, policy in BLACK_PRESETS.items()
    }
    assert black["none"] == 0
    assert black["none"] < black["gcr"] < black["full"]
    assert black["skeleton"] < black["gcr"]


def test_full_black_leaves_the_least_chromatic_ink(condition):
    known = condition("halden-silk-150")
    full = Inverse(known.model, known.tables, BLACK_PRESETS["full"], InkLimits(400)).inks([[50.0, 0, 0]])[0]
    none = Inverse(known.model, known.tables, BLACK_PRESETS["none"], InkLimits(400)).inks([[50.0, 0, 0]])[0]
    assert full.sum() < none.sum() / 1.8
    # A little of all three stays: the crease along the neutrals is rounded on purpose.
    assert full[:3].max() < 0.08


def test_the_darkest_black_is_as_dark_as_any_search_finds():
    """Coarse tables have creases, and a thin black is lighter than the other inks together."""
    for make in (MAKES[0], MAKES[4]):
        model = model_from_profile(make_profile(make))
        tables = precompute(model)
        for kind, total in (("gcr", 240.0), ("full", 320.0), ("none", 400.0)):
            inverse = Inverse(model, tables, BLACK_PRESETS[kind], InkLimits(total))
            assert inverse.black_point_lab[0] < darkest_found(inverse, 30_000) + 0.5


def test_darker_than_black_is_black(condition):
    known = condition("tern-news-45")
    inverse = Inverse(known.model, known.tables, BLACK_PRESETS["gcr"], InkLimits(240))
    deep = inverse.inks([[0.0, 0, 0], [10.0, 0, 0], [20.0, 0, 0]])
    assert np.allclose(deep, deep[0])
    assert delta_e_2000(known.model.lab(deep[0]), inverse.black_point_lab) < 0.5


def test_limits_that_cannot_be_are_refused(condition):
    known = condition("cotton-54t")
    with pytest.raises(RecipeError, match="no ink X here; this condition has C, M, Y, K"):
        Inverse(known.model, known.tables, BLACK_PRESETS["gcr"], InkLimits(230, (("X", 50.0),)))
    with pytest.raises(RecipeError, match="50 to 800"):
        InkLimits(9000)
    with pytest.raises(RecipeError, match="0 to 100"):
        BlackPolicy(amount_percent=120)


ORANGE = Ink("Orange", (Band(480, 60, 1.4), Band(420, 50, 1.0)), 0.02)
GREEN = Ink("Green", (Band(640, 60, 1.3), Band(420, 40, 1.2)), 0.03)


@pytest.mark.parametrize("inks", [(BLACK,), (CYAN, MAGENTA, YELLOW), (CYAN, MAGENTA, YELLOW, BLACK, ORANGE, GREEN)])
def test_any_number_of_inks_fits_and_inverts(inks):
    count = len(inks)
    press = Press(inks, Stock("plain", 0.9, 0, 0.01), (1.0,) * count, (0.15,) * count, 0.92, 1.8)
    dots = characterization_chart(count, {1: 15, 3: 300, 6: 900}[count], 3.2)
    spectra, xyz = Instrument(3).measure(press.reflectance(dots))
    model = fit_model(Measurements(tuple(ink.name for ink in inks), dots, xyz, spectra)).model
    inverse = Inverse(model, precompute(model), BLACK_PRESETS["gcr"], InkLimits(280))
    wanted = _reachable(model, inverse, 400)
    error = delta_e_2000(model.lab(inverse.inks(wanted)), wanted)
    assert error.mean() < 0.2
    assert inverse.inks(wanted).sum(axis=1).max() <= 2.8 + 1e-9


#: What a separation for Halden Silk 150 was when the version was raised: inks of twelve colors, GCR, 300 %.
RECORDED = (
    "0.4.7",
    [
        ([95, 0, 0], [0.042, 0.0284, 0.0252, 0.0002]),
        ([70, 0, 0], [0.2401, 0.1717, 0.1537, 0.0419]),
        ([40, 0, 0], [0.4619, 0.3507, 0.3209, 0.2348]),
        ([20, 0, 0], [0.6685, 0.5341, 0.5054, 0.4951]),
        ([10, 0, 0], [0.7668, 0.6197, 0.6221, 0.9135]),
        ([0, 0, 0], [0.782, 0.6346, 0.6445, 0.9389]),
        ([60, 50, 40], [0, 0.5771, 0.5216, 0.0228]),
        ([35, 20, -50], [0.746, 0.6092, 0, 0]),
        ([25, -15, 12], [0.699, 0.2381, 0.843, 0.5142]),
        ([88, -5, 90], [0, 0.0164, 1, 0.0556]),
        ([50, -45, 20], [0.7299, 0, 0.708, 0.1702]),
        ([15, 10, -12], [0.8466, 0.8893, 0.3261, 0.3613]),
    ],
)
#: And of pictures: sRGB codes through the link.
RECORDED_CODES = [
    ([0, 0, 0], [199, 162, 164, 239]),
    ([7, 5, 9], [190, 164, 127, 214]),
    ([23, 21, 20], [168, 140, 139, 179]),
    ([40, 10, 5], [94, 183, 195, 192]),
    ([128, 127, 131], [91, 69, 55, 29]),
    ([250, 240, 8], [13, 0, 241, 0]),
    ([3, 30, 200], [255, 184, 0, 0]),
    ([201, 52, 33], [0, 196, 190, 30]),
    ([90, 160, 70], [124, 0, 200, 31]),
    ([243, 244, 239], [9, 5, 10, 0]),
]


def test_what_is_separated_changes_only_with_the_version(condition):
    """A run sheet tells by the version whether its file can be made again to the bit. Whoever changes what comes out
    raises the version and records it anew."""
    version, rows = RECORDED
    known = condition("halden-silk-150")
    inverse = Inverse(known.model, known.tables, BLACK_PRESETS["gcr"], InkLimits(300))
    found = inverse.inks(np.array([lab for lab, _ in rows], float))
    assert version == __version__ and np.abs(found - [inks for _, inks in rows]).max() < 0.004
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(300), BLACK_PRESETS["gcr"]))
    link = compile_recipe(recipe, known, rgb_profile("sRGB")).baked
    codes = np.array([codes for codes, _ in RECORDED_CODES], np.uint8)
    assert np.abs(link.inks_of(codes, 8).astype(int) - [inks for _, inks in RECORDED_CODES]).max() <= 1
