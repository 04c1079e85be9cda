"""The color lead's commands end to end, as a person types them: light inks, panels, reports, charts to print."""

import json

import numpy as np
import pikepdf
import pytest
import tifffile
from click.testing import CliRunner

from plinto_core.cli import plinto
from plinto_core.errors import CharacterizationError, RecipeError
from plinto_core.icc.profile import parse
from plinto_core.measurement.cgats import read_chart
from plinto_core.press.calibration import calibration_from_json, calibration_of
from plinto_core.profiling.build_profile import settings_of
from plinto_demo.light_table import PANELS, LightTable
from plinto_demo.shop import measure, measure_ramps
from tests.conftest import shop_condition


@pytest.fixture
def run(tmp_path):
    def command(*arguments):
        done = CliRunner().invoke(plinto, [str(each) for each in arguments], catch_exceptions=False)
        assert done.exit_code == 0, done.output
        return done.stdout

    return command


def light_file(path, values):
    path.write_text("\n".join(f"{380 + 10 * at};{value:.6g}" for at, value in enumerate(values)))
    return path


def test_light_inks_from_ramps_to_a_profile_for_a_panel(run, tmp_path):
    shop, table = shop_condition("lumen-panel"), LightTable("Panel 5600", 0.1)
    (tmp_path / "ramps.txt").write_text(measure_ramps(shop).to_cgats())
    told = json.loads(
        run("calibrate", tmp_path / "ramps.txt", "--cross", "C=30,75,10", "--out", tmp_path / "cal.json", "--json")
    )
    assert told["printed"] == "C c M m Y K k" and told["measure again"] == []
    calibration = calibration_from_json(json.loads((tmp_path / "cal.json").read_text()))
    assert calibration.curves[0].dark[19] < 0.01 < calibration.curves[0].dark[21], "dark cyan starts at 30 %"
    chart = tmp_path / "chart.txt"
    run("chart", "--patches", 160, "--out", chart, "--calibration", tmp_path / "cal.json",
        "--tiff", tmp_path / "chart.tif", "--pdf", tmp_path / "chart.pdf")  # fmt: skip
    with tifffile.TiffFile(tmp_path / "chart.tif") as tiff:
        assert tiff.pages[0].shape[-1] == 7 and "InkNames" in tiff.pages[0].tags
    with pikepdf.open(tmp_path / "chart.pdf") as pdf:
        names = next(iter(pdf.pages[0].Resources.XObject.values())).ColorSpace[1]
        assert len(pdf.pages) == 1 and len(names) == 7
    asked, _inks = read_chart(chart.read_bytes(), "chart.txt")
    (tmp_path / "on-table.txt").write_text(measure(shop, asked, calibration).to_cgats())
    on, off = light_file(tmp_path / "on.csv", table.on()), light_file(tmp_path / "off.csv", table.off())
    panel = light_file(tmp_path / "panel.csv", PANELS["Panel 5600"])
    seen = tmp_path / "on-panel.txt"
    run("backlit", tmp_path / "on-table.txt", "--table-on", on, "--table-off", off, "--panel", panel,
        "--ambient-share", 10, "--out", seen)  # fmt: skip
    out = tmp_path / "panel.icc"
    run("profile", "build", seen, "--calibration", tmp_path / "cal.json", "--total-ink", "auto", "--grid", 9,
        "--smoothing", "1e-6", "--report", tmp_path / "report.html", "--out", out)  # fmt: skip
    carried = calibration_of(parse(out.read_bytes()))
    assert carried is not None and carried.device_inks == calibration.device_inks
    assert np.allclose(carried.curves[0].dark, calibration.curves[0].dark, atol=1e-6)
    page = (tmp_path / "report.html").read_text()
    assert "Total ink asked for" in page and page.count("<svg") == 5 and "<script" not in page
    # Plots had lines and no numbers.
    for drawn in page.split("<svg")[1:]:
        assert drawn.count('text-anchor="end"') >= 4 and drawn.count("rotate(-90)") == 1, drawn[:200]
    for title in ("L* asked for", "Ink, %", "Dot, %", "Tone value, %", "Total ink, %", "Hue, degrees"):
        assert f">{title}</text>" in page


def test_a_profile_for_another_light_and_one_with_these_settings(run, tmp_path):
    data = tmp_path / "silk.txt"
    data.write_text(measure(shop_condition("halden-silk-150"), np.random.default_rng(2).random((150, 4)) *
                            (np.arange(150) > 0)[:, None]).to_cgats())  # fmt: skip
    common = ("--total-ink", 300, "--grid", 9, "--smoothing", "1e-6", "--perceptual", "gentle", "--chroma", 5)
    run("profile", "build", data, *common, "--icc", 2, "--gray-balance", "0.5,-1", "--out", tmp_path / "d50.icc")
    run("profile", "build", data, "--illuminant", "A", "--settings", tmp_path / "d50.icc", "--smoothing", "1e-6",
        "--out", tmp_path / "a.icc", "--report", tmp_path / "a.json")  # fmt: skip
    first, second = (parse((tmp_path / name).read_bytes()) for name in ("d50.icc", "a.icc"))
    assert settings_of(first) == settings_of(second), "settings travel inside the profile"
    assert first.header.version == (2, 4) and first.raw != second.raw
    judged = json.loads((tmp_path / "a.json").read_text())
    assert judged["settings"]["gray_balance"] == [0.5, -1.0] and judged["characterization"]["total_by_lightness"]
    told = json.loads(run("profile", "judge", tmp_path / "d50.icc", "--data", data, "--json"))
    assert told[0]["against_data"][0] < 0.5, "A2B says what was measured"


@pytest.mark.parametrize(
    ("arguments", "error", "words"),
    [
        (("calibrate", "DATA", "--cross", "C=1,2", "--out", "x"), RecipeError, "an ink's letter and 3 percentages"),
        (("calibrate", "DATA", "--out", "x"), CharacterizationError, "steps of ink"),
        (("profile", "build", "DATA", "--illuminant", "moon", "--out", "x"), RecipeError, "neither a light"),
        (("profile", "build", "DATA", "--smoothing", "some", "--out", "x"), RecipeError, "neither a number nor auto"),
        (("profile", "build", "DATA", "--report", "r.doc", "--out", "x"), RecipeError, "ends in .html or .json"),
    ],
)
def test_what_cannot_work_is_refused_with_a_way_out(tmp_path, arguments, error, words):
    data = tmp_path / "data.txt"
    data.write_text(measure(shop_condition("halden-silk-150"), np.eye(4)).to_cgats())
    given = [str(data) if each == "DATA" else each for each in arguments]
    with pytest.raises(error, match=words):
        CliRunner().invoke(plinto, given, catch_exceptions=False, standalone_mode=False)
    assert not (tmp_path / "x").exists()
