"""Characterization data from other hands: encodings, separators, names of fields, what is missing, what disagrees."""

from dataclasses import replace

import numpy as np
import pytest

from plinto_core.colorimetry import delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ, lab_to_lch, lab_to_xyz, xyz_to_lab
from plinto_core.colorimetry.spectra import (
    WAVELENGTHS_NM,
    illuminant_power,
    light_white,
    reflectance_to_xyz,
    to_d50,
    weighted,
)
from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import DRIVEN_BY_RGB
from plinto_core.measurement.cgats import as_it_came, read_measurements
from plinto_core.measurement.measurements import Measurements
from plinto_core.profiling.characterize import characterize
from plinto_core.route.color_list import read_list
from plinto_demo.inks import BLACK, CYAN, MAGENTA, YELLOW, Stock
from plinto_demo.press import Instrument, Press
from plinto_demo.shop import measure, measure_chart
from tests.conftest import shop_condition

COTTON = shop_condition("cotton-54t")


@pytest.fixture(scope="module")
def data():
    return measure_chart(COTTON, 60)


def _table(data, separator):
    fields = ["Id", "CMYK_C", "CMYK_M", "CMYK_Y", "CMYK_K", "L*", "a*", "b*"]
    from plinto_core.colorimetry.lab import xyz_to_lab

    rows = np.column_stack([np.arange(len(data.device)), data.device * 100, xyz_to_lab(data.xyz)])
    number = (lambda v: f"{v:.4f}".replace(".", ",")) if separator == ";" else (lambda v: f"{v:.4f}")
    return "\r\n".join([separator.join(fields), *(separator.join(map(number, row)) for row in rows), ""])


@pytest.mark.parametrize(
    "make",
    [
        lambda data: _table(data, ",").encode(),
        lambda data: _table(data, ";").encode("utf-8-sig"),
        lambda data: _table(data, "\t").encode("utf-16-le"),
        lambda data: data.to_cgats().encode("utf-16-le"),
        lambda data: data.to_cgats().encode("utf-16-be"),
        lambda data: data.to_cgats().replace("END_DATA\n", "").encode(),
        lambda data: data.to_cgats().replace("LAB_L", "LAB_L*").replace("\n1 ", "\n1\t").encode("latin-1"),
    ],
    ids=["commas", "semicolons", "tabs", "utf-16-le", "utf-16-be", "no end", "other names"],
)
def test_the_same_data_in_other_clothes(data, make):
    found, _ = read_measurements(make(data), "other.txt")
    assert found.inks == data.inks
    assert np.abs(found.device - data.device).max() < 1e-4 and np.abs(found.xyz - data.xyz).max() < 1e-3


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda text: text.replace("NUMBER_OF_SETS 60", "NUMBER_OF_SETS 61").replace("END_DATA\n", ""), "says 61"),
        (lambda text: text.replace("\n7 ", "\n7 1.5 "), "values for"),
        (lambda text: text.replace("\n7 ", "\n7 nan ", 1).replace("\n7 nan 0", "\n7 nan", 1), "Patch 7|values for"),
    ],
    ids=["cut off", "a value too many", "no number"],
)
def test_what_cannot_be_trusted_is_refused_with_its_line(data, change, said):
    with pytest.raises(CharacterizationError, match=said):
        read_measurements(change(data.to_cgats()).encode(), "bad.txt")


def test_a_substrate_that_is_black_is_refused(data):
    """Colors are relative to the patch without ink: with nothing there, the fit was one of numbers that are none."""
    nothing = replace(data, xyz=data.xyz * 0, spectra=None)
    with pytest.raises(CharacterizationError, match=r"patch without ink .* is black"):
        characterize(read_measurements(nothing.to_cgats().encode(), "black.txt")[0], [])


def test_a_black_ramp_in_cmyk_fields_is_one_ink():
    dots = np.zeros((24, 4))
    dots[:, 3] = np.linspace(0, 1, 24)
    found, notes = read_measurements(measure(COTTON, dots).to_cgats().encode(), "k.txt")
    assert found.inks == ("Black",) and any("No patch has any C, M, Y" in note for note in notes)
    assert characterize(found, notes).fit.held_out_mean < 0.5


