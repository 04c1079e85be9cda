"""Measured patches in any shape, the fit they give, profiles built and judged, gamuts, a few numbers, drift."""

import contextlib
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import RBFInterpolator

from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import Condition
from plinto_core.colorimetry import delta_e_2000, lab_to_lch, lab_to_xyz, xyz_to_lab
from plinto_core.colorimetry.lab import D50_XYZ
from plinto_core.colorimetry.spectra import reflectance_to_xyz
from plinto_core.errors import CharacterizationError, IccError, RecipeError
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary
from plinto_core.gamut.volume import coverage, hull, share_outside, volume
from plinto_core.icc import cmm
from plinto_core.icc.edit import copy_tags, renamed
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.measurements import Measurements
from plinto_core.measurement.tables import read_table
from plinto_core.press.corrected import corrected
from plinto_core.press.fit import fit_model, relative_lab
from plinto_core.press.from_inks import (
    InkNumbers,
    ink_numbers_from_json,
    ink_numbers_to_json,
    model_from_inks,
    tones_of,
)
from plinto_core.press.left_out import Leaving, leaving_at
from plinto_core.press.model import model_from_profile
from plinto_core.press.overprints import smoothest_spectrum
from plinto_core.press.surface import surface_through
from plinto_core.profiling.build_profile import BuildSettings, automatic_total, build_output_profile, settings_of
from plinto_core.profiling.characterize import characterize
from plinto_core.profiling.drift import measure_drift
from plinto_core.profiling.judge import gamut_of, judge
from plinto_core.recipe import AimStation, InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS, usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import precompute
from plinto_demo.from_numbers import PRESSES, off_by_numbers
from plinto_demo.shop import measure_chart
from tests.conftest import fitted, profile_of, shop_condition

RANDOM = np.random.default_rng(77)


@pytest.fixture(scope="module")
def chart():
    return measure_chart(shop_condition("cotton-54t"), 420)


def _hostile(data: Measurements, comma=True, encoding="latin-1", wrong=(40, 200, 310)) -> bytes:
    """The chart in shuffled columns and rows, with decimal commas, repeats, and patches that are wrong."""
    lab = xyz_to_lab(data.xyz)
    lab[list(wrong)] += [14, -9, 5]
    rows = np.hstack([data.device * 100, lab])
    rows = np.concatenate([rows, rows[5:25]])[RANDOM.permutation(len(rows) + 20)]
    fields = ["CMYK_C", "CMYK_M", "CMYK_Y", "CMYK_K", "LAB_L", "LAB_A", "LAB_B"]
    order = RANDOM.permutation(7)
    body = "\r\n".join("\t".join(f"{row[k]:.4f}" for k in order) for row in rows)
    text = (
        f'CGATS.17\r\nDESCRIPTOR "Wäsche für Späher"\r\nBEGIN_DATA_FORMAT\r\n{" ".join(fields[k] for k in order)}\r\n'
        f"END_DATA_FORMAT\r\nBEGIN_DATA\r\n{body.replace('.', ',') if comma else body}\r\nEND_DATA\r\n"
    )
    return text.encode(encoding)


@pytest.mark.parametrize("encoding", ["latin-1", "utf-8", "utf-8-sig", "utf-16"])
def test_a_hostile_file_is_read_fitted_and_its_wrong_patches_named(chart, encoding):
    data, notes = read_measurements(_hostile(chart, encoding=encoding), "späher.txt")
    assert data.title == "Wäsche für Späher"
    assert "20 patches were measured more than once" in notes[-1]
    assert len(data.device) == len(chart.device)
    found = characterize(data, notes)
    wrong = {tuple(data.device[index].round(3)) for index, _ in found.fit.outliers}
    assert wrong == {tuple(chart.device[index].round(3)) for index in (40, 200, 310)}
    assert found.fit.held_out_mean < 0.6
    assert 1e-8 <= found.fit.smoothing <= 1e-4
    assert set(found.solids_lab) == set("CMYK") and 20 < found.gain_50["C"] < 40


