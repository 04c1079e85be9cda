"""What is promised of a delivered file: the limit as anybody reads it back, its name, and that it can be made again."""

import io
import json
import subprocess
import sys
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import Condition
from plinto_core.deliver.again import make_again
from plinto_core.deliver.code_limits import CodeLimits, held_within
from plinto_core.deliver.run_sheet import run_sheet
from plinto_core.deliver.separate import separate
from plinto_core.errors import RecipeError
from plinto_core.files import file_digest, safe_name
from plinto_core.icc.profile import write
from plinto_core.icc.standard import rgb_profile
from plinto_core.press.calibration import Calibration, InkCurve, calibration_tag
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import DeliverStation, InkStation, NegativeSettings, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.film import FilmSettings
from plinto_core.recipe.limits import InkLimits

LIMITS = InkLimits(230, (("K", 80),))


def line_of(condition, deliver, limits=LIMITS):
    recipe = Recipe(ink=InkStation("rebuilt", limits, BLACK_PRESETS["gcr"]), deliver=deliver)
    return compile_recipe(recipe, condition, rgb_profile("opRGB"))


@pytest.mark.parametrize("quality", [80, 85, 92, 100])
def test_a_jpeg_holds_every_limit_when_it_is_decoded(condition, photo_tiff, tmp_path, quality):
    """Blurred by its compression, quality 92 once reached 231.8 % of 230 while the sheet said 229.8."""
    line = line_of(condition("cotton-54t"), DeliverStation(format="jpeg", jpeg_quality=quality))
    outcome = separate(open_artwork(photo_tiff), line, tmp_path / "o.jpg")
    with Image.open(tmp_path / "o.jpg") as image:
        decoded = np.asarray(image).astype(int)
    assert decoded.sum(axis=-1).max() <= np.floor(2.3 * 255)
    assert decoded[..., 3].max() <= 0.8 * 255
    assert outcome.largest_percent == pytest.approx(decoded.sum(axis=-1).max() / 2.55, abs=1e-6)
    # Unblurred, nothing needs room.
    assert (0 if quality == 100 else 1e-9) <= outcome.margin_percent < 230 * 0.12


def test_a_jpeg_that_cannot_hold_its_limit_unseen_is_refused(condition, tmp_path):
    noise = np.random.default_rng(3).integers(0, 2, (96, 96, 3)).astype(np.uint8) * 255
    tifffile.imwrite(tmp_path / "n.tif", noise, photometric="rgb", iccprofile=rgb_profile("opRGB").raw)
    line = line_of(condition("cotton-54t"), DeliverStation(format="jpeg", jpeg_quality=50), InkLimits(180))
    with pytest.raises(RecipeError, match=r"JPEG of quality 50 blurs the ink .* write TIFF"):
        separate(open_artwork(tmp_path / "n.tif"), line, tmp_path / "o.jpg")
    assert not (tmp_path / "o.jpg").exists()


def test_codes_within_the_limits_stay_and_others_are_brought_to_them():
    codes = np.random.default_rng(5).integers(0, 256, (400, 4)).astype(np.uint8)
    limits = CodeLimits.of(np.array([1, 1, 1, 0.8]), 2.3, 8)
    held = held_within(codes, limits)
    within = (codes.sum(axis=1, dtype=int) <= limits.total) & (codes[:, 3] <= 204)
    assert np.array_equal(held[within], codes[within]) and (held <= codes).all()
    assert held.sum(axis=1, dtype=int).max() <= limits.total and held[:, 3].max() <= 204


@pytest.fixture
def with_light_inks(condition):
    """Cotton behind a calibration whose light inks come to more than the separation in the middle tones."""
    steps = np.linspace(0, 1, 65)
    light = tuple(np.clip(1.6 * steps, 0, 1))
    curves = tuple(
        InkCurve(ink, tuple(steps), ink.lower() if ink in "CM" else "", light if ink in "CM" else ())
        for ink in "CMYK"
    )
    known = condition("cotton-54t")
    made = replace(known.profile, tags={**known.profile.tags, "PLcl": calibration_tag(Calibration(curves))})
    return Condition(write(made), known.model, known.tables)


@pytest.mark.parametrize("depth", [8, 16])
def test_behind_a_calibration_the_printers_own_inks_hold_the_limit(with_light_inks, photo_tiff, tmp_path, depth):
    line = line_of(with_light_inks, DeliverStation(calibrated=True, depth=depth), InkLimits(230))
    outcome = separate(open_artwork(photo_tiff), line, tmp_path / "o.tif")
    written = tifffile.imread(tmp_path / "o.tif").astype(int)
    assert outcome.inks == ("C", "c", "M", "m", "Y", "K") and written.shape[-1] == 6
    assert written.sum(axis=-1).max() <= 2.3 * (2**depth - 1)
    assert outcome.largest_percent == pytest.approx(written.sum(axis=-1).max() / (2**depth - 1) * 100)
    assert 0.01 < outcome.held_share < 0.9