def test_spectra_that_disagree_with_the_lab_beside_them_are_named(data):
    import re

    text = data.to_cgats()
    fields = text.split("BEGIN_DATA_FORMAT\n")[1].split("\n")[0].split()
    at = fields.index("LAB_L")
    head, rest = text.split("BEGIN_DATA\n")
    rows, end = rest.split("END_DATA")
    moved = "\n".join(
        " ".join([*cells[:at], f"{float(cells[at]) * 0.95:.3f}", *cells[at + 1 :]])
        for cells in (re.split(r"\s+", row.strip()) for row in rows.strip().split("\n"))
    )
    _, notes = read_measurements(f"{head}BEGIN_DATA\n{moved}\nEND_DATA{end}".encode(), "both.txt")
    assert any("Lab values beside the spectra" in note for note in notes)
    assert not any("beside" in note for note in read_measurements(text.encode(), "one.txt")[1])


def test_a_chart_that_stops_at_90_percent_is_sound_and_says_so():
    press = Press(
        (CYAN, MAGENTA, YELLOW, BLACK), Stock("Coated", 0.92, 0.0, 0.008), (1.0,) * 4, (0.16,) * 4, 0.93, 1.8
    )
    from plinto_core.measurement.chart import characterization_chart

    dots = characterization_chart(4, 420) * 0.9
    spectra, xyz = Instrument(5).measure(press.reflectance(dots))
    found = characterize(Measurements(("Cyan", "Magenta", "Yellow", "Black"), dots, xyz, spectra, "Ninety"), [])
    assert found.wrong_patches == ()
    assert dict(found.stops_at) == pytest.approx({"C": 90.0, "M": 90.0, "Y": 90.0, "K": 90.0})
    assert any("limits start there" in note for note in found.notes)


def test_cxf_of_any_inks():
    patch = (
        '<Object Name="p{0}"><ColorValues><ColorCIELab><L>{1}</L><A>1</A><B>2</B></ColorCIELab></ColorValues>'
        "<DeviceColorValues><ColorCMYKPlusN><Cyan>{0}</Cyan><Magenta>0</Magenta><Yellow>0</Yellow><Black>0</Black>"
        '<SpotColor Name="Coral" Percentage="{0}"/></ColorCMYKPlusN></DeviceColorValues></Object>'
    )
    body = "".join(patch.format(v, 90 - v / 2) for v in (0, 50, 100))
    text = f"<CxF><Resources><ObjectCollection>{body}</ObjectCollection></Resources></CxF>"
    found, _ = read_measurements(text.encode(), "spot.cxf")
    assert found.inks == ("Cyan", "Magenta", "Yellow", "Black", "Coral")
    assert found.device[1].tolist() == [0.5, 0, 0, 0, 0.5]


def cxf(objects, specification=""):
    return (
        f"<CxF><Resources><ObjectCollection>{objects}</ObjectCollection><ColorSpecificationCollection>{specification}"
        "</ColorSpecificationCollection></Resources></CxF>"
    ).encode()


#: A gray and a red, by 10 nm from 380 nm.
REFLECTANCES = np.array([np.full(36, 0.4), 0.04 + 0.76 / (1 + np.exp((590 - WAVELENGTHS_NM) / 10))])


@pytest.mark.parametrize(("start", "step", "percent"), [(380, 5, 1), (400, 20, 1), (380, 10, 100), (340, 10, 100)])
def test_spectra_of_cxf_are_read_by_their_own_step_and_unit(start, step, percent):
    """Steps were taken for 10 nm, whatever the file said, and percent for shares. A specification with a name beside its
    identifier was not found. By 20 nm straight lines were 0.5 off."""
    nm = np.arange(start, 731, step)
    body = "".join(
        f'<Object Name="{at}"><ColorValues><ReflectanceSpectrum ColorSpecification="s1">'
        + " ".join(f"{value * percent:.6f}" for value in np.interp(nm, WAVELENGTHS_NM, each))
        + "</ReflectanceSpectrum></ColorValues></Object>"
        for at, each in enumerate(REFLECTANCES)
    )
    told = f'<WavelengthRange StartWL="{start}" Increment="{step}"/>'
    spec = (
        f'<ColorSpecification Id="s1" Name="Spectral"><MeasurementSpec>{told}</MeasurementSpec></ColorSpecification>'
    )
    found = read_list(cxf(body, spec), "a.cxf")
    apart = delta_e_2000(found.values, xyz_to_lab(reflectance_to_xyz(REFLECTANCES)))
    assert apart.max() < (0.15 if step == 20 else 0.01)