def test_fields_and_scales_of_other_makers(chart):
    head = "CGATS.17\nBEGIN_DATA_FORMAT\n{}\nEND_DATA_FORMAT\nBEGIN_DATA\n{}\nEND_DATA\n"
    lab = xyz_to_lab(chart.xyz)

    def text(fields, columns):
        rows = "\n".join(" ".join(f"{v:.6f}" for v in row) for row in np.hstack(columns))
        return head.format(fields, rows).encode()

    plain = "CMYK_C CMYK_M CMYK_Y CMYK_K "
    cases = [
        (plain + "XYZ_X XYZ_Y XYZ_Z", [chart.device * 255, chart.xyz]),
        (plain + "LAB_L LAB_A LAB_B", [chart.device, lab]),
        ("4CLR_1 4CLR_2 4CLR_3 4CLR_4 XYZ_X XYZ_Y XYZ_Z", [chart.device * 100, chart.xyz * 100]),
        (
            plain + " ".join(f"SPECTRAL_NM{nm}" for nm in range(380, 731, 10)),
            [chart.device * 100, chart.spectra * 100],
        ),
        (plain + " ".join(f"nm_{nm}" for nm in range(380, 731, 10)), [chart.device * 100, chart.spectra]),
    ]
    for fields, columns in cases:
        data, _ = read_measurements(text(fields, columns), "x.txt")
        order = np.lexsort(data.device.T), np.lexsort(chart.device.T)
        assert np.abs(data.device[order[0]] - chart.device[order[1]]).max() < 1e-4, fields
        assert delta_e_2000(xyz_to_lab(data.xyz[order[0]]), lab[order[1]]).max() < 0.01, fields


def test_cxf_gives_the_same_colors(chart):
    objects = "".join(
        f'<cc:Object Name="p{i}"><cc:ReflectanceSpectrum StartWL="380">{" ".join(f"{v:.5f}" for v in chart.spectra[i])}'
        f"</cc:ReflectanceSpectrum><cc:ColorCMYK>"
        + "".join(
            f"<cc:{ink}>{v * 100:.4f}</cc:{ink}>"
            for ink, v in zip(("Cyan", "Magenta", "Yellow", "Black"), chart.device[i], strict=True)
        )
        + "</cc:ColorCMYK></cc:Object>"
        for i in range(40)
    )
    xml = f'<?xml version="1.0"?><cc:CxF xmlns:cc="urn:x"><cc:Object Name="bare"/>{objects}</cc:CxF>'
    data, notes = read_measurements(xml.encode(), "a.cxf")
    assert np.abs(data.xyz - chart.xyz[:40]).max() < 1e-4
    assert "1 objects" in notes[0]
    bomb = b'<!DOCTYPE a [<!ENTITY b "x"><!ENTITY c "&b;&b;&b;">]><a><Object>&c;</Object></a>'
    for bad, words in ((bomb, "no object"), (b"<a><b></a>", "no readable CxF")):
        with pytest.raises(CharacterizationError, match=words):
            read_measurements(bad, "b.cxf")


HEAD = "CGATS.17\nBEGIN_DATA_FORMAT\n{}\nEND_DATA_FORMAT\nBEGIN_DATA\n"
BAD = {
    "neither BEGIN_DATA_FORMAT nor a first line": b"just words",
    "ends in the middle": HEAD.format("CMYK_C LAB_L").encode() + b"1 2\n",
    "no patches": HEAD.format("CMYK_C").encode() + b"END_DATA\n",
    "Line 6 of 'm.txt' has 2 values for 3": HEAD.format("CMYK_C LAB_L LAB_A").encode() + b"1 2\nEND_DATA\n",
    "has 'n/a' where LAB_L": HEAD.format("CMYK_K LAB_L LAB_A LAB_B").encode() + b"1 n/a 0 0\nEND_DATA\n",
    "no ink values": HEAD.format("SAMPLE_ID LAB_L LAB_A LAB_B").encode() + b"1 2 3 4\nEND_DATA\n",
    "neither LAB_L": HEAD.format("CMYK_C SAMPLE_ID").encode() + b"1 2\nEND_DATA\n",
    "RGB_R, RGB_G and RGB_B are meant": HEAD.format("RGB_R RGB_G LAB_L LAB_A LAB_B").encode()
    + b"1 2 4 5 6\nEND_DATA\n",
    "RGB values from": HEAD.format("RGB_R RGB_G RGB_B LAB_L LAB_A LAB_B").encode() + b"-9 2 3 4 5 6\nEND_DATA\n",
    "no finite number": HEAD.format("CMYK_K LAB_L LAB_A LAB_B").encode() + b"1 nan 0 0\nEND_DATA\n",
    "Lab values that no print has": HEAD.format("CMYK_K LAB_L LAB_A LAB_B").encode() + b"1 300 0 0\nEND_DATA\n",
    "0 to 100 % is meant": HEAD.format("CMYK_K LAB_L LAB_A LAB_B").encode() + b"900 50 0 0\nEND_DATA\n",
}


