"""`plinto` as its user meets it: real processes, real files, errors on stderr with exit code 2."""

import json
import os
import subprocess
import sys

import numpy as np
import pytest
import tifffile
from PIL import Image

from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from tests.conftest import foreign_profile, profile_of


@pytest.fixture(scope="module")
def run(tmp_path_factory):
    cache = tmp_path_factory.mktemp("cli-cache")

    def call(*words, code=0):
        command = [sys.executable, "-m", "plinto_core.cli", *map(str, words)]
        done = subprocess.run(
            command, env={**os.environ, "PLINTO_CACHE": str(cache)}, capture_output=True, text=True, check=False
        )
        assert done.returncode == code, done.stderr
        assert "Traceback" not in done.stderr
        return done.stderr if code else done.stdout

    return call


@pytest.fixture(scope="module")
def cotton(tmp_path_factory):
    path = tmp_path_factory.mktemp("profiles") / "cotton.icc"
    path.write_bytes(profile_of("cotton-54t").raw)
    return path


def test_separate_proof_and_run_sheet_belong_together(run, cotton, photo_tiff, tmp_path):
    out, sheet = tmp_path / "out.tif", tmp_path / "sheet.json"
    settings = [
        "--profile",
        cotton,
        "--total-ink",
        200,
        "--ink-limit",
        "C=90,K=85",
        "--black",
        "gcr",
        "--intent",
        "perceptual",
    ]
    text = run("separate", photo_tiff, *settings, "--out", out, "--run-sheet", sheet, "--depth", 16)
    assert "largest coverage" in text
    inks = tifffile.imread(out)
    assert inks.dtype == np.uint16
    assert inks.sum(axis=-1, dtype=int).max() <= 2 * 65535
    told = json.loads(sheet.read_text())
    assert told["recipe"]["ink"]["limits"]["per_ink_percent"] == [["C", 90.0], ["K", 85.0]]
    # The sheet's recipe makes the same file again.
    recipe = tmp_path / "recipe.json"
    recipe.write_text(json.dumps(told["recipe"]))
    run("separate", photo_tiff, "--profile", cotton, "--recipe", recipe, "--out", tmp_path / "again.tif")
    assert (tmp_path / "again.tif").read_bytes() == out.read_bytes()
    run("proof", photo_tiff, *settings, "--out", tmp_path / "p.png", "--substrate")
    with Image.open(tmp_path / "p.png") as proof:
        assert proof.size == (320, 240)
        # Cotton is not white: the brightest of the proof shows it.
        assert np.asarray(proof).max() < 245


def test_trace_follows_one_color(run, cotton):
    told = json.loads(
        run("trace", "--profile", cotton, "--source", "opRGB", "--rgb", "12,200,40", "--total-ink", 230, "--json")
    )
    assert told["source"]["lab"] == pytest.approx([67.1, -106.3, 65.6], abs=0.2)
    assert told["ink"]["sum_percent"] <= 230
    assert told["print"]["delta_e_2000"] > 5
    assert "delta_e_2000" in run("trace", "--profile", cotton, "--source", "sRGB", "--rgb", "1,2,3")


def test_link_is_a_device_link(run, cotton, tmp_path):
    run("link", "--profile", cotton, "--source", "sRGB", "--total-ink", 230, "--out", tmp_path / "l.icc")
    assert parse((tmp_path / "l.icc").read_bytes()).header.profile_class == "link"
    assert "device link" in run("inspect", tmp_path / "l.icc")


def test_inspect_tells_what_a_file_is(run, cotton, photo_tiff):
    told = json.loads(run("inspect", cotton, "--json"))
    assert told["device space"] == "CMYK"
    assert "16-bit table" in told["tags"]["A2B1"]
    assert json.loads(run("inspect", photo_tiff, "--json"))["embedded profile"] == "opRGB"


def test_any_output_profile_works(run, photo_tiff, tmp_path):
    other = tmp_path / "other.icc"
    other.write_bytes(foreign_profile().raw)
    for settings in (["--ink", "as-profiled"], ["--total-ink", "250"]):
        run("separate", photo_tiff, "--profile", other, "--out", tmp_path / "o.tif", *settings)
        assert tifffile.imread(tmp_path / "o.tif").shape == (240, 320, 4)


def test_help_teaches(run):
    assert "plinto separate moth.tif" in run("--help")
    assert "black point compensation" in run("separate", "--help").lower()


def test_errors_say_what_to_do(run, cotton, photo_tiff, tmp_path):
    untagged = tmp_path / "untagged.tif"
    tifffile.imwrite(untagged, np.zeros((4, 4, 3), np.uint8), photometric="rgb", metadata=None)
    srgb = tmp_path / "srgb.icc"
    srgb.write_bytes(rgb_profile("sRGB").raw)
    (tmp_path / "r.json").write_text("{")
    base = ["--profile", cotton, "--out", tmp_path / "x.tif"]
    cases = {
        "choose a source (sRGB, opRGB": ["separate", untagged, *base],
        "no output profile": ["separate", photo_tiff, "--profile", srgb, "--out", tmp_path / "x.tif"],
        "no such setting. Use --ink rebuilt": [
            "separate",
            photo_tiff,
            *base,
            "--ink",
            "as-profiled",
            "--total-ink",
            200,
        ],
        "write it like C=95": ["separate", photo_tiff, *base, "--ink-limit", "C95"],
        "no ink O here": ["separate", photo_tiff, *base, "--ink-limit", "O=50"],
        "originals are never changed": ["separate", photo_tiff, "--profile", cotton, "--out", photo_tiff],
        "neither TIFF, PNG, JPEG nor PSD": ["separate", srgb, *base],
        "too few for a header": ["inspect", tmp_path / "empty.icc"],
        "three numbers from 0 to 255": ["trace", "--profile", cotton, "--rgb", "300,1", "--source", "sRGB"],
        "choose --source": ["trace", "--profile", cotton, "--rgb", "3,1,1"],
        "is no JSON": ["separate", photo_tiff, *base, "--recipe", tmp_path / "r.json"],
        "does not exist": ["separate", tmp_path / "missing.tif", *base],
        "neither sRGB": ["separate", photo_tiff, *base, "--source", "wide"],
    }
    (tmp_path / "empty.icc").write_bytes(rgb_profile("sRGB").raw[:60])
    for words, command in cases.items():
        assert words in run(*command, code=2), words
    assert not (tmp_path / "x.tif").exists()
