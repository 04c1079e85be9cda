"""Ramps to calibrations: caps, even steps, light ink into dark; prints seen with light behind them."""

import json

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plinto_core.colorimetry.lab import lab_to_xyz, xyz_to_lab
from plinto_core.colorimetry.spectra import illuminant_power, light_from_text
from plinto_core.errors import CharacterizationError
from plinto_core.measurement.measurements import Measurements, under_light
from plinto_core.press.calibration import POINTS, Calibration, InkCurve, calibration_from_json
from plinto_core.profiling.backlit import Viewing, on_panel, patch_volume, seen, transmittance
from plinto_core.profiling.linearize import InkSplit, calibrate, linearize, ramps_of, split_light_dark
from plinto_demo.light_table import PANELS, LightTable
from plinto_demo.shop import measure, measure_ramps
from tests.conftest import shop_condition

STEPS = np.linspace(0, 1, 21)


def ramp(lightness, dots=STEPS):
    """A ramp of one ink with these L*."""
    lab = np.column_stack([lightness, np.zeros((len(dots), 2))])
    return ramps_of(Measurements(("Black",), dots[:, None], lab_to_xyz(lab), title="ramp"))["K"]


def test_an_ink_is_capped_where_its_density_stops_rising_and_steps_become_even():
    # Full at 70 %: beyond, more ink changes nothing.
    falls = 100 - 80 * np.minimum(STEPS / 0.7, 1) ** 0.6
    found = linearize(ramp(falls))
    assert found.cap == pytest.approx(0.7, abs=0.051)
    assert found.curve[-1] == found.cap and not found.advice
    printed = np.interp(found.curve, STEPS, falls)
    # Read between measured steps, the middle of the ramp is even to half a step.
    assert np.abs(np.diff(printed)[8:-8] - np.diff(printed)[8:-8].mean()).max() < 0.15
    assert linearize(ramp(falls), cap=0.5).curve[-1] == 0.5


