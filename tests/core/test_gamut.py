"""Gamut boundaries and the perceptual and saturation mappings: hue held, neutrals kept, order kept."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.source_gamut import source_boundary, surface_lab
from plinto_core.chain.stations import BlackPointCompensation, Source
from plinto_core.colorimetry import lab_to_lch, lch_to_lab
from plinto_core.colorimetry.straight import lab_to_straight, straight_to_lab
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary, boundary_of_surface
from plinto_core.gamut.mapping import PERCEPTUAL, SATURATION, GamutMapping
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.profiling.build_profile import PERCEPTUAL_STYLES
from plinto_core.recipe import AimStation, InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse
from plinto_demo.build import kept
from tests.conftest import shop_condition

ROOT = Path(__file__).resolve().parents[2]
STYLES = {"perceptual": PERCEPTUAL, "saturation": SATURATION}


@pytest.fixture(scope="module")
def cotton(condition):
    known = condition("cotton-54t")
    return Inverse(known.model, known.tables, BLACK_PRESETS["gcr"], InkLimits(230))


@pytest.fixture(scope="module")
def mappings(cotton):
    want = BlackPointCompensation(cotton.model, False, (0.0, float(cotton.black_point_lab[0])))
    wide = source_boundary(Source(rgb_profile("opRGB")), want)
    return {name: cotton.mapping_from(wide, style) for name, style in STYLES.items()}


def test_boundary_of_srgb_passes_through_its_primaries(condition):
    want = BlackPointCompensation(condition("cotton-54t").model, False, None)
    edge = source_boundary(Source(rgb_profile("sRGB")), want)
    corners = np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1], [0, 1, 1], [1, 0, 1.0], [1, 1, 0]])
    straight = lab_to_lch(lab_to_straight(cmm.to_lab(rgb_profile("sRGB"), corners)))
    for lightness, chroma, hue in straight:
        # Yellow's corner is sharper than a table can hold: the ridge knows it.
        assert edge.chroma_at([lightness], [hue])[0] == pytest.approx(chroma, rel=0.3)
        assert np.abs(edge.ridge - [lightness, chroma, hue]).max(axis=1).min() < 1e-6
    assert edge.chroma_at([100.0, 0.0], [40.0, 40.0]).max() < 6


@pytest.mark.parametrize("name", ["sRGB", "ROMM"])
def test_a_boundary_is_the_same_wherever_the_circle_of_hues_begins(name):
    lch = lab_to_lch(lab_to_straight(surface_lab(Source(rgb_profile(name)))))
    found = boundary_of_surface(lch_to_lab(lch)).chroma
    for steps in (12, 36, 60):
        turned = boundary_of_surface(lch_to_lab(lch + np.array([0.0, 0.0, steps * HUES_DEG[1]]))).chroma
        assert np.abs(np.roll(turned, -steps, axis=1) - found).max() < 1e-6


@pytest.mark.parametrize("name", ["halden-silk-150", "tern-news-45", "sateen-reactive"])
def test_an_output_profile_as_a_source_reaches_as_far_as_its_inks_do(condition, name):
    """Its surface came as a table of lightness and hue and was read as one of colors: C* was 66 of every hue at L* 67."""
    known = condition(name)
    found = source_boundary(Source(known.profile), BlackPointCompensation(known.model, False, None))
    own = Inverse(known.model, known.tables, BLACK_PRESETS["gcr"], InkLimits(100.0 * len(known.model.inks)))
    middle = (LIGHTNESS > 50) & (LIGHTNESS < 80)
    assert np.abs(found.chroma - own.straight_boundary.chroma)[middle].max() < 2.5


def test_artwork_in_inks_keeps_its_chroma_in_perceptual(condition):
    """From press to press, as relative keeps it: half of a cyan and a yellow solid had lost a tenth."""
    source, onto = condition("halden-silk-150").profile, condition("cotton-54t")
    inks = np.array([*np.eye(4)[:3], *np.eye(4)[:3] * 0.5, [1, 1, 0, 0], [0, 1, 1, 0], [1, 0, 1, 0]], float)
    station = InkStation("rebuilt", InkLimits(240), BLACK_PRESETS["gcr"])
    relative, perceptual = (
        onto.model.lab(compile_recipe(Recipe(aim=AimStation(intent, True), ink=station), onto, source).inks(inks))
        for intent in ("relative", "perceptual")
    )
    kept_share = lab_to_lch(perceptual)[:, 1] / lab_to_lch(relative)[:, 1]
    assert kept_share.min() > 0.96, kept_share


def test_boundary_of_the_inks_is_what_the_inverse_reaches(cotton):
    hues = np.arange(5, 360, 30.0)
    reach = cotton.boundary.chroma_at(np.full(12, 60.0), hues)
    inside = lch_to_lab(np.column_stack([np.full(12, 60.0), reach * 0.85, hues]))
    outside = lch_to_lab(np.column_stack([np.full(12, 60.0), reach + 14, hues]))
    error = np.linalg.norm(cotton.model.lab(cotton.inks(inside)) - inside, axis=1)
    assert error.max() < 0.5
    assert np.linalg.norm(cotton.model.lab(cotton.inks(outside)) - outside, axis=1).min() > 4


def test_uneven_small_dots_leave_no_hole_in_the_gamut(library):
    """A press whose smallest dots print too heavily: there the search for the surface stops short, and starts anew."""
    shop = shop_condition("brack-pouch-film")
    known = library.condition(kept(shop).read())
    edge = Inverse(known.model, known.tables, BLACK_PRESETS["gcr"], InkLimits(shop.total_ink_percent)).boundary.chroma
    beside = np.minimum(np.roll(edge, 1, axis=1), np.roll(edge, -1, axis=1))
    between = (LIGHTNESS > 40) & (LIGHTNESS < 85)
    assert (edge > 0.7 * beside)[between].all()


@pytest.mark.parametrize("style", STYLES)
def test_neutrals_are_left_alone(mappings, style):
    gray = np.column_stack([np.linspace(30, 100, 30), np.zeros((30, 2))])
    assert np.allclose(mappings[style].apply(gray), gray)


@given(
    style=st.sampled_from(list(STYLES)),
    lightness=st.floats(35, 95),
    chroma=st.floats(0, 110),
    hue=st.floats(0, 359.9),
)
def test_hue_stays_and_chroma_does_not_grow_beyond_the_boost(mappings, style, lightness, chroma, hue):
    before = straight_to_lab(lch_to_lab(np.array([[lightness, chroma, hue]])))
    after = lab_to_lch(lab_to_straight(mappings[style].apply(before)))[0]
    if after[1] > 0.5:
        assert abs((after[2] - hue + 180) % 360 - 180) < 1e-4
    assert after[1] <= chroma * STYLES[style].expansion + 1e-6
    assert 0 <= after[0] <= 100


@pytest.mark.parametrize("style", STYLES)
@pytest.mark.parametrize("hue", [20, 100, 150, 220, 285, 330])
def test_stronger_colors_stay_stronger_and_nothing_jumps(mappings, style, hue):
    furthest = float(mappings[style].source.chroma_at([62.0], [hue])[0])
    ramp = straight_to_lab(
        lch_to_lab(np.stack(np.broadcast_arrays(62.0, np.linspace(0, furthest, 200), hue), axis=-1))
    )
    chroma = lab_to_lch(lab_to_straight(mappings[style].apply(ramp)))[:, 1]
    steps = np.diff(chroma)
    # Leaning towards the cusp may cost the very strongest a little: never a third of what the step brought in.
    assert steps.min() > -0.3 * furthest / 199
    assert steps.max() < furthest / 199 * 1.35


def test_saturation_keeps_more_chroma_than_perceptual(mappings):
    hues = np.arange(0, 360, 15.0)
    strong = lch_to_lab(np.column_stack([np.full(24, 60.0), np.full(24, 60.0), hues]))
    chroma = {name: lab_to_lch(mapping.apply(strong))[:, 1] for name, mapping in mappings.items()}
    assert chroma["saturation"].mean() > chroma["perceptual"].mean() + 0.5


def test_source_inside_the_target_is_not_compressed():
    small, large = (Boundary(np.full((len(LIGHTNESS), len(HUES_DEG)), reach)) for reach in (30.0, 90.0))
    still = np.zeros(len(HUES_DEG))
    colors = lch_to_lab([[50.0, 28.0, 77.0], [70.0, 11.0, 200.0]])
    assert np.allclose(GamutMapping(small, large, PERCEPTUAL, still).apply(colors), colors)
    strong = straight_to_lab([[50.0, 90.0, 0.0], [50.0, 10.0, 0.0]])
    pressed = lab_to_lch(lab_to_straight(GamutMapping(large, small, PERCEPTUAL, still).apply(strong)))
    # The far end lands where the style sends it; what lies below the knee does not move.
    assert pressed[:, 1] == pytest.approx([30.0 * PERCEPTUAL.reach, 10.0], abs=0.01)


def test_the_screen_tells_the_styles_apart_by_their_own_figures():
    words = (ROOT / "web/src/shared/ui/PerceptualStyle.tsx").read_text()
    for name, style in PERCEPTUAL_STYLES.items():
        sentence = words.split(f'"{name}",')[1].split("]")[0]
        assert f"{style.knee * 100:.0f} %" in sentence
        assert (style.expansion > 1) == (f"{style.expansion * 100 - 100:.0f} % is added" in sentence)
