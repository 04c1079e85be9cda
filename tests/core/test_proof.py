"""What the screen shows, and the figures beside it, against plain NumPy and LittleCMS."""

import numpy as np
import pytest
import tifffile

from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.coverage_meter import CoverageMeter
from plinto_core.analysis.figures import coverage, differences
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry import delta_e_2000
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.opened import open_artwork
from plinto_core.raster.pyramid import Pyramid, build_pyramid
from plinto_core.recipe import AimStation, InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.screen.proof import Marks, Renderer, RenderRequest

SRGB = rgb_profile("sRGB")


@pytest.fixture(scope="module")
def line(condition):
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(210), BLACK_PRESETS["gcr"]))
    return compile_recipe(recipe, condition("cotton-54t"), rgb_profile("opRGB"))


@pytest.fixture
def levels(photo_tiff, tmp_path):
    build_pyramid(open_artwork(photo_tiff), tmp_path / "levels")
    return Pyramid(tmp_path / "levels")


def _shown(line, photo, view, **more):
    places = PixelGrid.rows(0, len(photo), photo.shape[1], 240)
    return Renderer(line, SRGB).render(view, photo, places, **more).astype(int)


def test_the_artwork_is_shown_as_littlecms_would(line, photo):
    shown = _shown(line, photo, RenderRequest("artwork"))
    theirs = np.rint(np.clip(cmm.convert(rgb_profile("opRGB"), SRGB, photo / 65535.0), 0, 1) * 255)
    difference = np.abs(shown - theirs)
    assert difference.mean() < 0.5
    assert np.percentile(difference, 99) <= 4


def test_the_print_is_shown_as_its_lab_says(line, photo):
    shown = _shown(line, photo, RenderRequest())
    lab = line.condition.model.lab_of_codes(line.link.inks_of(photo, 8))
    theirs = np.rint(np.clip(cmm.from_lab(SRGB, lab), 0, 1) * 255)
    assert np.abs(shown - theirs).mean() < 0.8
    assert np.percentile(np.abs(shown - theirs), 99) <= 5


def test_the_substrate_colors_white_and_black_keeps_its_depth(line):
    ends = np.array([[[65535] * 3, [0] * 3]], np.uint16)
    plain, stock = _shown(line, ends, RenderRequest()), _shown(line, ends, RenderRequest(substrate=True))
    assert plain[0, 0].min() >= 254
    white = cmm.from_lab(SRGB, line.condition.model.to_absolute([100.0, 0, 0]))
    assert np.abs(stock[0, 0] - np.clip(white, 0, 1) * 255).max() <= 1
    # A cotton print has no deep black, and the screen does not pretend it has.
    assert plain[0, 1].min() > 55


def test_plates_show_their_ink_alone(line, photo):
    inks = line.link.inks_of(photo, 8).astype(int)
    gray = _shown(line, photo, RenderRequest(plates=("M",), tint="gray"))
    assert np.array_equal(gray[..., 0], 255 - inks[..., 1])
    both = _shown(line, photo, RenderRequest(plates=("C", "K"), tint="gray"))
    assert np.array_equal(both[..., 0], 255 - inks[..., [0, 3]].max(axis=-1))
    yellow = _shown(line, photo, RenderRequest(plates=("Y",)))
    printed = inks[..., 2] > 200
    assert (yellow[printed][:, 2] < yellow[printed][:, 0]).all()
    assert (yellow[inks[..., 2] == 0] >= 254).all()


def test_marks_stand_where_the_difference_exceeds_the_tolerance(line, photo):
    plain = _shown(line, photo, RenderRequest())
    marked = _shown(line, photo, RenderRequest(mark="gamut", marks=Marks(5.0, (0, 0, 0), 10.0)))
    lab = line.condition.model.lab_of_codes(line.link.inks_of(photo, 8))
    outside = delta_e_2000(line.want_grid.at(photo), lab) > 5
    changed = (plain != marked).any(axis=-1)
    assert not changed[~outside].any()
    assert 0.1 < changed[outside].mean() < 0.7


def test_enlarged_pictures_are_the_same_pixels(line, photo):
    small, large = (
        _shown(line, photo[:20, :30], RenderRequest()),
        _shown(line, photo[:20, :30], RenderRequest(), enlarge=4),
    )
    assert np.array_equal(large[::4, ::4], small)


def test_coverage_map_is_gray_and_darker_for_more_ink(line, photo):
    picture = _shown(line, photo, RenderRequest("coverage", marks=Marks(color=(255, 255, 255))))
    assert (picture[..., 0] == picture[..., 1]).all()
    wanted = line.comparison_line("unlimited").link.inks_of(photo, 8).sum(axis=-1, dtype=int)
    within = wanted <= 2.1 * 255
    assert np.abs(picture[..., 0] - (255 - 240 * wanted / 1020))[within].max() <= 1
    # Over the limit it is hatched.
    assert (np.abs(picture[..., 0] - (255 - 240 * wanted / 1020))[~within] > 20).mean() > 0.05


def test_the_meter_counts_like_numpy():
    codes = np.random.default_rng(3).integers(0, 256, (500, 4)).astype(np.uint8)
    meter = CoverageMeter(4, 8, 240)
    meter.add(codes[:300])
    meter.add(codes[300:])
    totals = codes.sum(axis=1, dtype=int)
    assert meter.over == (totals > 2.4 * 255).sum()
    assert meter.largest_percent == pytest.approx(totals.max() / 2.55)
    assert meter.largest_at == totals.argmax()
    assert meter.mean_percent == pytest.approx(list(codes.mean(axis=0) / 2.55))
    expected, _ = np.histogram(totals, bins=60, range=(0, 1020))
    assert meter.histogram == pytest.approx(list(expected / 500))


def test_figures_of_an_artwork_say_where_and_how_much(line, levels, photo):
    found = coverage(levels, line, line.comparison_line("unlimited"))
    inks = line.comparison_line("unlimited").link.inks_of(photo, 8).sum(axis=-1, dtype=int)
    assert found.largest_percent <= 210 < found.wanted_largest_percent == pytest.approx(inks.max() / 2.55)
    x, y = found.wanted_largest_at
    assert inks[y, x] == inks.max()
    assert found.wanted_over_share == pytest.approx((inks > 2.1 * 255).mean())
    assert found.sampled_every == 1
    far = differences(levels, line, line, 3.0)
    lab = line.condition.model.lab_of_codes(line.link.inks_of(photo, 8))
    every = delta_e_2000(line.want_grid.at(photo), lab)
    assert far.worst == pytest.approx(every.max())
    assert far.out_of_gamut_share == pytest.approx((every > 3).mean())
    assert every[far.worst_at[1], far.worst_at[0]] == pytest.approx(every.max())


def test_out_of_gamut_does_not_depend_on_the_intent(condition, levels):
    known = condition("cotton-54t")
    chains = {
        intent: compile_recipe(
            Recipe(aim=AimStation(intent), ink=InkStation("rebuilt", InkLimits(230))), known, rgb_profile("opRGB")
        )
        for intent in ("relative", "perceptual")
    }
    shares = [differences(levels, line, chains["relative"], 3.0).out_of_gamut_share for line in chains.values()]
    assert shares[0] == shares[1] > 0.05


def test_an_even_sample_of_a_large_picture_is_said_to_be_one(line, tmp_path):
    path = tmp_path / "large.tif"
    tifffile.imwrite(path, np.full((2500, 2500, 3), 90, np.uint8), photometric="rgb", metadata=None)
    build_pyramid(open_artwork(path), tmp_path / "large")
    assert coverage(Pyramid(tmp_path / "large"), line, line).sampled_every == 2
