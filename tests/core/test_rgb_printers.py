"""Printers driven by RGB, their inks out of reach: chart, data, profile, judging, proof, files, links."""

import json

import imagecodecs
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image

from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import Library
from plinto_core.cli import plinto
from plinto_core.colorimetry import delta_e_2000
from plinto_core.deliver.run_sheet import run_sheet
from plinto_core.deliver.separate import separate
from plinto_core.errors import CharacterizationError, RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.inks.names import DRIVEN_BY_RGB
from plinto_core.measurement.cgats import read_chart, read_measurements
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.model import model_from_profile
from plinto_core.profiling.judge import judge
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import AimStation, DeliverStation, InkStation, Recipe
from plinto_core.recipe.limits import InkLimits
from plinto_demo.devices import DEVICES
from tests.core.test_built_profiles import assert_conforms

PRINTER = next(device for device in DEVICES if device.slug == "sela-rgb")


def printed(rgb):
    """Media-relative Lab of R, G, B (n, 3) 0…1 as the printer itself makes it, without the instrument's noise."""
    from plinto_core.colorimetry.lab import D50_XYZ, xyz_to_lab
    from plinto_core.colorimetry.spectra import reflectance_to_xyz

    xyz = reflectance_to_xyz(PRINTER.press.reflectance(1 - np.concatenate([rgb, [[1.0, 1, 1]]])))
    return xyz_to_lab(xyz[:-1] * D50_XYZ / xyz[-1])


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """Folder with chart, data, profile and report, made by the commands."""
    folder = tmp_path_factory.mktemp("rgb")
    words = ["chart", "--rgb", "--patches", "900", "--out", f"{folder}/chart.txt", "--tiff", f"{folder}/chart.tif",
             "--pdf", f"{folder}/chart.pdf"]  # fmt: skip
    plinto(words, standalone_mode=False)
    asked, names = read_chart((folder / "chart.txt").read_bytes(), "chart.txt")
    spectra, xyz = (np.concatenate(each) for each in zip(*PRINTER.read(asked), strict=True))
    data = Measurements(names, asked, xyz, spectra, "Sela 64 on vinyl", PRINTER.provenance)
    (folder / "data.txt").write_text(data.to_cgats())
    words = [
        "profile",
        "build",
        f"{folder}/data.txt",
        "--out",
        f"{folder}/sela.icc",
        "--report",
        f"{folder}/sela.json",
    ]
    plinto([*words, "--date", "2026-01-01"], standalone_mode=False)
    plinto([*words[:-1], f"{folder}/sela.html"], standalone_mode=False)
    return folder


def test_chart_and_data_speak_rgb(made):
    text = (made / "chart.txt").read_text()
    assert "RGB_R RGB_G RGB_B" in text and "\n1 255.00 255.00 255.00\n" in text
    data, notes = read_measurements((made / "data.txt").read_bytes(), "data.txt")
    assert data.inks == ("RGB red", "RGB green", "RGB blue") and any("driven by RGB" in note for note in notes)
    assert data.device[0].tolist() == [0, 0, 0], "the first patch is the bare substrate"
    # Other hands write 0 to 100, or 16 bit.
    for top in (1, 100, 65535):
        rows = "\n".join(
            f"{r * top:.8g},{g * top:.8g},{b * top:.8g},{50 + 40 * r},{g},{b}" for r, g, b in 1 - data.device
        )
        other, _ = read_measurements(f"RGB_R,RGB_G,RGB_B,LAB_L,LAB_A,LAB_B\n{rows}\n".encode(), "other.csv")
        assert np.abs(other.device - data.device).max() < 1e-6
    with pytest.raises(CharacterizationError, match="RGB_R, RGB_G and RGB_B are meant"):
        read_measurements(b"RGB_R,RGB_G,LAB_L,LAB_A,LAB_B\n1,2,50,0,0\n", "two.csv")
    sheet = tifffile.imread(made / "chart.tif")
    assert sheet.shape[2] == 3 and sheet[0, 0].tolist() == [255, 255, 255]
    with pikepdf.open(made / "chart.pdf") as pdf:
        (image,) = pdf.pages[0].get_images().values()
        assert image.ColorSpace == pikepdf.Name.DeviceRGB
        assert np.array_equal(np.asarray(pikepdf.PdfImage(image).as_pil_image())[0, 0], [255, 255, 255])