def test_colors_of_cxf_are_seen_under_d50_whatever_light_they_are_of():
    """Lab of D65 was taken for Lab of D50, ΔE00 0.9 off for a red; XYZ was passed over."""
    power = illuminant_power("D65")
    white, xyz = light_white(power), weighted(REFLECTANCES, power)
    labs = xyz_to_lab(xyz / white * D50_XYZ)
    specs = "".join(
        f'<ColorSpecification Id="{light}{observer}"><TristimulusSpec><Illuminant>{light}</Illuminant>'
        f"<Observer>{observer}_Degree</Observer></TristimulusSpec></ColorSpecification>"
        for light, observer in (("D65", 2), ("D50", 2), ("D65", 10), ("C", 2))
    )

    def of(kind, of_each, rows):
        return cxf("".join(
            f'<Object Name="{at}"><ColorValues><{kind} ColorSpecification="{of_each}">'
            + "".join(f"<{axis}>{v:.6f}</{axis}>" for axis, v in zip("LAB" if "Lab" in kind else "XYZ", row, strict=True))
            + f"</{kind}></ColorValues></Object>" for at, row in enumerate(rows)
        ), specs)  # fmt: skip

    wanted = xyz_to_lab(to_d50(xyz, white))
    assert delta_e_2000(labs, wanted)[1] > 0.9
    for given in (
        of("ColorCIELab", "D652", labs),
        of("ColorCIEXYZ", "D652", xyz * 100),
        of("ColorCIEXYZ", "D652", xyz),
    ):
        assert delta_e_2000(read_list(given, "a.cxf").values, wanted).max() < 0.01
    assert np.allclose(read_list(of("ColorCIELab", "D502", labs), "a.cxf").values, labs, atol=1e-4)
    for kind, spec, words in (("ColorCIEXYZ", "D6510", "observer of 10°"), ("ColorCIELab", "C2", "colors under 'C'")):
        with pytest.raises(CharacterizationError, match=words):
            read_list(of(kind, spec, labs), "a.cxf")


def test_spectra_by_twenty_nanometres_in_a_table_and_a_wavelength_that_is_there_twice():
    """Straight lines between 20 nm were 0.5 off, and a column twice ended in scipy's words."""
    nm = np.arange(400, 701, 20)
    rows = [np.interp(nm, WAVELENGTHS_NM, each) for each in (np.ones(36), *REFLECTANCES)]

    def table(fields):
        head = " ".join(["CMYK_C CMYK_M CMYK_Y CMYK_K", *(f"SPECTRAL_NM_{each}" for each in fields)])
        body = "".join(
            f"{dot} 0 0 0 " + " ".join(f"{row[list(nm).index(each)]:.6f}" for each in fields) + "\n"
            for dot, row in zip((0, 50, 100), rows, strict=True)
        )
        return f"CGATS.17\nBEGIN_DATA_FORMAT\n{head}\nEND_DATA_FORMAT\nBEGIN_DATA\n{body}END_DATA\n".encode()

    found, _ = read_measurements(table(nm), "a.txt")
    assert delta_e_2000(xyz_to_lab(found.xyz[1:]), xyz_to_lab(reflectance_to_xyz(REFLECTANCES))).max() < 0.15
    with pytest.raises(CharacterizationError, match="400 nm twice"):
        read_measurements(table([400, *nm]), "a.txt")


