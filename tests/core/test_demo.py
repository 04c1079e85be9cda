"""The simulated devices compute physics: closed forms they must reproduce."""

import numpy as np
import pytest

from plinto_core.colorimetry import xyz_to_lab
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, reflectance_to_xyz
from plinto_demo.artwork import PAINTINGS, press_card, write_painting
from plinto_demo.inks import BLACK, CYAN, MAGENTA, YELLOW, Stock
from plinto_demo.press import Instrument, Press
from plinto_demo.shop import CONDITIONS, measure_chart

PAPER = Stock("paper", 0.9, 0.02, 0.0)


def _press(**change):
    settings = {
        "inks": (CYAN, MAGENTA, YELLOW, BLACK), "stock": PAPER, "thickness": (1.0,) * 4, "dot_gain": (0.0,) * 4,
        "trapping": 1.0, "yule_nielsen": 1.0,
    }  # fmt: skip
    return Press(**(settings | change))


def test_no_ink_is_paper_and_solids_are_the_primaries():
    press = _press(yule_nielsen=2.0, dot_gain=(0.2,) * 4)
    corners = np.array([[0, 0, 0, 0], [1, 0, 0, 0], [0, 1, 1, 0], [1, 1, 1, 1.0]])
    spectra = press.reflectance(corners)
    assert np.allclose(spectra[0], PAPER.reflectance())
    assert np.allclose(spectra[1], PAPER.reflectance() * CYAN.transmittance())
    # Beer and Lambert: films on each other multiply.
    assert np.allclose(spectra[2], PAPER.reflectance() * MAGENTA.transmittance() * YELLOW.transmittance())


def test_without_light_spread_a_tint_is_the_mean_by_area():
    half = _press().reflectance(np.array([[0.5, 0, 0, 0]]))[0]
    paper = PAPER.reflectance()
    assert np.allclose(half, (paper + paper * CYAN.transmittance()) / 2)


def test_light_spread_darkens_tints_only():
    tint = np.array([[0.5, 0.3, 0, 0]])
    plain, spread = (_press(yule_nielsen=n).reflectance(tint)[0] for n in (1.0, 2.0))
    assert (spread <= plain + 1e-12).all() and spread.sum() < plain.sum()


def test_dot_gain_is_what_it_says_at_the_half_and_nothing_at_the_ends():
    press = _press(dot_gain=(0.2, 0.1, 0.0, 0.15))
    printed = press.dots_printed(np.array([[0.5] * 4, [0.0] * 4, [1.0] * 4]))
    assert printed[0] == pytest.approx([0.7, 0.6, 0.5, 0.65])
    assert np.array_equal(printed[1:], [[0] * 4, [1] * 4])


def test_a_mesh_loses_the_finest_dots_and_grows_the_rest():
    press = _press(dot_gain=(0.24,) * 4, mesh_threads_cm=54.0)
    dots = np.array([0.01, 0.02, 0.05, 0.3, 0.5, 0.8])[:, None].repeat(4, 1)
    printed = press.dots_printed(dots)[:, 0]
    assert printed[0] < 0.01
    assert printed[4] > 0.7
    assert (np.diff(printed) > 0).all()


def test_poor_trapping_makes_overprints_lighter():
    both = np.array([[1.0, 1, 0, 0]])
    good, poor = (_press(trapping=t).reflectance(both)[0].sum() for t in (1.0, 0.8))
    assert poor > good


def test_instrument_errs_little_and_the_same_way_each_time():
    spectra = np.tile(PAPER.reflectance(), (200, 1))
    measured, xyz = Instrument(11).measure(spectra)
    assert np.abs(measured / spectra - 1).std() < 0.003
    assert np.array_equal(Instrument(11).measure(spectra)[1], xyz)
    assert not np.array_equal(Instrument(12).measure(spectra)[1], xyz)
    assert np.allclose(xyz.mean(axis=0), reflectance_to_xyz(PAPER.reflectance()), rtol=1e-3)


def test_conditions_look_like_what_they_are_called():
    white, dark = {}, {}
    for shop in CONDITIONS:
        count = len(shop.press.inks)
        xyz = reflectance_to_xyz(shop.press.reflectance(np.array([[0.0] * count, [1.0] * count])))
        (white[shop.slug], dark[shop.slug]) = xyz_to_lab(xyz)[:, 0]
    assert white["halden-silk-150"] > 94 > white["cotton-54t"] > white["tern-news-45"]
    assert white["halden-silk-150"] > white["murrow-offset-120"] > white["brack-pouch-film"] > white["lumen-panel"]
    assert dark["lumen-panel"] < 5 and dark["halden-silk-150"] < dark["murrow-offset-120"]
    assert dark["halden-silk-150"] < 15 < dark["cotton-54t"] < dark["tern-news-45"]


def test_cgats_text_holds_every_number():
    data = measure_chart(CONDITIONS[0], 120)
    text = data.to_cgats()
    lines = text.splitlines()
    fields = lines[lines.index("BEGIN_DATA_FORMAT") + 1].split()
    rows = lines[lines.index("BEGIN_DATA") + 1 : lines.index("END_DATA")]
    assert f"NUMBER_OF_SETS {len(rows)}" in lines and f"NUMBER_OF_FIELDS {len(fields)}" in lines
    table = np.array([row.split() for row in rows], float)
    assert np.allclose(table[:, [fields.index(f"CMYK_{c}") for c in "CMYK"]], data.device * 100)
    assert np.allclose(table[:, fields.index("XYZ_Y")], data.xyz[:, 1] * 100, rtol=1e-4)
    assert sum(field.startswith("SPECTRAL_NM") for field in fields) == len(WAVELENGTHS_NM)


def test_the_press_card_is_what_it_promises(tmp_path):
    card = press_card()
    assert card.shape == (1600, 2400, 3)
    ramp = card[150, 80:2320].astype(int)
    assert (ramp.max(axis=1) - ramp.min(axis=1)).max() <= 1
    assert ramp[0].min() >= 254 and ramp[-1].max() <= 1
    assert (np.diff(ramp[:, 0]) <= 0).all()
    path = write_painting(PAINTINGS[-1], tmp_path)
    stamp = path.stat().st_mtime_ns
    assert write_painting(PAINTINGS[-1], tmp_path).stat().st_mtime_ns == stamp
