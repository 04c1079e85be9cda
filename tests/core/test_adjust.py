"""Adjust: curves, lightness, chroma, hues, and the regions that limit them."""

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinto_core.adjust.adjustment import Adjust, move_lab
from plinto_core.adjust.curves import apply_curve
from plinto_core.adjust.regions import PixelGrid, region_weights
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry import lab_to_lch
from plinto_core.errors import RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.recipe import AdjustStation, InkStation, Recipe
from plinto_core.recipe.adjustment import Adjustment, ChannelCurve, HueMove
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.curve import ToneCurve
from plinto_core.recipe.limits import InkLimits
from plinto_core.recipe.region import ColorRange, Region

ROOT = Path(__file__).resolve().parents[2]
OP = rgb_profile("opRGB")
RANDOM = np.random.default_rng(8)
LIFT = ToneCurve(((0, 0.05), (0.4, 0.55), (1, 1)))


@given(
    st.lists(st.tuples(st.integers(0, 100), st.integers(0, 100)), min_size=2, max_size=9, unique_by=lambda p: p[0])
)
def test_curves_go_through_their_points_and_never_overshoot(points):
    points = sorted((x / 100, y / 100) for x, y in points)
    curve = ToneCurve(tuple(points))
    x, y = np.array(points).T
    assert np.allclose(apply_curve(curve, x), y)
    fine = apply_curve(curve, np.linspace(0, 1, 501))
    assert y.min() - 1e-9 <= fine.min() <= fine.max() <= y.max() + 1e-9
    if (np.diff(y) >= 0).all():
        assert (np.diff(fine) >= -1e-9).all()


def test_nothing_set_changes_nothing():
    values = RANDOM.random((50, 3))
    assert Adjustment().is_nothing
    assert Adjust(Adjustment(), OP).apply(values) is not None
    assert np.array_equal(Adjust(Adjustment(), OP).apply(values), values)


def test_channel_curves_act_on_their_channel_after_the_master():
    values = RANDOM.random((40, 3))
    red = ToneCurve(((0, 0), (0.5, 0.3), (1, 1)))
    found = Adjust(Adjustment(master=LIFT, channels=(ChannelCurve("R", red),)), OP).apply(values)
    assert np.allclose(found[:, 0], apply_curve(red, apply_curve(LIFT, values[:, 0])))
    assert np.allclose(found[:, 1:], apply_curve(LIFT, values[:, 1:]))


def test_chroma_scales_chroma_and_leaves_lightness_and_hue():
    values = 0.3 + 0.3 * RANDOM.random((60, 3))
    before = lab_to_lch(cmm.to_lab(OP, values))
    after = lab_to_lch(cmm.to_lab(OP, Adjust(Adjustment(chroma_percent=20), OP).apply(values)))
    assert np.abs(after[:, 1] - 1.2 * before[:, 1]).max() < 0.05
    assert np.abs(after[:, 0] - before[:, 0]).max() < 0.02
    turned = (after[:, 2] - before[:, 2] + 180) % 360 - 180
    assert np.abs(turned[before[:, 1] > 5]).max() < 0.3


def test_a_hue_move_turns_its_range_only_and_no_gray():
    move = Adjustment(hues=(HueMove(40, 60, 15, -5, 30),))
    lch = np.array([[60, 50, 40], [60, 50, 220], [60, 0, 0], [60, 50, 69]])
    lab = np.stack(
        [lch[:, 0], lch[:, 1] * np.cos(np.radians(lch[:, 2])), lch[:, 1] * np.sin(np.radians(lch[:, 2]))], axis=1
    )
    found = lab_to_lch(move_lab(move, lab))
    share = 50 / 58
    assert found[0].tolist() == pytest.approx([60 - 5 * share, 50 * (1 + 0.3 * share), 40 + 15 * share])
    assert found[1].tolist() == pytest.approx([60, 50, 220])
    assert found[2, :2].tolist() == pytest.approx([60, 0])
    assert abs(found[3, 2] - 69) < 0.2


def test_what_an_artwork_cannot_take_is_said(condition):
    from tests.conftest import profile_of

    cmyk = profile_of("halden-silk-150")
    with pytest.raises(RecipeError, match="no channel R"):
        Adjust(Adjustment(channels=(ChannelCurve("R", LIFT),)), cmyk)
    with pytest.raises(RecipeError, match="use curves here or at Plate"):
        Adjust(Adjustment(chroma_percent=10), cmyk)
    for points in (((0, 0),), ((0.5, 0), (0.5, 1)), ((0, 0), (1, 1.5)), ((0, 0), (1e-310, 0.5), (1, 1))):
        with pytest.raises(RecipeError, match="A curve needs"):
            ToneCurve(points)


def test_a_curve_all_but_level_is_followed():
    """The slope between two heights 1e-310 apart has no inverse: this was an error of the library's, and a 500."""
    level = apply_curve(ToneCurve(((0, 0), (0.5, 1e-310), (1, 1))), [0.0, 0.25, 0.5, 1.0])
    assert level == pytest.approx([0, 0, 0, 1])


def _inside(corners, x, y):
    """Even-odd rule, slow and obvious."""
    inside = False
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            inside = not inside
    return inside


STAR = ((0.5, 0.1), (0.6, 0.45), (0.95, 0.5), (0.6, 0.6), (0.5, 0.9), (0.4, 0.6), (0.1, 0.5), (0.4, 0.45))


