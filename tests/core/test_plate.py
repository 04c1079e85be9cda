"""Plate: each treatment against its closed form, and the limit that holds after all of them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.histogram import gray_ramp_inks
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry import delta_e_2000
from plinto_core.errors import RecipeError
from plinto_core.icc.standard import rgb_profile
from plinto_core.plate.station import Plates, plate_dots, printed_dots
from plinto_core.recipe import InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.curve import ToneCurve
from plinto_core.recipe.limits import InkLimits
from plinto_core.recipe.plate import InkPlate, PlateStation

DOTS = np.linspace(0, 1, 1001)
INKS = ("C", "M", "Y", "K")


def test_small_dots_are_raised_or_cut():
    raised = plate_dots(InkPlate("K", smallest="raise", smallest_percent=4), DOTS)
    assert raised[0] == 0 and raised[1:].min() == pytest.approx(0.04)
    assert np.allclose(raised[DOTS >= 0.04], DOTS[DOTS >= 0.04])
    cut = plate_dots(InkPlate("K", smallest="cut", smallest_percent=4), DOTS)
    assert cut[DOTS < 0.04].max() == 0 and np.allclose(cut[DOTS >= 0.04], DOTS[DOTS >= 0.04])


def test_a_presss_smallest_dot_goes_onto_every_plate_and_gives_way_to_larger_ones():
    set_before = PlateStation((InkPlate("C", bump_percent=4), InkPlate("K", smallest="cut", smallest_percent=6)))
    held = set_before.holding(("C", "M", "K"), "raise", 3.0)
    found = {plate.ink: (plate.smallest, plate.smallest_percent, plate.bump_percent) for plate in held.plates}
    assert found == {"C": ("raise", 3.0, 4.0), "K": ("cut", 6.0, 0.0), "M": ("raise", 3.0, 0.0)}
    assert set_before.holding(("C",), "raise", 0) is set_before and held.holding(("C", "M"), "raise", 3.0) == held


def test_a_bump_lifts_the_lightest_and_joins_without_an_edge():
    bumped = plate_dots(InkPlate("K", bump_percent=5), DOTS)
    assert bumped[0] == 0 and bumped[1] == pytest.approx(0.05, abs=0.002)
    assert np.allclose(bumped[DOTS > 0.2], DOTS[DOTS > 0.2])
    steps = np.diff(bumped[1:])
    assert (steps >= 0).all() and np.abs(np.diff(steps)).max() < 2e-5


def test_shadows_are_opened_and_solids_stay_solid():
    opened = plate_dots(InkPlate("K", shadow_percent=92), DOTS)
    assert opened[-1] == 1 and opened[-2] == pytest.approx(0.92)
    assert np.allclose(opened[DOTS <= 0.92], DOTS[DOTS <= 0.92])


def test_gain_is_taken_back_by_the_plate():
    plate = InkPlate("K", gain=((25, 36), (50, 68), (75, 88)))
    assert np.abs(printed_dots(plate, plate_dots(plate, DOTS)) - DOTS).max() < 1e-3
    assert plate_dots(plate, np.array([0.68]))[0] == pytest.approx(0.5, abs=1e-3)


@given(
    codes=st.lists(st.tuples(*[st.integers(0, 65535)] * 4), min_size=1, max_size=40),
    smallest=st.sampled_from(["keep", "raise", "cut"]), size=st.floats(0, 20), bump=st.floats(0, 20),
    shadow=st.floats(60, 100), total=st.floats(60, 400), cap=st.floats(30, 100), depth=st.sampled_from([8, 16]),
)  # fmt: skip
def test_no_treatment_breaks_a_limit(codes, smallest, size, bump, shadow, total, cap, depth):
    lift = ToneCurve(((0, 0), (0.3, 0.7), (1, 1)))
    plates = tuple(
        InkPlate(ink, lift, bump_percent=bump, smallest=smallest, smallest_percent=size, shadow_percent=shadow)
        for ink in INKS
    )
    caps = np.array([cap, 100, 100, 100]) / 100
    made = Plates(PlateStation(plates), INKS, caps, total / 100).apply(np.array(codes, np.uint16), depth)
    top = 2**depth - 1
    assert made.sum(axis=-1, dtype=np.int64).max() <= total / 100 * top + 1e-6
    assert made[:, 0].max() <= cap / 100 * top + 1e-6
    # No ink comes from nowhere, and what is cut is cut after the limit as well.
    assert (made[np.array(codes) == 0] == 0).all()
    if smallest == "cut":
        assert ((made == 0) | (made >= size / 100 * top - 1)).all()


def _line(condition, station, **ink):
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(220), BLACK_PRESETS["gcr"], **ink), plate=station)
    return compile_recipe(recipe, condition("cotton-54t"), rgb_profile("opRGB"))


def test_the_line_writes_what_the_plates_say(condition, photo):
    places = PixelGrid.rows(0, 240, 320, 240)
    station = PlateStation((InkPlate("K", smallest="cut", smallest_percent=10), InkPlate("C", shadow_percent=70)))
    plain, line = _line(condition, PlateStation()), _line(condition, station)
    before, after = plain.ink_codes(photo, places, 8), line.ink_codes(photo, places, 8)
    # Plugged shadows are opened to 70 %; only what was solid stays solid.
    above = after[..., 0] > 0.7 * 255 + 1
    assert (after[..., 0][above] == 255).all() and (before[..., 0][above] == 255).all()
    assert ((before[..., 0] > 200) & (before[..., 0] < 255)).any()
    assert set(np.unique(after[..., 3])) & set(range(1, 25)) == set()
    assert np.abs(after[..., 1].astype(int) - before[..., 1]).max() <= 1
    ramp = gray_ramp_inks(line)
    assert ramp.sum(axis=1).max() <= 2.2


def test_a_compensated_gain_prints_like_the_condition_without_it(condition, photo):
    places = PixelGrid.rows(0, 240, 320, 240)
    gain = tuple(InkPlate(ink, gain=((50, 62), (80, 88))) for ink in INKS)
    plain, line = _line(condition, PlateStation()), _line(condition, PlateStation(gain))
    assert line.ink_codes(photo, places, 16).mean() < 0.93 * plain.ink_codes(photo, places, 16).mean()
    error = delta_e_2000(plain.printed(photo, places), line.printed(photo, places))
    assert error.mean() < 0.4 and np.percentile(error, 99) < 1.5


def test_an_ink_left_out_is_made_up_for_where_it_can_be(condition, photo):
    from plinto_core.analysis.figures import pixel_loss

    places = PixelGrid.rows(0, 240, 320, 240)
    line = _line(condition, PlateStation(), without=("K",))
    assert line.ink_codes(photo, places, 8)[..., 3].max() == 0
    complete = line.comparison_line("complete")
    lost = pixel_loss(line, complete, photo, places)
    light = complete.printed(photo, places)[..., 0] > 55
    # Light colors need no black; the darkest cannot be held without it.
    assert np.percentile(lost[light], 80) < 0.36
    assert lost.max() > 3
    yellow = _line(condition, PlateStation(), without=("Y",))
    assert yellow.ink_codes(photo, places, 8)[..., 2].max() == 0


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: InkPlate("K", bump_percent=30), "0 to 20 %"),
        (lambda: InkPlate("K", gain=((50, 60),)), "two or more rows"),
        (lambda: InkPlate("K", gain=((50, 60), (40, 70))), "rise in both"),
        (lambda: InkPlate("K", smallest="shrink"), "keep, raise or cut"),
        (lambda: PlateStation((InkPlate("K"), InkPlate("K"))), "set once"),
        (lambda: Plates(PlateStation((InkPlate("O"),)), INKS, np.ones(4), 3.0), "no plate O here"),
    ],
)
def test_settings_that_make_no_sense_say_why(make, words):
    with pytest.raises(RecipeError, match=words):
        make()