def test_no_name_from_a_file_becomes_part_of_a_path(condition, photo_tiff, tmp_path):
    film = FilmSettings(halftone=False, marks=False, container="tiff")
    line = line_of(condition("cotton-54t"), DeliverStation(format="films", film=film))
    hostile = ("../../../out of it", "/etc/passwd", "a\\b:c", "\u202e\n")
    # Compiled with the names that its limits are for; only what is written meets the others.
    assert line.pipeline.stages
    line.condition.model.__dict__.pop("digest", None)
    named = replace(line.condition.model, inks=hostile)
    other = Condition(line.condition.profile, named, line.condition.tables)
    line.condition = other
    (tmp_path / "in").mkdir()
    before = {path for path in tmp_path.rglob("*") if path.is_file()}
    separate(open_artwork(photo_tiff, "../../up.tif"), line, tmp_path / "in" / "films.zip")
    assert {path for path in tmp_path.rglob("*") if path.is_file()} == before | {tmp_path / "in" / "films.zip"}
    with zipfile.ZipFile(tmp_path / "in" / "films.zip") as archive:
        names = archive.namelist()
    assert len(names) == 4 and not any("/" in name or "\\" in name or name.startswith(".") for name in names)
    assert safe_name("..", "x") == "x" and safe_name("con:a/b\0", "x") == "con-a-b-"


def test_a_film_of_one_ink_is_a_tiff_and_is_called_one(condition, photo_tiff, tmp_path):
    deliver = DeliverStation(format="films", film=FilmSettings(container="tiff"))
    assert (deliver.suffix_for(1), deliver.suffix_for(4)) == (".tif", ".zip")
    names = {
        format_: replace(deliver, format=format_).file_name(
            artwork="a", condition="b", intent="relative", limit="1", date="d"
        )
        for format_ in ("pdf", "films", "negative", "hard-proof")
    }
    assert len(set(names.values())) == 4


EVERY_FORMAT = {
    "tiff": DeliverStation(depth=16, compression="deflate"),
    "jpeg": DeliverStation(format="jpeg"),
    "pdf": DeliverStation(format="pdf"),
    "films": DeliverStation(format="films", film=FilmSettings(dpi=600, ruling_lpi=45, container="tiff")),
    "films as pdf": DeliverStation(format="films", film=FilmSettings(dpi=600, ruling_lpi=45)),
    "negative": DeliverStation(format="negative", negative=NegativeSettings()),
    "hard-proof": DeliverStation(format="hard-proof"),
}


def test_every_format_is_made_again_to_the_bit_from_its_sheet_alone(condition, photo_tiff, tmp_path):
    """The second time in another process, that is given nothing but the sheet and a folder of inputs."""
    inputs = tmp_path / "inputs"
    inputs.mkdir()
    known = condition("cotton-54t")
    (inputs / "some profile.icc").write_bytes(known.profile.raw)
    (inputs / "renamed since.bin").write_bytes(photo_tiff.read_bytes())
    sheets = []
    for number, (name, deliver) in enumerate(EVERY_FORMAT.items()):
        recipe = Recipe(ink=InkStation("rebuilt", LIMITS, BLACK_PRESETS["gcr"]), deliver=deliver)
        line = compile_recipe(recipe, known, rgb_profile("opRGB"))
        artwork = open_artwork(photo_tiff)
        outcome = separate(artwork, line, tmp_path / f"{number}{deliver.suffix}")
        sheet = run_sheet(artwork, file_digest(photo_tiff), line, outcome, name)
        path = tmp_path / f"{number}.json"
        path.write_text(json.dumps(sheet))
        sheets.append((path, tmp_path / f"{number}{deliver.suffix}"))
    # One process for all of them: what takes time is its start.
    commands = [
        ["again", str(path), "--from", str(inputs), "--out", str(path.with_suffix(".again"))] for path, _ in sheets
    ]
    program = f"from plinto_core.cli import main\nfor words in {commands!r}: main(words)"
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.count("the same file to the last bit") == len(sheets)
    for path, first in sheets:
        assert path.with_suffix(".again").read_bytes() == first.read_bytes()


