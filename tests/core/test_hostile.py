"""What comes from outside and means harm, or is only broken: refused in words, within its limits, never a fault."""

import io
import json
import os
import struct
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from plinto_core.errors import (
    ArtworkError,
    BusyError,
    Cancelled,
    CharacterizationError,
    DecoderError,
    IccError,
    PlintoError,
)
from plinto_core.icc.profile import parse, write
from plinto_core.icc.values import Text
from plinto_core.measurement.cgats import read_measurements
from plinto_core.press.calibration import (
    Calibration,
    InkCurve,
    calibration_from_json,
    calibration_of,
    calibration_tag,
    checked_calibration,
)
from plinto_core.press.fit import fit_model
from plinto_core.profiling.build_profile import BuildSettings, build_output_profile, settings_of
from plinto_core.profiling.judge import judge
from plinto_core.profiling.report import report_html
from plinto_core.recipe.black import BLACK_PRESETS, usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.sandbox.client import Limits, Sandbox, check_file, sandbox
from plinto_demo.shop import measure_chart
from tests.conftest import fitted, profile_of, shop_condition

MANY = 10**9


def look(path, name="a picture"):
    return sandbox.run("picture", {"path": str(path), "name": name, "max_pixels": MANY}, name)


@pytest.fixture
def file_of(tmp_path):
    def write_file(data, name="file"):
        path = tmp_path / name
        path.write_bytes(data)
        return path

    return write_file


def test_a_picture_is_looked_at_and_decoded_in_a_process_of_its_own(photo_tiff, photo, tmp_path):
    assert look(photo_tiff)["profile_name"] == "opRGB"
    shares = []
    given = {"path": str(photo_tiff), "name": "p", "folder": str(tmp_path / "levels"), "max_pixels": MANY,
             "page": 0, "ground": [1.0, 1.0, 1.0]}  # fmt: skip
    sandbox.run("levels", given, "p", Limits(), progress=shares.append)
    assert np.array_equal(np.load(tmp_path / "levels" / "0.npy"), photo) and shares[-1] == pytest.approx(0.9)
    with pytest.raises(Cancelled, match="was stopped"):
        sandbox.run("levels", {**given, "folder": str(tmp_path / "other")}, "p", Limits(), lambda: True)


def test_errors_come_back_as_what_they_are(file_of, tmp_path):
    with pytest.raises(ArtworkError, match="'x' is neither TIFF"):
        look(file_of(b"no picture"), "x")
    with pytest.raises(IccError, match="too few") as refused:
        check_file("profile", file_of(b"short"), "x")
    assert type(refused.value) is IccError
    with pytest.raises(FileNotFoundError):
        look(tmp_path / "none")


def test_too_much_memory_time_or_depth_ends_in_words_and_soon(file_of, tmp_path):
    large = tmp_path / "large.tif"
    tifffile.imwrite(large, np.zeros((3000, 3000, 3), np.uint16), photometric="rgb", compression="zlib")
    given = {"path": str(large), "name": "large", "folder": str(tmp_path / "l"), "max_pixels": MANY, "page": 0,
             "ground": [1.0, 1.0, 1.0]}  # fmt: skip
    with pytest.raises(PlintoError, match="'large'"):
        sandbox.run("levels", given, "large", Limits(megabytes=8))
    begun = time.monotonic()
    with pytest.raises(DecoderError, match="takes far"):
        sandbox.run("levels", {**given, "folder": str(tmp_path / "m")}, "large", Limits(clock_seconds=0.05))
    assert time.monotonic() - begun < 5
    with pytest.raises(PlintoError, match=r"nested too deep|is no JSON"):
        check_file("house_rules", file_of(b"[" * 200_000), "deep.json")


def test_a_place_in_the_sandbox_is_waited_for_no_longer_than_the_file_may_take(file_of):
    """Whoever came fifth waited for ever while four decoders hung."""
    one = Sandbox(at_once=1)
    with one._place("first", Limits(), lambda: False):
        begun = time.monotonic()
        with pytest.raises(BusyError, match="'second' found no place"):
            one.run("picture", {"path": "/", "name": "second", "max_pixels": 1}, "second", Limits(clock_seconds=0.3))
        with pytest.raises(Cancelled, match="before it was opened"):
            one.run("picture", {}, "third", Limits(), lambda: True)
        assert time.monotonic() - begun < 3
    with pytest.raises(ArtworkError):
        one.run("picture", {"path": str(file_of(b"no")), "name": "x", "max_pixels": 1}, "x")
    one.close()