def test_tables_of_another_light_are_adapted_once():
    """The header's ILLUMINATION_NAME was handed on and not heeded: Lab of D65 counted as of D50."""
    lab = np.array([[95.0, 0, -2], [50, 68, 48], [30, 10, -60]])
    rows = "".join(f"{dot} 0 0 0 {L} {a} {b}\n" for dot, (L, a, b) in zip((0, 50, 100), lab, strict=True))
    text = (
        'CGATS.17\nILLUMINATION_NAME "{}"\nOBSERVER_ANGLE "10"\nBEGIN_DATA_FORMAT\n'
        "CMYK_C CMYK_M CMYK_Y CMYK_K LAB_L LAB_A LAB_B\n"
        f"END_DATA_FORMAT\nBEGIN_DATA\n{rows}END_DATA\n"
    )
    found, notes = read_measurements(text.format("D65").encode(), "a.txt")
    white = light_white(illuminant_power("D65"))
    assert np.allclose(found.xyz, to_d50(lab_to_xyz(lab) / D50_XYZ * white, white), atol=1e-9)
    assert any("D65, 10°: adapted to D50" in note for note in notes)
    # What Plinto writes of it says what it is now.
    again, notes = read_measurements(found.to_cgats().encode(), "b.txt")
    assert np.allclose(again.xyz, found.xyz, atol=1e-4) and not any("adapted" in note for note in notes)
    unknown, notes = read_measurements(text.format("Shop window").encode(), "a.txt")
    assert np.allclose(unknown.xyz, lab_to_xyz(lab)) and any("not known here" in note for note in notes)


def test_cxf_of_a_printer_driven_by_rgb_and_of_values_alone():
    """'No object with both ink values and a color' was said of a chart in R, G, B; a list of inks alone was refused."""
    patch = (
        '<Object Name="p{0}"><ColorValues><ColorCIELab><L>{1}</L><A>1</A><B>2</B></ColorCIELab></ColorValues>'
        "<DeviceColorValues><ColorRGB{2}><R>{0}</R><G>0</G><B>{0}</B></ColorRGB></DeviceColorValues></Object>"
    )
    chart = cxf("".join(patch.format(v, 90 - v / 4, "") for v in (0, 51, 255)))
    found, notes = read_measurements(chart, "rgb.cxf")
    assert found.inks == DRIVEN_BY_RGB and found.device.tolist() == [[0, 0, 0], [0.2, 0, 0.2], [1, 0, 1]]
    assert any("driven by RGB" in note for note in notes)
    colors = read_list(chart, "rgb.cxf")
    assert colors.channels == ("R", "G", "B") and colors.values[1].tolist() == [0.2, 0, 0.2]
    wide = cxf("".join(patch.format(v, 50, ' MaxRange="1023"') for v in (0, 1023)))
    assert read_list(wide, "rgb.cxf").values[1].tolist() == [1, 0, 1]
    inks = "<ColorCMYK><Cyan>{0}</Cyan><Magenta>0</Magenta><Yellow>25</Yellow><Black>0</Black></ColorCMYK>"
    alone = cxf("".join(f'<Object Name="n{v}">{inks.format(v)}</Object>' for v in (0, 50)))
    listed = read_list(alone, "values.cxf")
    assert (listed.names, listed.channels) == (("n0", "n50"), tuple("CMYK"))
    assert listed.values[1].tolist() == [0.5, 0, 0.25, 0]


def test_measured_text_goes_into_the_profile_as_it_came(data):
    text = data.to_cgats().replace("BEGIN_DATA_FORMAT", "# by hand\nBEGIN_DATA_FORMAT", 1)
    found, _ = read_measurements(text.encode(), "a.txt")
    assert as_it_came(text.encode(), found) == text
    assert as_it_came(_table(data, ",").encode(), found) == found.to_cgats()