def test_what_is_missing_for_making_it_again_is_named(condition, photo_tiff, tmp_path, library):
    known = condition("cotton-54t")
    line = line_of(known, DeliverStation())
    artwork = open_artwork(photo_tiff)
    outcome = separate(artwork, line, tmp_path / "o.tif")
    sheet = run_sheet(artwork, "0" * 64, line, outcome, "o.tif")
    with pytest.raises(RecipeError, match=r"the artwork 'photo\.tif' .*; the condition's profile 'Cotton 54T'"):
        make_again(sheet, [tmp_path], library, tmp_path / "again.tif")
    assert not (tmp_path / "again.tif").exists()
    # Another version of a part is said, and so is a file that is not the same.
    (tmp_path / "p.icc").write_bytes(known.profile.raw)
    sheet["artwork"]["pixels_sha256"] = file_digest(photo_tiff)
    sheet["versions"]["numpy"] = "1.0"
    sheet["written"]["sha256"] = "f" * 64
    made = make_again(sheet, [tmp_path], library, tmp_path / "again.tif")
    assert not made.same and made.differing == [f"numpy {np.__version__} instead of 1.0"]


def test_the_trace_shows_the_step_at_which_a_color_is_lost(condition):
    """The aim was once filled with the print: 70.0 −48.6 30.5 where the Aim station gives what is wanted."""
    line = line_of(condition("cotton-54t"), DeliverStation(), InkLimits(230))
    green = np.array([[0.0, 1.0, 0.1]])
    trace = line.trace(green)
    assert np.allclose(trace.aim_lab, line.aim.apply(line.wanted_lab(green)))
    assert np.allclose(trace.aim_lab, trace.want_lab)
    assert np.abs(trace.aim_lab - trace.print_lab).max() > 20
    perceptual = compile_recipe(
        replace(line.recipe, aim=replace(line.recipe.aim, intent="perceptual")), line.condition, line.source.profile
    ).trace(green)
    assert np.abs(perceptual.aim_lab - perceptual.want_lab).max() > 10
    assert np.abs(perceptual.aim_lab - perceptual.print_lab).max() < 6


def test_a_hard_proofs_strip_and_ramp_hold_the_limit_too(condition, photo_tiff, tmp_path):
    line = line_of(condition("cotton-54t"), DeliverStation(format="hard-proof"))
    outcome = separate(open_artwork(photo_tiff), line, tmp_path / "o.pdf")
    with pikepdf.open(tmp_path / "o.pdf") as pdf:
        images = [np.frombuffer(i.read_bytes(), np.uint8).reshape(-1, 4) for i in pdf.pages[0].get_images().values()]
    assert len(images) == 3 and max(int(i.sum(axis=1, dtype=int).max()) for i in images) <= 2.3 * 255
    assert outcome.largest_at[1] < 240


def test_a_window_beyond_the_picture_goes_on_with_its_edge(photo_tiff, tmp_path):
    """The kernel once read beside the picture there."""
    from plinto_core.raster.pyramid import Pyramid, Window, build_pyramid

    build_pyramid(open_artwork(photo_tiff), tmp_path / "levels")
    levels = Pyramid(tmp_path / "levels")
    beyond = levels.window(Window(5000, 5000, 40, 30, 0.5))
    assert beyond.shape == (30, 40, 3) and (beyond == np.asarray(levels.levels[-1][-1, -1])).all()


def test_thin_pictures_and_odd_headers_open_or_say_why(tmp_path):
    thin = io.BytesIO()
    Image.fromarray(np.zeros((1500, 2, 3), np.uint8)).save(thin, "PNG")
    (tmp_path / "thin.png").write_bytes(thin.getvalue())
    assert sum(len(band) for band in open_artwork(tmp_path / "thin.png").bands()) == 1500
    tifffile.imwrite(
        tmp_path / "turned.tif", np.zeros((8, 8, 3), np.uint8), photometric="rgb",
        extratags=[(274, 3, 2, (1, 6), True)], metadata=None,
    )  # fmt: skip
    assert open_artwork(tmp_path / "turned.tif").layout.orientation == 1


def test_the_figures_of_a_file_are_of_its_own_pixels(condition, photo_tiff, photo, tmp_path):
    line = line_of(condition("cotton-54t"), DeliverStation())
    outcome = separate(open_artwork(photo_tiff), line, tmp_path / "o.tif")
    codes = line.ink_codes(photo, PixelGrid.rows(0, 240, 320, 240), 8, whole=True)
    assert np.array_equal(tifffile.imread(tmp_path / "o.tif"), codes)
    x, y = outcome.largest_at
    assert codes[y, x].sum(dtype=int) == codes.sum(axis=-1, dtype=int).max()
    assert Path(tmp_path / "o.tif").stat().st_size == outcome.bytes
