"""Color numbers against closed forms, published pairs and the field's own library."""

import warnings

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from plinto_core.colorimetry import bradford, delta_e_2000, lab_to_lch, lab_to_xyz, lch_to_lab, xyz_to_lab
from plinto_core.colorimetry.spectra import illuminant_power, light_white, reflectance_to_xyz

LABS = arrays(np.float64, (7, 3), elements=st.floats(-120, 120)).map(lambda a: np.abs(a) * [0.83, 1, 1])

# Sharma, Wu and Dalal 2005, table 1: pairs that catch every branch.
SHARMA = [
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
    ((50.0, 2.49, -0.001), (50.0, -2.49, 0.0011), 7.2195),
    ((50.0, -0.001, 2.49), (50.0, 0.0011, -2.49), 4.7461),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.694), (23.0331, 14.973, -42.5619), 2.0373),
    ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
]


@pytest.mark.parametrize(("first", "second", "expected"), SHARMA)
def test_ciede2000_reproduces_the_published_pairs(first, second, expected):
    assert delta_e_2000(first, second) == pytest.approx(expected, abs=5e-5)
    assert delta_e_2000(second, first) == pytest.approx(expected, abs=5e-5)


def test_ciede2000_agrees_with_the_color_library():
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import colour
    random = np.random.default_rng(1)
    first, second = random.random((2, 5000, 3)) * [100, 200, 200] - [0, 100, 100]
    theirs = colour.delta_E(first, second, method="CIE 2000")
    assert np.abs(delta_e_2000(first, second) - theirs).max() < 1e-9


@given(LABS)
def test_lab_and_xyz_and_lch_invert_each_other(lab):
    assert np.allclose(xyz_to_lab(lab_to_xyz(lab)), lab, atol=1e-8)
    assert np.allclose(lch_to_lab(lab_to_lch(lab)), lab, atol=1e-8)


def test_bradford_takes_d65_to_d50_as_iec_61966_2_1_has_it():
    # The sRGB matrix's row sums, adapted, are the connection space's white.
    assert np.allclose(bradford([0.95047, 1, 1.08883]) @ [0.95047, 1, 1.08883], [0.9642, 1, 0.8249], atol=1e-9)


def test_spectra_of_the_perfect_diffuser_are_the_illuminant():
    assert np.allclose(reflectance_to_xyz(np.ones(36)), light_white(illuminant_power("D50")))
    assert np.allclose(light_white(illuminant_power("D50")), [0.9642, 1, 0.8249], atol=1e-3)
    assert np.allclose(light_white(illuminant_power("D65")), [0.9504, 1, 1.0888], atol=2e-3)