def test_the_aim_can_be_a_dot_gain():
    straight = 1 - 0.95 * STEPS
    found = linearize(ramp(xyz_to_lab(straight[:, None] * [0.9642, 1, 0.8249])[:, 0]), gain_percent=16)
    assert found.curve[POINTS // 2] == pytest.approx(0.66 * found.cap, abs=0.01)


def test_a_ramp_that_falls_back_is_to_be_measured_again():
    lightness = 100 - 80 * STEPS
    lightness[10] += 9
    assert "falls back at 50 %" in linearize(ramp(lightness)).advice
    bulged = 100 - 80 * STEPS
    bulged[[5, 15]] -= 4
    assert "bulges" in linearize(ramp(bulged)).advice
    with pytest.raises(CharacterizationError, match="at least four more"):
        ramp([100.0, 50, 20], np.array([0.0, 0.5, 1]))


def test_dark_ink_takes_over_from_light_ink_without_a_step():
    light, dark = ramp(100 - 35 * STEPS), ramp(100 - 85 * STEPS)
    lights, darks = split_light_dark(light, dark, InkSplit(0.3, 0.8, 0.2))
    at = np.linspace(0, 1, POINTS)
    assert (darks[at < 0.28] < 0.02).all() and darks[-1] > 0.98
    assert lights[-1] == pytest.approx(0.2) and lights.max() > 0.7
    assert (np.diff(darks) >= 0).all()
    density = np.interp(lights, light.dots, light.density) + np.interp(darks, dark.dots, dark.density)
    lightness = 10 ** (-density / 3)
    # Both together go straight down in the cube root of light, as far as the table of measured steps can say.
    assert np.abs(np.diff(darks)).max() < 0.06, "no step at the end"
    straight = 1 - at * (1 - lightness[-1])
    assert np.abs(lightness - straight).max() < 0.03
    with pytest.raises(CharacterizationError, match="starts between"):
        InkSplit(0.9, 0.3)


def test_the_shops_light_inks_make_even_ramps_of_four():
    shop = shop_condition("lumen-panel")
    first, _lines = calibrate(measure_ramps(shop))
    assert first.inks == ("C", "M", "Y", "K") and first.device_inks == ("C", "c", "M", "m", "Y", "K", "k")
    second, lines = calibrate(measure_ramps(shop, calibration=first), behind=first)
    assert all(not line.advice for line in lines.values())
    check = ramps_of(measure_ramps(shop, calibration=second))
    for found in check.values():
        steps = np.diff(found.arc_length_delta_e / found.arc_length_delta_e[-1])
        assert steps.max() < 2.2 / 20, f"{found.ink} has a step of {steps.max():.3f} of the way"
    with pytest.raises(CharacterizationError, match="print the ramps"):
        calibrate(measure_ramps(shop), behind=first)


@given(st.lists(st.floats(0, 1), min_size=4, max_size=4))
def test_codes_follow_the_curves_and_never_pass_them(values):
    shape = tuple((np.linspace(0, 1, POINTS) ** 1.5 * 0.9).tolist())
    straight = tuple(np.linspace(0, 1, POINTS).tolist())
    made = Calibration((*(InkCurve(ink, straight) for ink in "CMY"), InkCurve("K", shape, "k", shape[::-1])))
    codes = np.rint(np.array(values) * 65535).astype(np.uint16)
    out = made.apply_codes(codes)
    exact = made.apply(codes / 65535) * 65535
    assert out.shape == (5,) and (out <= exact + 1e-3).all() and (exact - out < 1.01).all()
    assert calibration_from_json(json.loads(json.dumps(made.to_json()))) == made


def test_a_calibration_that_is_none_is_refused():
    with pytest.raises(CharacterizationError, match="curves"):
        calibration_from_json({"curves": "none"})
    with pytest.raises(CharacterizationError, match="needs 65 values"):
        InkCurve("C", (0.0, 1.0))


def test_what_the_table_adds_is_taken_away_again():
    table, film = LightTable("Panel 5600", 0.0), np.linspace(0.02, 0.9, 36)
    assert np.allclose(transmittance(table.reading(film), table.on(), table.off()), film)
    with pytest.raises(CharacterizationError, match="hardly more light on than off"):
        transmittance(film, table.off(), table.off())


def test_a_bare_panel_is_white_and_room_light_costs_gamut():
    panel = Viewing(PANELS["Panel 5600"])
    assert np.allclose(seen(np.ones(36), panel), [0.9642, 1, 0.8249], atol=1e-3)
    shop = shop_condition("lumen-panel")
    crossing, _ = calibrate(measure_ramps(shop))
    chart = measure(shop, np.random.default_rng(3).random((200, 4)), crossing)
    table = LightTable("Panel 5600", 0.0)
    dark, bright = (
        patch_volume(on_panel(chart, table.on(), table.off(), Viewing(panel.panel, share)).xyz) for share in (0, 0.6)
    )
    assert bright < dark
    warm = patch_volume(on_panel(chart, table.on(), table.off(), Viewing(PANELS["Panel 3000"])).xyz)
    assert abs(warm / dark - 1) > 0.02, "another light is another gamut"


def test_colors_under_another_illuminant_need_spectra():
    data = measure(shop_condition("halden-silk-150"), np.eye(4))
    assert np.allclose(under_light(data, illuminant_power("D50")).xyz, data.xyz, atol=5e-4)
    assert not np.allclose(under_light(data, illuminant_power("A")).xyz, data.xyz, atol=5e-3)
    with pytest.raises(CharacterizationError, match="has no spectra"):
        under_light(under_light(data, illuminant_power("A")), illuminant_power("A"))


def test_lights_are_read_from_lines_of_wavelength_and_power():
    text = "nm;power\n" + "\n".join(f"{nm};{nm / 7},0".replace(",0", "") for nm in range(380, 731, 5))
    assert light_from_text(text, "light.csv").max() == 1
    with pytest.raises(CharacterizationError, match=r"'light\.csv' is no light"):
        light_from_text("400 1\n700 1\n", "light.csv")