def test_whoever_was_killed_leaves_no_folder_of_the_sandbox_behind(tmp_path):
    """Each killed worker had left one in /tmp: 80 after two hours of tests."""
    start = (
        "from plinto_core.sandbox.client import sandbox as s; s.start(); print(s._folder.name, flush=True); input()"
    )
    killed = subprocess.Popen(
        [sys.executable, "-c", start],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env={**os.environ, "TMPDIR": str(tmp_path)},
    )  # fmt: skip
    with killed:
        folder = Path(killed.stdout.readline().strip())
        assert folder.parent == tmp_path and (folder / "host").exists()
        killed.kill()
    until = time.monotonic() + 20
    while folder.exists() and time.monotonic() < until:
        time.sleep(0.1)
    assert not folder.exists()


def test_small_files_that_cost_much_are_refused_by_their_headers(file_of):
    """118 KB with 400 scans cost 217 s and 4.8 GB; 1 × 400,000,000 pixels 144 s; only headers are read for both."""
    flat = io.BytesIO()
    Image.fromarray(np.zeros((64, 64, 3), np.uint8)).save(flat, "JPEG", progressive=True)
    data = flat.getvalue()
    scan = data[data.rindex(b"\xff\xda") : -2]
    begun = time.monotonic()
    with pytest.raises(ArtworkError, match=r"has 4[0-9][0-9] scans where about ten are usual"):
        look(file_of(data[:-2] + scan * 400 + b"\xff\xd9"))
    wide = io.BytesIO()
    Image.new("L", (1, 1)).save(wide, "PNG")
    png = bytearray(wide.getvalue())
    png[16:24] = struct.pack(">II", 1, 400_000_000)
    with pytest.raises(ArtworkError, match=r"no side may be longer|damaged"):
        look(file_of(bytes(png)))
    nested = "<Object>" * 3000 + "</Object>" * 3000
    with pytest.raises(CharacterizationError):
        check_file("measurements", file_of(f"<CxF>{nested * 8}</CxF>".encode()), "n.cxf")
    assert time.monotonic() - begun < 9


CXF = '<CxF><Object Name="p1"><ColorValues><ColorCIELab><L>{L}</L><A>0</A><B>0</B></ColorCIELab></ColorValues>'
CXF += "<DeviceColorValues><ColorCMYK>{inks}</ColorCMYK></DeviceColorValues></Object></CxF>"
INKS = "<Cyan>0</Cyan><Magenta>0</Magenta><Yellow>0</Yellow><Black>{}</Black>"


@pytest.mark.parametrize(
    ("L", "inks", "words"),
    [
        (
            "50",
            "<Cyan>1</Cyan><Magenta>2</Magenta><Yellow>3</Yellow>",
            "Object 'p1' of 'm.cxf' has no value for Black",
        ),
        ("50", INKS.format("much"), "Black of object 'p1' of 'm.cxf' has 'much' where a number should be"),
        ("50", INKS.format("NaN"), "no finite number"),
        ("inf", INKS.format("0"), "no finite number"),
        ("50", INKS.format("900"), "from 0 to 900 %"),
        ("900", INKS.format("0"), "Lab values that no print has"),
    ],
)
def test_cxf_that_says_nothing_sensible_is_named_by_object(L, inks, words):
    with pytest.raises(CharacterizationError, match=words):
        read_measurements(CXF.format(L=L, inks=inks).encode(), "m.cxf")


def test_cxf_takes_decimal_commas():
    data, _ = read_measurements(CXF.format(L="50,5", inks=INKS.format("12,5")).encode(), "m.cxf")
    assert data.device[0].tolist() == [0, 0, 0, 0.125]


STRAIGHT = tuple(np.linspace(0, 1, 65))