def test_outlines_are_what_the_even_odd_rule_says():
    places = PixelGrid.rows(0, 80, 120, 80)
    found = region_weights(Region("star", STAR), places, None)
    corners = [(x * 120, y * 80) for x, y in STAR]
    expected = np.array([[_inside(corners, x, y) for x in places.xs] for y in places.ys])
    assert (found == expected).mean() > 0.999
    outside = region_weights(Region("star", STAR, inverted=True), places, None)
    assert np.array_equal(outside, 1 - found)


def test_a_region_is_the_same_at_any_resolution():
    region = Region("star", STAR, softness=0.08)
    large = region_weights(region, PixelGrid.rows(0, 800, 1200, 800), None)
    # Every tenth pixel of the large picture, as a reduced view has them.
    small = PixelGrid(np.arange(5, 1200, 10) + 0.0, np.arange(5, 800, 10) + 0.0, 1200, 800)
    blocks = large.reshape(80, 10, 120, 10).mean(axis=(1, 3))
    assert np.abs(region_weights(region, small, None) - blocks).max() < 0.06
    assert large.min() + 1e-9 > 0 and large.max() == 1
    assert ((large > 0.02) & (large < 0.98)).mean() > 0.05


def test_a_color_range_fades_from_its_center():
    lab = np.zeros((1, 61, 3), np.float32)
    lab[0, :, 1] = np.arange(61)
    region = Region("reds", color=ColorRange((0.0, 0.0, 0.0), 40, 0.5))
    found = region_weights(region, PixelGrid(np.arange(61.0), np.zeros(1), 61, 1), lab)[0]
    assert (found[:21] == 1).all() and (found[40:] == 0).all()
    assert (np.diff(found[20:41]) < 0).all()


def _line(condition, regions, base=Adjustment(), black="gcr", without=()):
    recipe = Recipe(
        adjust=AdjustStation(base, tuple(regions)),
        ink=InkStation("rebuilt", InkLimits(211), BLACK_PRESETS[black], without),
    )
    return compile_recipe(recipe, condition("cotton-54t"), OP)


LEFT = ((0.0, 0.0), (0.5, 0.0), (0.5, 1.0), (0.0, 1.0))


@pytest.mark.parametrize("depth", [8, 16])
def test_regions_blend_and_the_limit_holds_in_their_edges(condition, photo, depth):
    places = PixelGrid.rows(0, 240, 320, 240)
    darker = Adjustment(master=ToneCurve(((0, 0), (0.5, 0.25), (1, 1))), chroma_percent=40)
    line = _line(condition, [Region("left", LEFT, 0.1, adjustment=darker)])
    plain, inside = _line(condition, []), _line(condition, [], darker)
    found = line.ink_codes(photo, places, depth)
    top = 2**depth - 1
    assert found.sum(axis=-1, dtype=np.int64).max() <= 2.11 * top
    assert np.array_equal(found[:, 200:], plain.ink_codes(photo, places, depth)[:, 200:])
    assert np.array_equal(found[:, :120], inside.ink_codes(photo, places, depth)[:, :120])
    # Bands see the same region as the whole picture, and so does a single traced pixel.
    band = line.ink_codes(photo[60:90], PixelGrid.rows(60, 30, 320, 240), depth)
    assert np.array_equal(band, found[60:90])
    here = PixelGrid(np.array([160.5]), np.array([100.5]), 320, 240)
    if depth == 8:
        traced = line.trace(photo[100, 160] / 65535, here)
        assert np.abs(traced.inks[0] * 255 - found[100, 160]).max() <= 1


def test_no_black_here_and_black_only_here(condition, photo):
    places = PixelGrid.rows(0, 240, 320, 240)
    none = _line(condition, [Region("left", LEFT, black="none")]).ink_codes(photo, places, 8)
    only = _line(condition, [Region("left", LEFT, black="only")]).ink_codes(photo, places, 8)
    everywhere = _line(condition, []).ink_codes(photo, places, 8)
    assert none[:, :160, 3].max() == 0 and only[:, 160:, 3].max() == 0
    assert np.array_equal(none[:, 160:], everywhere[:, 160:])
    assert np.array_equal(only[:, :160], everywhere[:, :160])
    assert everywhere[..., 3].max() > 150


def test_as_profiled_follows_the_adjustment(condition, photo):
    adjustment = Adjustment(master=LIFT, chroma_percent=-60)
    recipe = Recipe(adjust=AdjustStation(adjustment), ink=InkStation("as-profiled"))
    known = condition("cotton-54t")
    line = compile_recipe(recipe, known, OP)
    found = line.link.inks_of(photo[::6, ::6], 16) / 65535
    adjusted = Adjust(adjustment, OP).apply(photo[::6, ::6] / 65535)
    exact = cmm.convert(OP, known.profile, adjusted, "relative", bpc=True)
    error = np.abs(cmm.to_lab(known.profile, found) - cmm.to_lab(known.profile, exact))
    assert error.mean() < 0.1 and np.percentile(error, 99) < 1


def test_the_readout_says_what_no_adjustment_can_give(condition):
    brighter = _line(condition, [], Adjustment(chroma_percent=100))
    assert "stronger by" in brighter.trace(np.array([0.1, 0.8, 0.2])).out_of_reach
    assert _line(condition, []).trace(np.array([0.6, 0.6, 0.6])).out_of_reach == ""


def test_the_front_end_has_the_values_of_curves_as_they_are_applied():
    """Its own test holds what it draws against this file."""
    told = json.loads((ROOT / "web/src/rooms/bench/panels/curve.values.json").read_text())
    for each in told["curves"]:
        curve = ToneCurve(tuple((x, y) for x, y in each["points"]))
        assert np.abs(apply_curve(curve, told["at"]) - each["values"]).max() < 1e-4