def test_the_profile_conforms_and_is_the_printer(made):
    profile = parse((made / "sela.icc").read_bytes())
    assert_conforms(profile.raw)
    assert profile.raw[16:20] == b"RGB " and "clrt" not in profile.tags
    fresh = np.random.default_rng(8).random((2000, 3))
    error = delta_e_2000(cmm.to_lab(profile, fresh), printed(fresh))
    assert error.mean() < 0.35 and np.percentile(error, 95) < 0.9
    # Forth by its own tables, and back by the printer itself; white is white.
    lab = printed(0.1 + 0.85 * fresh)
    back = delta_e_2000(printed(np.clip(cmm.from_lab(profile, lab), 0, 1)), lab)
    assert back.mean() < 0.5 and np.percentile(back, 95) < 1.2
    assert np.abs(cmm.from_lab(profile, [[100.0, 0, 0]]) - 1).max() < 1e-4
    judged = judge(profile)
    assert judged.inks == DRIVEN_BY_RGB and judged.most_ink_percent == 0
    assert judged.round_trip_mean < 0.5 and judged.max_neutral_chroma < 0.7 and judged.black_lab[0] < 25
    assert json.loads((made / "sela.json").read_text())["characterization"]["inks"] == list(DRIVEN_BY_RGB)
    html = (made / "sela.html").read_text()
    assert "driven by RGB" in html and "ink" not in html.replace("inks-serif", "").lower()


@pytest.fixture(scope="module")
def condition(made):
    return Library(made / "cache").condition(parse((made / "sela.icc").read_bytes()))


def _line(condition, intent="relative", method="rebuilt", **deliver):
    # A limit from another condition's recipe means nothing here.
    ink = InkStation(method, InkLimits(120)) if method == "rebuilt" else InkStation(method)
    recipe = Recipe(aim=AimStation(intent, intent != "absolute"), ink=ink, deliver=DeliverStation(**deliver))
    return compile_recipe(recipe, condition, rgb_profile("sRGB"))


@pytest.mark.parametrize("method", ["rebuilt", "as-profiled"])
def test_files_hold_rgb_that_prints_what_was_wanted(condition, method, photo, tmp_path):
    src = tmp_path / "photo.tif"
    tifffile.imwrite(src, photo, photometric="rgb", iccprofile=rgb_profile("sRGB").raw, metadata=None)
    artwork = open_artwork(src)
    wanted = cmm.to_lab(rgb_profile("sRGB"), photo.reshape(-1, 3)[::37] / 65535)
    shown = {}
    for format_, name in (("tiff", "out.tif"), ("jpeg", "out.jpg"), ("pdf", "out.pdf")):
        line = _line(condition, method=method, format=format_, depth=16 if format_ == "tiff" else 8)
        outcome = separate(artwork, line, tmp_path / name)
        sheet = run_sheet(artwork, "0" * 64, line, outcome, name)
        assert sheet["condition"]["driven_by"] == "RGB" and sheet["largest_coverage_percent"] is None
    with tifffile.TiffFile(tmp_path / "out.tif") as tiff:
        page = tiff.pages[0]
        assert page.photometric == tifffile.PHOTOMETRIC.RGB and page.iccprofile == condition.profile.raw
        assert 332 not in page.tags
        shown["out.tif"] = page.asarray() / 65535
    with Image.open(tmp_path / "out.jpg") as image:
        assert image.mode == "RGB" and image.info["icc_profile"] == condition.profile.raw
        shown["out.jpg"] = np.asarray(image) / 255
    with pikepdf.open(tmp_path / "out.pdf") as pdf:
        (placed,) = pdf.pages[0].get_images().values()
        shown["out.pdf"] = np.asarray(pikepdf.PdfImage(placed).as_pil_image()) / 255
        assert pdf.Root.OutputIntents[0].DestOutputProfile.N == 3
    # What the printer makes of the file is what the proof promised, and what was wanted where it reaches.
    rgb = shown["out.tif"].reshape(-1, 3)[::37]
    promised = condition.model.lab(1 - rgb)
    assert delta_e_2000(printed(rgb), promised).mean() < 0.4
    chroma = np.hypot(wanted[:, 1], wanted[:, 2])
    inside = (wanted[:, 0] > 35) & (wanted[:, 0] < 90) & (chroma < 25)
    assert inside.sum() > 100
    # Black point compensation lightens the mid tones of either path a little; the two paths agree.
    assert delta_e_2000(promised, wanted)[inside].mean() < 2.5
    assert np.abs(shown["out.pdf"] - shown["out.tif"]).max() < 0.006
    assert np.abs(shown["out.jpg"] - shown["out.tif"]).mean() < 0.03