@pytest.mark.parametrize("called", ["nm{}", "{}", "{} nm", "{}.0"])
@pytest.mark.parametrize("separator", ["\t", ";", " "])
def test_a_table_by_hand_is_read_like_cgats(called, separator):
    """Columns called C, M, Y, K and by their wavelength: 'it is no CGATS text and no table with a header'."""
    if separator == " " and " nm" in called:
        called = "{}nm"
    dots, nm = np.random.default_rng(3).random((30, 4)), np.arange(380, 740, 10)
    spectra = np.random.default_rng(4).uniform(0.05, 0.9, (30, len(nm)))
    head = separator.join(["ID", "C", "M", "Y", "K", *(called.format(each) for each in nm)])
    rows = [separator.join([f"P{at}", *(f"{v:.6f}" for v in (*dots[at] * 100, *spectra[at]))]) for at in range(30)]
    found, _notes = read_measurements("\n".join([head, *rows]).encode(), "hand.txt")
    assert found.spectra is not None and np.abs(found.spectra - spectra).max() < 1e-5
    assert np.abs(found.device - dots).max() < 1e-4 and found.inks == ("Cyan", "Magenta", "Yellow", "Black")


def test_colors_in_lightness_chroma_and_hue_are_read():
    rows = "\n".join(f"{at} {at} 0 0 0 50 {10 + at} {at * 12}" for at in range(1, 21))
    text = "CGATS.17\nBEGIN_DATA_FORMAT\nID CMYK_C CMYK_M CMYK_Y CMYK_K LAB_L LAB_C LAB_H\nEND_DATA_FORMAT\n"
    found, _notes = read_measurements(f"{text}NUMBER_OF_SETS 20\nBEGIN_DATA\n{rows}\nEND_DATA\n".encode(), "lch.txt")
    lch = lab_to_lch(xyz_to_lab(found.xyz))
    assert np.allclose(lch[:, 1], 10 + np.arange(1, 21)) and np.allclose(lch[:, 2], np.arange(1, 21) * 12)


def _block(fields: str, rows: list[str]) -> str:
    body = "\n".join(rows)
    return f"BEGIN_DATA_FORMAT\n{fields}\nEND_DATA_FORMAT\nNUMBER_OF_SETS {len(rows)}\nBEGIN_DATA\n{body}\nEND_DATA\n"


def _in_two(data, named: bool = True) -> tuple[list[str], list[str]]:
    """Rows of values and rows of colors of the same patches."""
    values = [" ".join(f"{v:.4f}" for v in row) for row in data.device * 100]
    colors = [" ".join(f"{v:.4f}" for v in row) for row in xyz_to_lab(data.xyz)]
    if not named:
        return values, colors
    return [f"P{i} {row}" for i, row in enumerate(values)], [f"P{i} {row}" for i, row in enumerate(colors)]


VALUES, COLORS = "CMYK_C CMYK_M CMYK_Y CMYK_K", "LAB_L LAB_A LAB_B"


def test_values_in_one_table_and_colors_in_another_are_joined_patch_by_patch(data):
    """Refused before, as a file that 'has no ink values' or no colors."""
    values, colors = _in_two(data)
    turned = [colors[i] for i in np.random.default_rng(2).permutation(len(colors))]
    printed, measured = _block(f"SAMPLE_ID {VALUES}", values), _block(f"SAMPLE_ID {COLORS}", turned)
    for text in (printed + measured, measured + printed):
        found, notes = read_measurements(f"CGATS.17\n{text}".encode(), "two.txt")
        order = [int(np.abs(found.device - row).sum(axis=1).argmin()) for row in data.device]
        assert sorted(order) == list(range(len(values)))
        assert (
            np.abs(found.device[order] - data.device).max() < 1e-5
            and np.abs(found.xyz[order] - data.xyz).max() < 1e-4
        )
        assert any("joined by SAMPLE_ID" in note for note in notes)
    # A patch measured twice is averaged, one that was not is left out and told of.
    again, notes = read_measurements(
        (printed + _block(f"SAMPLE_ID {COLORS}", [*turned[3:], turned[5]])).encode(), "two.txt"
    )
    assert (
        len(again.device) == len(values) - 3
        and "Patches of the chart without a color: 3. They were left out." in notes
    )
    # Without names their order says it; a table that has both needs none of this.
    plain, bare = _in_two(data, named=False)
    found, notes = read_measurements((_block(VALUES, plain) + _block(COLORS, bare)).encode(), "two.txt")
    assert np.abs(found.xyz - data.xyz).max() < 1e-4 and any("taken in their order" in note for note in notes)
    third = _block(f"{VALUES} {COLORS}", [f"{a} {b}" for a, b in zip(plain, bare, strict=True)])
    found, notes = read_measurements((_block("SAMPLE_ID DENSITY", ["P0 1.2"]) + third).encode(), "two.txt")
    assert np.abs(found.xyz - data.xyz).max() < 1e-4 and any("Table 2 of the file" in note for note in notes)