def with_tag(profile, tag, text):
    return parse(write(replace(profile, tags={**profile.tags, tag: Text(text)})).raw)


@pytest.mark.parametrize(
    "text", ["[" * 50_000, '{"curves": ' + "[" * 9000, "7", '"x"', "null", "\0", "{}", '{"name": 3}']
)
def test_private_tags_that_hold_anything_else_are_passed_over(text):
    profile = with_tag(with_tag(profile_of("cotton-54t"), "PLcl", text), "PLbs", text)
    assert settings_of(profile) is None
    assert calibration_of(profile) is None


def test_a_calibration_that_would_make_blank_films_is_refused_when_it_comes_in(tmp_path):
    """Curves of NaN, and curves for too few inks, once came out as blank films and 'done'."""
    profile = profile_of("cotton-54t")
    curves = [{"ink": ink, "dark": STRAIGHT, "light_ink": "", "light": []} for ink in "CMYK"]
    nan = json.dumps({"curves": [*curves[:3], {**curves[3], "dark": [float("nan")] * 65}]})
    for text, words in (
        (nan, "or some that are none"),
        (json.dumps({"curves": curves[:2]}), "has curves for 2 inks, and the profile has 4"),
        (json.dumps({"curves": [{**curves[0], "ink": "../../x"}, *curves[1:]]}), "no signs of a path"),
    ):
        bad = with_tag(profile, "PLcl", text)
        with pytest.raises(CharacterizationError, match=words):
            checked_calibration(bad)
        path = tmp_path / "bad.icc"
        path.write_bytes(bad.raw)
        with pytest.raises(CharacterizationError, match=words):
            check_file("profile", path, "bad.icc")
        assert calibration_of(bad) is None
    with pytest.raises(CharacterizationError):
        calibration_from_json({"curves": [{**curves[0], "dark": [float("inf")] * 65}]})
    good = Calibration(tuple(InkCurve(ink, STRAIGHT) for ink in "CMYK"))
    assert checked_calibration(with_tag(profile, "PLcl", calibration_tag(good).text)) is not None


def test_where_data_comes_from_goes_along_with_it():
    """A file that said 'our instrument, M1' came out as 'simulated instrument'."""
    text = measure_chart(shop_condition("tern-news-45"), 300).to_cgats()
    assert "simulated" in text
    said = {"ORIGINATOR": "Halvard lab", "INSTRUMENTATION": "our instrument, M1", "CREATED": "2026-03-02",
            "MEASUREMENT_CONDITION": "M1"}  # fmt: skip
    lines = [line for line in text.splitlines() if not line.startswith(("ORIGINATOR", "INSTRUMENTATION"))]
    real = "\n".join([lines[0], *(f'{key} "{value}"' for key, value in said.items()), *lines[1:]])
    data, _ = read_measurements(real.encode(), "real.txt")
    assert dict(data.provenance) == said
    again = data.to_cgats()
    assert "simulated" not in again and all(f'{key} "{value}"' in again for key, value in said.items())
    profile = build_output_profile(
        fitted("tern-news-45").model,
        BuildSettings("Tern", InkLimits(240), BLACK_PRESETS["gcr"], grid=9, copyright="© Halvard Print"),
        again,
    )
    assert "our instrument, M1" in profile.tags["targ"].text
    assert profile.tags["cprt"].text == "© Halvard Print"
    plain = build_output_profile(
        fitted("tern-news-45").model, BuildSettings("T", InkLimits(240), BLACK_PRESETS["gcr"], grid=9)
    )
    assert plain.tags["cprt"].text == "No rights are stated."


def test_the_report_of_one_ink_has_no_division_by_zero(library):
    measured = measure_chart(shop_condition("leafprint-negative"), 60)
    model = fit_model(measured).model
    built = build_output_profile(model, BuildSettings("One", InkLimits(100), usual_black(model.inks), grid=9))
    judged = judge(built, library.condition(parse(built.raw)).tables)
    assert "<svg" in report_html(judged, None, {}, [(100.0, 20.0)])
    assert "<svg" in report_html(judged, None, {}, [(130.0, 20.0), (145.0, 19.0)])