def test_rebuilt_and_profiled_agree_with_littlecms(condition):
    colors = np.random.default_rng(3).integers(0, 256, (4000, 1, 3), np.uint8)
    theirs = imagecodecs.cms_transform(
        colors, rgb_profile("sRGB").raw, condition.profile.raw, colorspace="rgb", outcolorspace="rgb", outdtype="uint8",
        intent=1, flags=imagecodecs.CMS.FLAGS.NOOPTIMIZE | imagecodecs.CMS.FLAGS.BLACKPOINTCOMPENSATION,
    )  # fmt: skip
    ours = 255 - _line(condition, method="as-profiled").link.inks_of(colors, 8)
    assert np.abs(ours.astype(int) - theirs).max() <= 1
    made = _line(condition).baked.to_profile("link", rgb_profile("sRGB"), condition.profile)
    assert made.header.space == "RGB " and made.header.pcs == "RGB "
    through = cmm.through_link(made, condition.profile, colors[:, 0] / 255)
    expected = condition.model.lab(_line(condition).baked.inks_of(colors, 16)[:, 0] / 65535)
    error = delta_e_2000(through, expected)
    assert error.mean() < 0.15 and error.max() < 1.2


def test_what_asks_for_inks_is_refused_in_words(condition, made, photo_tiff, tmp_path):
    for format_ in ("films", "hard-proof"):
        with pytest.raises(RecipeError, match="driven by RGB"):
            separate(open_artwork(photo_tiff), _line(condition, format=format_), tmp_path / "x")
    words = ["separate", str(photo_tiff), "--profile", str(made / "sela.icc"), "--out", str(tmp_path / "x.tif")]
    with pytest.raises(RecipeError, match="--total-ink"):
        plinto([*words, "--total-ink", "200"], standalone_mode=False)
    with pytest.raises(RecipeError, match="--black-max"):
        build = ["profile", "build", str(made / "data.txt"), "--out", str(tmp_path / "x.icc"), "--black-max", "90"]
        plinto(build, standalone_mode=False)
    assert list(tmp_path.glob("x*")) == []


def test_an_rgb_output_profile_of_other_making_is_a_condition():
    """Matrix profiles of displays are not; a printer's profile with 8-bit 'mft1' tables is."""
    axis = np.linspace(0, 1, 9)
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)
    profile = _mft1(printed(grid).reshape(9, 9, 9, 3))
    model = model_from_profile(profile)
    assert model.inks == DRIVEN_BY_RGB
    assert np.allclose(model.lab([[0.0, 0, 0]]), [[100, 0, 0]], atol=0.6)
    assert delta_e_2000(model.lab(1 - grid), printed(grid)).mean() < 0.8


def _mft1(lab):
    from plinto_core.icc.profile import Header, Profile, write
    from plinto_core.icc.values import Description, TableLut, Xyz

    coded = np.clip(
        np.stack([lab[..., 0] / 100, (lab[..., 1] + 128) / 255, (lab[..., 2] + 128) / 255], axis=-1), 0, 1
    )
    straight = np.tile(np.linspace(0, 1, 256), (3, 1))
    table = TableLut(8, np.eye(3), straight, coded, straight)
    tags = {
        "desc": Description({"enUS": "Photo printer"}), "cprt": Description({"enUS": "A test's."}),
        "wtpt": Xyz(np.array([[0.86, 0.9, 0.75]])), "A2B0": table, "A2B1": table, "B2A0": table, "B2A1": table,
    }  # fmt: skip
    return write(Profile(Header("prtr", "RGB ", "Lab ", (2, 4)), tags))