@pytest.mark.parametrize("words", list(BAD))
def test_bad_measurement_files_say_what_is_wrong_and_where(words):
    with pytest.raises(CharacterizationError) as caught:
        read_measurements(BAD[words], "m.txt")
    assert words in str(caught.value)


@given(st.binary(max_size=300))
def test_no_bytes_crash_the_reader(data):
    with contextlib.suppress(CharacterizationError):
        read_table(data, "x")


def _surfaces(chart):
    """A small chart, and SciPy's own surface through such of its patches as are kept, under one smoothing for each."""
    some = np.random.default_rng(2).permutation(len(chart.device))[:120]
    device, lab = chart.device[some], relative_lab(chart)[some]

    def fitted_to(keep):
        return RBFInterpolator(device[keep], lab[keep], kernel="cubic", degree=2, smoothing=1e-6 * 120)

    return device, lab, fitted_to


def test_leaving_out_by_one_decomposition_is_leaving_out_for_real(chart):
    device, lab, fitted_to = _surfaces(chart)
    for left in (leaving_at(device, lab, 1e-6), Leaving(device, lab).at(1e-6)):
        predicted, with_fewer = left.predicted(), left.without(7).without(90).predicted()
        for index in (3, 50, 91):
            others = np.arange(120) != index
            assert predicted[index] == pytest.approx(fitted_to(others)(device[[index]])[0], abs=1e-6)
            others[[7, 90]] = False
            assert with_fewer[index] == pytest.approx(fitted_to(others)(device[[index]])[0], abs=1e-6)


def test_the_surface_through_patches_is_scipys_own(chart):
    device, lab, fitted_to = _surfaces(chart)
    places = np.random.default_rng(1).random((300, 4))
    assert surface_through(device, lab, 1e-6).at(places) == pytest.approx(fitted_to(slice(None))(places), abs=1e-6)
    few = surface_through(device[:40], lab[:40], 1e-6)
    assert few.degree == 1
    known = RBFInterpolator(device[:40], lab[:40], kernel="cubic", degree=1, smoothing=1e-6 * 40)
    assert few.at(places) == pytest.approx(known(places), abs=1e-6)


def test_too_few_patches_are_refused(chart):
    few = Measurements(chart.inks, chart.device[:20], chart.xyz[:20])
    with pytest.raises(CharacterizationError, match="need at least 30"):
        fit_model(few)


def test_settings_shape_the_profile_and_travel_in_it():
    model = fitted("cotton-54t").model
    settings = BuildSettings("Tinted", InkLimits(220), BLACK_PRESETS["gcr"], (2, 4), 17, "lively", (2.0, -3.0), 10.0)
    profile = parse(build_output_profile(model, settings).raw)
    assert profile.header.version == (2, 4)
    assert profile.tags["B2A1"].grid.shape[:3] == (17, 17, 17)
    assert settings_of(profile) == settings.to_json()
    gray = cmm.to_lab(profile, cmm.from_lab(profile, [[60.0, 0, 0]]))[0]
    assert gray[1:] == pytest.approx([1.9, -2.9], abs=0.6)
    assert settings_of(rgb_profile("sRGB")) is None
    bad = {"9 to 65": {"grid": 3}, "no perceptual style": {"style": "bold"}, "version 2 or 4": {"version": (3, 0)}}
    for words, change in bad.items():
        with pytest.raises(RecipeError, match=words):
            BuildSettings("x", InkLimits(220), BLACK_PRESETS["gcr"], **change)


def test_automatic_total_ink_is_the_least_that_is_as_dark():
    total, totals, lightness = automatic_total(fitted("tern-news-45").model, BLACK_PRESETS["gcr"])
    assert 150 <= total < 400
    at = lightness[totals.tolist().index(total)]
    assert at <= lightness.min() + 0.5 < lightness[totals.tolist().index(total - 10)]


