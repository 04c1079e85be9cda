"""Forward models: the fit against the physics, the kernels against their obvious twins."""

from itertools import product

import numpy as np
import pytest

from plinto_core.colorimetry import D50_XYZ, delta_e_2000, xyz_to_lab
from plinto_core.colorimetry.spectra import reflectance_to_xyz
from plinto_core.errors import CharacterizationError, IccError
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.names import ink_letters
from plinto_core.measurement.chart import characterization_chart
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.fit import fit_model
from plinto_core.press.grid_kernels import evaluate_with_slopes
from plinto_core.press.model import GRID_POINTS, ForwardModel, ink_grid, model_from_profile
from plinto_demo.shop import measure_chart
from tests.conftest import SLUGS, fitted, profile_of, shop_condition

RANDOM = np.random.default_rng(4)


@pytest.mark.parametrize("slug", SLUGS)
def test_fit_predicts_patches_it_has_not_seen(slug):
    fit = fitted(slug)
    # The aims of measures.md for characterization fit.
    assert fit.held_out_mean <= 0.12
    assert fit.held_out_p95 <= 0.35


def test_fit_follows_the_physics_behind_the_noise():
    shop = shop_condition("cotton-54t")
    dots = RANDOM.random((800, 4))
    bare = reflectance_to_xyz(shop.press.reflectance(np.zeros((1, 4))))
    true = xyz_to_lab(reflectance_to_xyz(shop.press.reflectance(dots)) * D50_XYZ / bare)
    error = delta_e_2000(fitted("cotton-54t").model.lab(dots), true)
    assert error.mean() < 0.12
    assert np.percentile(error, 95) < 0.35


def test_charts_have_ramps_overprints_and_no_repeats():
    chart = characterization_chart(4, 1600)
    assert chart.shape == (1600, 4)
    assert len(np.unique(chart, axis=0)) == 1600
    assert {tuple(c) for c in product((0.0, 1.0), repeat=4)} <= {tuple(c) for c in chart}
    assert characterization_chart(6, 900, 3.0).sum(axis=1).max() <= 3.001


def test_instrument_noise_is_seeded():
    shop = shop_condition("cotton-54t")
    assert np.array_equal(measure_chart(shop, 50).xyz, measure_chart(shop, 50).xyz)


def test_too_few_patches_are_refused_with_the_count_needed():
    data = measure_chart(shop_condition("cotton-54t"), 20)
    with pytest.raises(CharacterizationError, match="at least 30"):
        fit_model(data)


def test_data_without_bare_substrate_is_refused():
    data = measure_chart(shop_condition("cotton-54t"), 60)
    with pytest.raises(CharacterizationError, match="bare substrate"):
        fit_model(Measurements(data.inks, data.device[1:], data.xyz[1:]))


def test_an_rgb_profile_is_no_printing_condition():
    with pytest.raises(IccError, match="no output profile"):
        model_from_profile(rgb_profile("sRGB"))


def test_profile_and_model_tell_the_same():
    model = model_from_profile(profile_of("cotton-54t"))
    dots = RANDOM.random((2000, 4))
    assert delta_e_2000(model.lab(dots), fitted("cotton-54t").model.lab(dots)).max() < 0.02
    assert np.allclose(model.to_relative(model.to_absolute(model.lab(dots))), model.lab(dots), atol=1e-9)


def _multilinear(nodes, points, inks, values):
    """The obvious way: corner by corner."""
    total = np.zeros(nodes.shape[1])
    cells = np.minimum((values * (points - 1)).astype(int), points - 2)
    fractions = values * (points - 1) - cells
    for corner in product((0, 1), repeat=inks):
        weight = np.prod([f if up else 1 - f for f, up in zip(fractions, corner, strict=True)])
        index = np.ravel_multi_index(tuple(cells + corner), (points,) * inks)
        total += weight * nodes[index]
    return total


@pytest.mark.parametrize("inks", range(1, 9))
def test_kernels_interpolate_like_their_obvious_twin_for_one_to_eight_inks(inks):
    points = GRID_POINTS[inks]
    nodes = RANDOM.random((points**inks, 3)).astype(np.float32)
    model = ForwardModel(ink_letters(inks), points, nodes, D50_XYZ)
    values = RANDOM.random((40, inks))
    expected = np.array([_multilinear(nodes.astype(float), points, inks, v) for v in values])
    assert np.allclose(model.lab(values), expected, atol=1e-6)
    codes = np.rint(values * 65535).astype(np.uint16)
    assert np.allclose(model.lab_of_codes(codes), model.lab(codes / 65535), atol=2e-4)
    assert ink_grid(inks).shape == (points**inks, inks)


@pytest.mark.parametrize("inks", [3, 4, 6])
def test_slopes_are_the_differences_of_values(inks):
    points = GRID_POINTS[inks]
    nodes = RANDOM.random((points**inks, 3)).astype(np.float32)
    model = ForwardModel(ink_letters(inks), points, nodes, D50_XYZ)
    at = (RANDOM.integers(0, points - 1, inks) + 0.4) / (points - 1)
    out, slopes = np.zeros(3), np.zeros((3, inks))
    evaluate_with_slopes(
        nodes, points, inks, at, out, slopes, np.zeros(10, np.int64), np.zeros(10), np.zeros(10, np.int64)
    )
    assert np.allclose(out, model.lab(at), atol=1e-6)
    step = 1e-5 * np.eye(inks)
    assert np.allclose(slopes, ((model.lab(at + step) - model.lab(at - step)) / 2e-5).T, atol=1e-3)