@pytest.mark.parametrize(
    ("named", "values", "colors", "said"),
    [
        (True, slice(0, 9), slice(None), "a color for the patch 'P9'"),
        (False, slice(0, 9), slice(None), "9 patches with values in one table and 60 colors"),
        (True, [0, 1, 1], slice(0, 2), "names patches twice in SAMPLE_ID"),
    ],
    ids=["a patch unknown", "no names", "a name twice"],
)
def test_two_tables_that_do_not_belong_together_are_refused(data, named, values, colors, said):
    printed, measured = _in_two(data, named)
    name = "SAMPLE_ID " if named else ""
    some = [printed[i] for i in values] if isinstance(values, list) else printed[values]
    text = _block(f"{name}{VALUES}", some) + _block(f"{name}{COLORS}", measured[colors])
    with pytest.raises(CharacterizationError, match=said):
        read_measurements(text.encode(), "two.txt")


def test_a_list_of_colors_is_taken_to_d50_by_its_header_and_else_left_as_it_stands():
    text = (
        'CGATS.17\nILLUMINATION_NAME "D65"\nBEGIN_DATA_FORMAT\nSAMPLE_NAME LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\n'
        "BEGIN_DATA\nRed 50 60 40\nEND_DATA\n"
    )
    assert read_list(text.encode(), "list.txt").values[0] == pytest.approx((50.77, 60.93, 41.57), abs=0.01)
    for said in ("D50", "a lamp of ours"):
        assert read_list(text.replace("D65", said).encode(), "list.txt").values.tolist() == [[50, 60, 40]]


@pytest.mark.parametrize(
    ("text", "channels", "values"),
    [
        ("Name,R,G,B,L,a,b\nLeaf,51,102,255,52,-38,30\n", ("R", "G", "B"), [0.2, 0.4, 1]),  # refused: two columns 'b'
        ("Name\tL\ta\tb\nLeaf\t52\t\u201338\t30\n", ("L*", "a*", "b*"), [52, -38, 30]),  # refused: '0 inks'
        ("Name;L;a;b\nLeaf;52;-38;30\n;;;\n\n", ("L*", "a*", "b*"), [52, -38, 30]),  # refused: rows of nothing
        ("Name,C %,M %,Y %,K %\nLeaf,0,1,1,0\n", ("C", "M", "Y", "K"), [0, 0.01, 0.01, 0]),  # a hundred times as much
        ("Name,Hex\nLeaf,#3366ff\n", ("R", "G", "B"), [0.2, 0.4, 1]),  # refused: no table
        ("Name,Hex,L,a,b\nLeaf,#3366ff,52,-38,30\n", ("L*", "a*", "b*"), [52, -38, 30]),
        ("Name,L*,C*,h\nLeaf,52,10,90\n", ("L*", "a*", "b*"), [52, 0, 10]),  # refused: no color
    ],
)
def test_tables_of_spreadsheets_are_read_by_what_their_first_line_says(text, channels, values):
    found = read_list(text.encode(), "list.csv")
    assert found.names == ("Leaf",) and found.channels == channels
    assert found.values[0] == pytest.approx(values, abs=1e-6)


def test_what_is_wrong_with_a_color_is_said_of_the_color():
    with pytest.raises(CharacterizationError, match="'dark' where LAB_L should be a number"):
        read_list(b"Name;L;a;b\nLeaf;dark;1;2\n", "list.csv")