def test_a_profile_is_judged_by_what_it_does():
    found = judge(profile_of("cotton-54t"), colors=3000)
    assert found.round_trip_mean < 0.5 and found.round_trip_p99 < 1.5
    assert found.max_neutral_chroma < 1
    assert found.most_ink_percent <= 230.01
    assert 0.2 < dict(found.gain["M"])[0.5] - 0.5 < 0.4
    assert found.gamut_volume == pytest.approx(volume(gamut_of(fitted("cotton-54t").model)), rel=0.02)
    with pytest.raises(IccError, match="no output profile"):
        judge(rgb_profile("sRGB"))


def test_volumes_and_coverages_of_known_bodies():
    # A cylinder of C* 30: ½·30²·2π·100, its ends counted half a step of the grid too far.
    round_one = Boundary(np.full((len(LIGHTNESS), len(HUES_DEG)), 30.0))
    assert volume(round_one) == pytest.approx(np.pi * 900 * (100 + 0.5 * 80 / 24 + 0.5 * 20 / 16), rel=1e-6)
    half = Boundary(round_one.chroma / 2)
    assert coverage(round_one, half) == pytest.approx(0.25) and coverage(half, round_one) == 1
    lab = np.array([[50, 29, 0], [50, 40, 0], [20, 0, -35.0]])
    assert share_outside(lab, round_one) == pytest.approx(2 / 3)
    drawn = hull(round_one)
    points, triangles = drawn.points, drawn.triangles
    a, b, c = (points[triangles[:, k]] for k in range(3))
    # Closed and facing outward: the signed volume is the body's.
    signed = np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6
    assert abs(signed) == pytest.approx(np.pi * 900 * 100, rel=0.02)
    edges = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    assert (np.unique(edges, axis=0, return_counts=True)[1] == 2).all()
    # Wires keep to one lightness or one hue.
    (l0, c0, h0), (l1, c1, h1) = (lab_to_lch(points[drawn.wires[:, k]]).T for k in (0, 1))
    assert ((l0 == l1) | (np.minimum(c0, c1) < 1e-9) | (np.abs(h0 - h1) < 1e-6)).all()
    # The farthest of every hue is joined to the farthest of the next: without it the ends stood out like teeth.
    far = 20 + np.arange(len(HUES_DEG)) % 7
    rows = np.arange(len(LIGHTNESS))[:, None]
    drawn = hull(Boundary(30.0 - np.abs(rows - far) * 0.5))
    crest = {(int(row), hue) for hue, row in enumerate(far)}
    joined = {tuple(divmod(int(k), len(HUES_DEG))) for pair in drawn.wires for k in pair}
    on_crest = np.isin(drawn.wires, [row * len(HUES_DEG) + hue for row, hue in crest]).all(axis=1)
    assert crest <= joined and on_crest.sum() >= len(HUES_DEG)


NUMBERS = {
    "name": "Supplier's tote", "paper": [92, 0, 3], "yule_nielsen_n": 2.0,
    "solids": {"C": [55, -36, -45], "M": [50, 70, -4], "Y": [88, -6, 86], "K": [22, 0, 1]},
    "overprints": {"CM": [28, 18, -44], "MY": [49, 65, 44]}, "gain_percent": {"C": 22, "M": 22, "Y": 20, "K": 25},
}  # fmt: skip


def test_a_few_numbers_give_a_usable_condition():
    numbers = ink_numbers_from_json(NUMBERS)
    assert ink_numbers_from_json(json.loads(json.dumps(ink_numbers_to_json(numbers)))) == numbers
    # As files of before 0.4.4 have it.
    assert ink_numbers_from_json({**NUMBERS, "yule_nielsen_n": 3, "spread": 2.0}).yule_nielsen_n == 3
    old = {"spread" if key == "yule_nielsen_n" else key: value for key, value in NUMBERS.items()}
    assert ink_numbers_from_json(old) == numbers
    model = model_from_inks(numbers)
    absolute = model.to_absolute(model.lab(np.array([[0, 0, 0, 0], [1, 0, 0, 0], [1, 1, 0, 0], [0, 0, 0, 1.0]])))
    for found, wanted in zip(absolute, ([92, 0, 3], [55, -36, -45], [28, 18, -44], [22, 0, 1]), strict=True):
        assert found == pytest.approx(wanted, abs=0.1)
    profile = build_output_profile(model, BuildSettings("Tote", InkLimits(240), BLACK_PRESETS["gcr"]))
    assert judge(profile, colors=2000).round_trip_mean < 1
    dark = {"paper": [3, 0, 0], "solids": {"K": [0, 0, 0]}, "overprints": {}, "gain_percent": {}}
    for change, words in (({"solids": {}}, "one to eight inks"), ({"overprints": {"CO": [1, 2, 3]}}, "no solid of it"),
                          ({"paper": [1]}, "cannot be read at paper"), ({"yule_nielsen_n": 9}, "n is 1 to 4"),
                          (dark, "shows no ink"), ({"paper": [12, 0, 0]}, "white underbase"),
                          ({"solids": {"C": [92, 0, 3]}}, "prints nothing"),
                          ({"overprints": {"CM": [50, 1e300, 0]}}, "L\\* is 0 to 110")):  # fmt: skip
        with pytest.raises(CharacterizationError, match=words):
            ink_numbers_from_json({**NUMBERS, **change})


def chroma_of(model, inks):
    return np.hypot(*model.lab(inks)[1:])


FEW_INKS = {
    "yellow alone": {"Y": (88, -5, 80)},
    "pink and yellow": {"P": (70, 60, -20), "Y": (88, -5, 80)},
    "fluorescent": {"P": (72, 88, -18), "Y": (97, -20, 108)},
    "black and crimson": {"K": (16, 0, 0), "R": (46, 66, 24)},
    "black and a blue": {"K": (16, 0, 0), "B": (30, 10, -52)},
    "black and yellow": {"K": (16, 0, 0), "Y": (88, -5, 80)},
    "black and three warm ones": {"K": (16, 0, 0), "R": (46, 66, 24), "O": (65, 50, 62), "Y": (88, -5, 80)},
}


@pytest.mark.parametrize("solids", FEW_INKS.values(), ids=list(FEW_INKS))
def test_an_ink_is_taken_for_colors_like_its_own_where_inks_do_not_go_around_the_neutrals(solids):
    """Hue was held that such inks cannot hold: sRGB red became 3 % of a crimson and 61 % of black in perceptual, yellow 2 %
    of yellow. Of light inks alone no profile could be built ('No points given')."""
    model = model_from_inks(InkNumbers("Few", (92, 0, 0), solids))
    settings_ = BuildSettings("Few", InkLimits(100.0 * len(solids)), usual_black(model.inks), grid=9)
    condition = Condition(build_output_profile(model, settings_), model, precompute(model))
    ink = InkStation("rebuilt", settings_.limits, settings_.black)
    white, own = [1, 1, 1], {"Y": [1, 1, 0], "R": [1, 0, 0], "B": [0, 0, 1], "P": [1, 0.3, 0.6], "O": [1, 0.5, 0]}
    for intent in ("relative", "perceptual", "saturation"):
        line = compile_recipe(Recipe(aim=AimStation(intent, True), ink=ink), condition, rgb_profile("sRGB"))
        assert line.inks([white]).max() < 0.01
        for letter in set(solids) - {"K"}:
            (found,) = line.inks([own[letter]])
            assert found[model.inks.index(letter)] > 0.7 or len(solids) > 3, (intent, letter, found)
            assert chroma_of(model, found) > 0.75 * chroma_of(model, np.eye(len(solids))[model.inks.index(letter)])
            assert "K" not in solids or found[model.inks.index("K")] < 0.15, (intent, letter, found)
        if "K" in solids:
            grays = line.inks(np.repeat(np.linspace(0.9, 0, 10)[:, None], 3, axis=1))
            assert grays[:, [ink != "K" for ink in model.inks]].max() < 0.1 and grays[-1].max() > 0.9


def test_drift_names_what_is_out(chart):
    aim = model_from_profile(profile_of("cotton-54t"))
    strip = Measurements(chart.inks, chart.device[:80], chart.xyz[:80], title="Monday")
    assert measure_drift(strip, aim).within
    lab = xyz_to_lab(strip.xyz)
    lab[:, 0] += 4
    out = measure_drift(Measurements(chart.inks, strip.device, lab_to_xyz(lab), title="Tuesday"), aim)
    assert not out.within and any("mean" in words for words in out.broken)
    with pytest.raises(CharacterizationError, match="has 3 inks"):
        measure_drift(Measurements(("C", "M", "Y"), strip.device[:, :3], strip.xyz), aim)


def test_tags_are_copied_and_profiles_renamed_as_new_ones():
    cotton, silk = profile_of("cotton-54t"), profile_of("halden-silk-150")
    mixed = parse(copy_tags(cotton, silk, ("B2A0",)).raw)
    assert np.array_equal(mixed.tags["B2A0"].grid, cotton.tags["B2A0"].grid)
    assert np.array_equal(mixed.tags["B2A1"].grid, silk.tags["B2A1"].grid)
    assert parse(renamed(cotton, "Tote bags").raw).name == "Tote bags" != cotton.name
    with pytest.raises(IccError, match="has no tag nope"):
        copy_tags(cotton, silk, ("nope",))
    with pytest.raises(IccError, match="is for CMYK"):
        copy_tags(cotton, rgb_profile("sRGB"), ("A2B0",))
    with pytest.raises(IccError, match="1 to 200 letters"):
        renamed(cotton, " ")


@pytest.mark.parametrize("slug", PRESSES)
def test_numbers_come_near_the_press_and_two_dozen_patches_nearer(slug):
    """Overprints of multiplied XYZ, and dot gain on top of the light spread that is in it already, were 6 to 10 off."""
    off = off_by_numbers(slug)
    assert off.patches == 24 and off.told < 2.5 and off.moved < 1.2
    assert off.after < 0.2 < off.before and off.paper == [100, 0, 0]


def test_a_tone_curve_is_what_a_correction_starts_from():
    """Patches moved a condition from its gains alone: a curve that was given counted for nothing."""
    curve = {**NUMBERS, "gain_percent": {}, "tone_curves": {ink: [[25, 50], [50, 78], [75, 93]] for ink in "CMYK"}}
    numbers = ink_numbers_from_json(curve)
    assert tones_of(numbers)[:, 0] == pytest.approx([0.28] * 4)
    told = model_from_inks(numbers)
    dots = np.vstack([np.zeros(4), np.eye(4), np.eye(4) * 0.5])
    xyz = lab_to_xyz(told.to_absolute(told.lab(dots)))
    moved = corrected(numbers, Measurements(("Cyan", "Magenta", "Yellow", "Black"), dots, xyz))
    assert moved.before < 0.2 and moved.after < 0.3


def test_gain_of_tone_value_is_what_a_densitometer_reads_back():
    for spread in (1.0, 1.7, 3.0):
        given = {**NUMBERS, "yule_nielsen_n": spread, "tone_curves": {"K": [[25, 44], [50, 70]]}}
        model = model_from_inks(ink_numbers_from_json(given))
        xyz = lab_to_xyz(model.to_absolute(model.lab(np.array([[0, 0, 0, 0], [0, 0.5, 0, 0], [0, 1.0, 0, 0.0]]))))
        part = (xyz[0] - xyz[2]).argmax()
        assert (xyz[0] - xyz[1])[part] / (xyz[0] - xyz[2])[part] == pytest.approx(0.72, abs=0.003)
        black = lab_to_xyz(model.to_absolute(model.lab(np.eye(4)[3] * np.array([[0], [0.25], [0.5], [1.0]]))))[:, 1]
        assert (black[0] - black[1:3]) / (black[0] - black[3]) == pytest.approx([0.44, 0.70], abs=0.003)
    for curve in ([[50, 70], [25, 44]], [[1e-310, 50]], [[50, 70], [100, 90]]):
        with pytest.raises(CharacterizationError, match="has to rise"):
            ink_numbers_from_json({**NUMBERS, "tone_curves": {"K": curve}})


@given(st.tuples(st.floats(5, 95), st.floats(-60, 60), st.floats(-60, 60)))
@settings(max_examples=40, deadline=None)
def test_smoothest_spectra_have_the_color_that_was_asked_for(lab):
    xyz = lab_to_xyz(lab)
    found = smoothest_spectrum(xyz)
    assert ((found >= 0) & (found <= 1)).all()
    # Colors that no reflectance has (very chromatic and light, or bluer than white is) come as near as one can.
    if np.hypot(lab[1], lab[2]) < 0.6 * min(lab[0], 100 - lab[0] + 30) and (xyz < 0.99 * D50_XYZ).all():
        assert reflectance_to_xyz(found) == pytest.approx(xyz, abs=2e-3)
