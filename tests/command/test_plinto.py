"""`plinto` as its user meets it: real files, errors on stderr with exit code 2."""

import io
import json
import os
import shutil
import struct
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from datetime import UTC, date, datetime

import numpy as np
import pytest
import tifffile
from PIL import Image

from plinto_core.cli import COMMANDS, main
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_demo.documents import DOCUMENTS, write_document
from tests.conftest import foreign_profile, profile_of


@pytest.fixture(scope="module")
def run(tmp_path_factory):
    """Standard output of a command, with standard error where another exit code is expected."""
    cache = tmp_path_factory.mktemp("cli-cache")

    def call(*words, code=0):
        out, err = io.StringIO(), io.StringIO()
        ended = 0
        with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
            patch.setenv("PLINTO_CACHE", str(cache))
            try:
                main([str(word) for word in words])
            except SystemExit as end:
                ended = end.code
        assert ended == code, err.getvalue()
        return out.getvalue() + err.getvalue() if code else out.getvalue()

    return call


def test_it_is_a_program(tmp_path):
    """One process of its own; starting one for every command of these tests would take minutes."""
    words = [sys.executable, "-m", "plinto_core.cli", "inspect", str(tmp_path / "missing.icc")]
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    assert done.returncode == 2 and done.stdout == ""
    assert "does not exist" in done.stderr and "Traceback" not in done.stderr


def test_help_and_version_load_nothing_that_computes(run):
    """They took 2.2 s: every command's module was imported, and with it numba, SciPy and LittleCMS."""
    code = "import sys; from plinto_core.cli import main; main(['--help']); print(sorted(sys.modules))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert "numpy" not in done.stdout.splitlines()[-1] and "pydantic" not in done.stdout.splitlines()[-1]
    listed = run("--help")
    for name, (_module, _function, told) in COMMANDS.items():
        assert name in listed and told[:40] in listed
        # The first words of the list are the command's own.
        own = run(name, "--help").split("\n\n")[1].split()
        assert own[0] == told.split()[0] or own[0].lower() in told.lower(), name


@pytest.fixture(scope="module")
def cotton(tmp_path_factory):
    path = tmp_path_factory.mktemp("profiles") / "cotton.icc"
    path.write_bytes(profile_of("cotton-54t").raw)
    return path


def test_a_line_used_before_writes_without_what_solves(cotton, photo_tiff, tmp_path):
    """A small picture took 4.7 s, most of it for loading what its second time has no need of."""
    code = (
        "import sys; from plinto_core.cli import main; main(sys.argv[1:]);"
        "print([each for each in ('plinto_core.separation.inverse', 'scipy.ndimage', 'pydantic', 'pikepdf', 'reportlab')"
        " if each in sys.modules])"
    )
    words = ["separate", photo_tiff, "--profile", cotton, "--total-ink", "220", "--out"]
    loaded = []
    for name in ("first.tif", "second.tif"):
        done = subprocess.run(
            [sys.executable, "-c", code, *map(str, words), str(tmp_path / name)],
            env={**os.environ, "PLINTO_CACHE": str(tmp_path / "cache")}, capture_output=True, text=True, check=True,
        )  # fmt: skip
        loaded.append(done.stdout.splitlines()[-1])
    assert "plinto_core.separation.inverse" in loaded[0] and loaded[1] == "[]"
    assert (tmp_path / "first.tif").read_bytes() == (tmp_path / "second.tif").read_bytes()


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


def test_several_pictures_go_into_a_folder_and_every_setting_has_a_flag(run, cotton, photo_tiff, tmp_path):
    other, folder = tmp_path / "other.tif", tmp_path / "out"
    other.write_bytes(photo_tiff.read_bytes())
    folder.mkdir()
    settings = ["--profile", cotton, "--total-ink", "230", "--black-shape", "3"]
    said = run(
        "separate", photo_tiff, other, *settings, "--out", folder, "--run-sheet", folder, "--compression", "none"
    )
    assert {path.name for path in folder.iterdir()} == {
        f"{stem} Cotton 54T{end}" for stem in ("photo", "other") for end in (".tif", " run sheet.json")
    }
    assert said.count("largest coverage") == 2
    with tifffile.TiffFile(folder / "photo Cotton 54T.tif") as tiff:
        assert tiff.pages[0].compression == tifffile.COMPRESSION.NONE
    sheet = json.loads((folder / "photo Cotton 54T run sheet.json").read_text())
    assert sheet["recipe"]["ink"]["black"]["shape"] == 3
    run("separate", photo_tiff, *settings, "--out", tmp_path / "q.jpg", "--quality", "98", "--strip-profile")
    run("separate", photo_tiff, *settings, "--out", tmp_path / "w.jpg", "--quality", "88", "--strip-profile")
    assert (tmp_path / "q.jpg").stat().st_size > 1.3 * (tmp_path / "w.jpg").stat().st_size
    assert "is no folder" in run("separate", photo_tiff, other, *settings, "--out", tmp_path / "none", code=2)
    assert "would both become" in run("separate", photo_tiff, photo_tiff, *settings, "--out", folder, code=2)
    # What the first becomes is the second one's original: refused before anything is written.
    second = tmp_path / "photo Cotton 54T.tif"
    second.write_bytes(photo_tiff.read_bytes())
    assert "is an original" in run("separate", photo_tiff, second, *settings, "--out", tmp_path, code=2)
    assert (
        second.read_bytes() == photo_tiff.read_bytes() and not (tmp_path / "photo Cotton 54T Cotton 54T.tif").exists()
    )


def test_what_a_command_ends_with_is_what_the_program_ends_with(run, tmp_path):
    """`pdf apply` and `ticket` promise 3 where something is refused, and the program ended with 0."""
    (tmp_path / "ticket.json").write_text('{"converts": ["application", "driver"]}')
    assert "converted more than once" in run("ticket", "check", tmp_path / "ticket.json", code=3)


def test_a_batch_goes_on_where_it_was_broken_off(run, cotton, photo_tiff, tmp_path):
    silk, out = tmp_path / "silk.icc", tmp_path / "out"
    silk.write_bytes(profile_of("murrow-offset-120").raw)
    bad = tmp_path / "letter.tif"
    bad.write_bytes(b"no picture")
    asked = ["batch", photo_tiff, bad, "--condition", cotton, "--condition", silk, "--total-ink", "230", "--out", out]
    assert "photo.tif for Cotton 54T: photo Cotton 54T.tif" in run(*asked, "--plan", code=1)
    assert not [path for path in out.iterdir() if path.suffix == ".tif"]
    first = run(*asked, code=1)
    assert "2 made, 0 there already, 2 failed" in first and "'letter.tif' is neither" in first
    made = {path.name: path.stat().st_mtime_ns for path in out.iterdir()}
    assert len(made) == 4
    # Broken off in the middle of one file, which is not there then; the other is not touched.
    (out / "photo Cotton 54T.tif").unlink()
    assert "1 made, 1 there already" in run(*asked, code=1)
    murrow = "photo Murrow Offset 120.tif"
    assert (out / murrow).stat().st_mtime_ns == made[murrow]
    # What was changed by somebody else is made anew, and so is everything under another recipe.
    (out / murrow).write_bytes(b"x")
    assert "1 made, 1 there already" in run(*asked, code=1)
    assert "2 made, 0 there already" in run(*asked, "--intent", "perceptual", code=1)
    assert "takes its conditions" in run(*asked, "--profile", cotton, code=2)


def test_a_batch_plan_makes_pictures_and_documents_and_goes_on(run, cotton, photo_tiff, tmp_path):
    house = tmp_path / "house"
    (house / "scans").mkdir(parents=True)
    for name in ("a.tif", "b.tif"):
        shutil.copy(photo_tiff, house / "scans" / name)
    shutil.copy(cotton, house / "cotton.icc")
    prices = next(each for each in DOCUMENTS if each.file_name == "Stall prices.pdf")
    write_document(prices, house).rename(house / "page.pdf")
    run("policy", "ready", "Office documents", "--out", house / "press.json")
    recipe = {"ink": {"method": "rebuilt", "limits": {"total_percent": 200}}}
    (house / "night.json").write_text(json.dumps(recipe))
    jobs = [
        {"files": ["scans/*.tif"], "conditions": ["cotton.icc"], "recipe": "night.json"},
        {"files": ["page.pdf"], "policy": "press.json", "conditions": ["cotton.icc"], "total_ink": 220},
    ]
    plan = house / "plan.json"
    plan.write_text(json.dumps({"batch": "Night garden", "out": "made", "jobs": jobs}))
    told = run("batch", plan, "--plan")
    assert "a.tif for Cotton 54T: a Cotton 54T.tif, 320 × 240 pixels, 0.3 MB" in told and "3 to be made" in told
    assert "3 made, 0 there already" in run("batch", plan)
    made = {path.name: path for path in (house / "made").iterdir()}
    assert sorted(made) == sorted(f"{name}{end}" for name in ("a Cotton 54T", "b Cotton 54T", "page press")
                                  for end in (" run sheet.json", ".pdf" if "press" in name else ".tif"))  # fmt: skip
    assert json.loads(made["a Cotton 54T run sheet.json"].read_text())["largest_coverage_percent"] <= 200
    assert json.loads(made["page press run sheet.json"].read_text())["report"]["records"]
    # Broken off: the same command goes on; another limit for the page makes the page again, and nothing else.
    made["b Cotton 54T.tif"].unlink()
    assert "1 made, 2 there already" in run("batch", plan)
    jobs[1]["total_ink"] = 210
    plan.write_text(json.dumps({"batch": "Night garden", "out": "made", "jobs": jobs}))
    assert "1 made, 2 there already" in run("batch", plan)
    # What is wrong is said before anything is written.
    for wrong, said in (
        ({**jobs[0], "recipes": "x"}, "nothing is called 'recipes'"),
        ({"files": ["page.pdf"]}, "names 'conditions' to separate for, or a 'policy'"),
        ({**jobs[0], "files": ["scans/*.png"]}, "nothing of that name"),
        ({**jobs[0], "conditions": ["other.icc"]}, "no such file"),
        ({**jobs[0], "conditions": ["cotton.icc", "cotton.icc"]}, "would both become"),
    ):
        plan.write_text(json.dumps({"batch": "x", "out": "elsewhere", "jobs": [wrong]}))
        assert said in run("batch", plan, code=2)
    assert not (house / "elsewhere").exists()
    assert "is a batch plan and says all of it" in run("batch", plan, photo_tiff, code=2)


def test_a_watched_folder_makes_each_file_once_and_says_why_of_the_others(run, cotton, photo_tiff, tmp_path):
    folder, profiles = tmp_path / "night garden", tmp_path / "profiles"
    profiles.mkdir()
    (profiles / "Murrow.icc").write_bytes(profile_of("murrow-offset-120").raw)
    for sub in ("Murrow", "Nowhere"):
        (folder / "in" / sub).mkdir(parents=True)
        shutil.copy(photo_tiff, folder / "in" / sub / f"{sub}.tif")
    shutil.copy(photo_tiff, folder / "in")
    (folder / "in" / "letter.tif").write_bytes(b"no picture")
    (folder / "in" / "secret.tif").symlink_to("/etc/passwd")
    (folder / "in" / "coming.tif.part").write_bytes(b"half")
    asked = ["watch", folder, "--condition", cotton, "--conditions", profiles, "--total-ink", "230", "--once"]
    assert "2 made, 0 there already, 3 failed" in run(*asked, code=1)
    made = sorted(path.name for path in (folder / "out").iterdir())
    assert made == [
        "Murrow Murrow Offset 120 run sheet.json", "Murrow Murrow Offset 120.tif", "photo Cotton 54T run sheet.json",
        "photo Cotton 54T.tif",
    ]  # fmt: skip
    assert sorted(path.name for path in (folder / "done").iterdir()) == ["Murrow.tif", "photo.tif"]
    said = {path.name: path.read_text() for path in (folder / "failed").glob("*.txt")}
    assert "is neither TIFF" in said["letter.tif.txt"] and "It is a link" in said["secret.tif.txt"]
    assert "There is no profile 'Nowhere.icc'" in said["Nowhere.tif.txt"]
    assert (folder / "in" / "coming.tif.part").exists()
    # Killed between writing and moving: the file is there already, and is not made again.
    (folder / "done" / "photo.tif").rename(folder / "in" / "photo.tif")
    before = (folder / "out" / "photo Cotton 54T.tif").stat().st_mtime_ns
    assert "0 made, 1 there already, 0 failed" in run(*asked)
    assert (folder / "out" / "photo Cotton 54T.tif").stat().st_mtime_ns == before
    assert "Say what is made" in run("watch", folder, code=2)


def test_what_separations_cost_is_told_beside_each_other(run, cotton, photo_tiff, tmp_path):
    inks = {ink: {"laydown_g_m2": 40, "price_per_kg": 15} for ink in "CMY"}
    (tmp_path / "costs.json").write_text(json.dumps({"inks": inks, "medium_per_m2": 2}))
    sheets = []
    for black in ("none", "full"):
        sheet = tmp_path / f"{black}.json"
        run(
            "separate", photo_tiff, "--profile", cotton, "--total-ink", "230", "--black", black, "--out",
            tmp_path / f"{black}.tif", "--run-sheet", sheet,
        )  # fmt: skip
        told = json.loads(sheet.read_text())
        told["artwork"]["resolution_ppi"] = 100
        sheet.write_text(json.dumps(told))
        sheets.append(sheet)
    said = run("cost", *sheets, "--costs", tmp_path / "costs.json", "--copies", "100")
    assert "against the first" in said and "Not counted, for nothing is said of them: K." in said
    told = json.loads(run("cost", *sheets, "--costs", tmp_path / "costs.json", "--json"))
    # Black in the place of colored inks saves money where it costs nothing.
    assert told["full.json"]["total_money"] < told["none.json"]["total_money"]


def test_inspect_tells_what_a_file_is(run, cotton, photo_tiff):
    told = json.loads(run("inspect", cotton, "--json"))
    assert told["device space"] == "CMYK"
    assert "curves and table, 17×17×17×17" in told["tags"]["A2B1"]
    # Who measured with what goes along, and nobody's rights are made up.
    assert (told["measured by"], told["rights"]) == ("Quillmere Print Works", "No rights are stated.")
    assert "D50" in told["instrument"] and told["created"].startswith("2026-01-01")
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
        "neither TIFF, PNG, JPEG nor OpenRaster": ["separate", srgb, *base],
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


def test_every_step_works_without_a_server(run, cotton, photo_tiff, tmp_path):
    """Adjust, regions, plates in a recipe; formats, films, negatives, hard proofs; versions and house rules."""
    adjustment = {"master": {"points": [[0, 0], [0.5, 0.4], [1, 1]]}, "chroma_percent": 10}
    region = {"name": "left", "corners": [[0, 0], [0.4, 0], [0.4, 1], [0, 1]], "black": "none"}
    recipe = {
        "version": 2,
        "adjust": {"base": adjustment, "regions": [region]},
        "ink": {"limits": {"total_percent": 200}},
        "plate": {"plates": [{"ink": "M", "smallest": "raise", "smallest_percent": 5}]},
    }
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    base = [photo_tiff, "--profile", cotton, "--recipe", tmp_path / "r.json"]
    run("separate", *base, "--out", tmp_path / "a.tif")
    inks = tifffile.imread(tmp_path / "a.tif").astype(int)
    assert inks[:, :120, 3].max() == 0 < inks[:, 140:, 3].max()
    assert inks.sum(axis=-1).max() <= 2 * 255
    assert set(np.unique(inks[..., 1])) & set(range(1, 13)) == set()
    run("separate", *base, "--out", tmp_path / "a.jpg")
    run("films", *base, "--out", tmp_path / "f.pdf", "--dpi", 600, "--ruling", 45, "--angles", "K=30", "--negative")
    run("hard-proof", *base, "--out", tmp_path / "h.pdf")
    (tmp_path / "wedge.txt").write_text("5 20 45 70 90")
    assert "21 steps" in run("wedge", "--out", tmp_path / "wedge.pdf", "--gray")
    run("tone-table", tmp_path / "wedge.txt", "--out", tmp_path / "t.cube")
    run("negative", *base, "--out", tmp_path / "n.tif", "--table", tmp_path / "t.cube", "--no-marks")
    run("negative", *base, "--out", tmp_path / "m.tif", "--wedge", tmp_path / "wedge.txt", "--no-marks")
    assert np.abs(tifffile.imread(tmp_path / "n.tif").astype(int) - tifffile.imread(tmp_path / "m.tif")).max() <= 3
    # CMYK for another press, with black kept.
    run(
        "separate",
        tmp_path / "a.jpg",
        "--profile",
        cotton,
        "--total-ink",
        180,
        "--keep",
        "K",
        "--out",
        tmp_path / "b.tif",
    )
    run("separate", *base[:3], "--without", "K", "--out", tmp_path / "c.tif")
    assert tifffile.imread(tmp_path / "c.tif")[..., 3].max() == 0


def test_judging_on_the_command_line(run, cotton, photo_tiff, tmp_path):
    rows = json.loads(run("compare", photo_tiff, "--profile", cotton, "--intent", "relative", "--intent", "saturation",
                          "--black", "gcr", "--sort", "worst", "--json"))  # fmt: skip
    assert len(rows) == 2 and rows[0]["worst"] <= rows[1]["worst"]
    families = json.loads(run("hits", photo_tiff, "--profile", cotton, "--total-ink", 230, "--json"))
    assert families[0]["delta_e_mean"] > 3
    (tmp_path / "p.txt").write_text("Stone 62 2 8\nFuchsia #ff00ff\n")
    text = run("palette", tmp_path / "p.txt", "--profile", cotton, "--total-ink", 230)
    assert "Stone" in text and "yes" in text and "no" in text


def test_versions_and_house_rules_on_the_command_line(run, photo_tiff, tmp_path):
    run("assign", photo_tiff, "--to", "sRGB", "--out", tmp_path / "a.tif")
    run("convert", photo_tiff, "--to", "P3", "--out", tmp_path / "c.tif")
    run("assign", photo_tiff, "--to", "none", "--out", tmp_path / "bare.tif")
    assert json.loads(run("inspect", tmp_path / "a.tif", "--json"))["embedded profile"] == "sRGB"
    assert json.loads(run("inspect", tmp_path / "bare.tif", "--json"))["embedded profile"] is None
    rules = {"name": "Web", "rgb": "sRGB", "untagged": "assume", "differing": "convert"}
    (tmp_path / "rules.json").write_text(json.dumps({"house_rules": 1, "rules": rules, "profiles": {}}))
    files = [photo_tiff, tmp_path / "bare.tif", tmp_path / "a.tif"]
    said = json.loads(run("house", tmp_path / "rules.json", *files, "--out", tmp_path / "made", "--json"))
    assert [said[path.name]["action"] for path in files] == ["convert", "assume", "keep"]
    assert sorted(path.name for path in (tmp_path / "made").iterdir()) == ["bare.tif", "photo.tif"]
    assert "originals are never changed" in run("assign", photo_tiff, "--to", "P3", "--out", photo_tiff, code=2)
    assert "neither sRGB" in run("convert", photo_tiff, "--to", "wide", "--out", tmp_path / "x.tif", code=2)


def test_the_color_leads_commands(run, cotton, photo_tiff, tmp_path):
    from plinto_demo.shop import measure_chart
    from tests.conftest import shop_condition

    run("chart", "--inks", "CMYK", "--patches", 200, "--out", tmp_path / "chart.txt")
    assert "CMYK_C CMYK_M CMYK_Y CMYK_K" in (tmp_path / "chart.txt").read_text()
    (tmp_path / "data.txt").write_text(measure_chart(shop_condition("cotton-54t"), 420).to_cgats())
    told = json.loads(run("characterize", tmp_path / "data.txt", "--json"))
    assert told["patches"] == 420 and told["wrong patches"] == {}
    built = ["profile", "build", tmp_path / "data.txt", "--total-ink", 220, "--black", "full", "--grid", 17]
    dated = ["--date", "2026-11-26"]
    run(*built, *dated, "--icc", 2, "--name", "Tote", "--out", tmp_path / "p.icc")
    # Settings travel in the profile and make the same one again.
    again = ["profile", "build", tmp_path / "data.txt", "--settings", tmp_path / "p.icc"]
    run(*again, *dated, "--out", tmp_path / "q.icc")
    assert (tmp_path / "q.icc").read_bytes() == (tmp_path / "p.icc").read_bytes()
    # Without a date asked for, a profile says when it was made: bytes 24 to 29 of the header are year, month, day.
    run(*again, "--out", tmp_path / "now.icc")
    made = struct.unpack(">3H", (tmp_path / "now.icc").read_bytes()[24:30])
    assert abs(date(*made) - datetime.now(UTC).date()).days <= 1
    judged = json.loads(run("profile", "judge", tmp_path / "p.icc", "--json"))[0]
    assert judged["version"] == "2.4" and judged["most_ink_percent"] <= 220.01
    assert "within its tolerances" in run("drift", tmp_path / "data.txt", "--aim", tmp_path / "p.icc")
    run("profile", "rename", tmp_path / "p.icc", "Bags", "--out", tmp_path / "r.icc")
    assert "Bags" in run("profile", "compare", tmp_path / "p.icc", tmp_path / "r.icc")
    run("profile", "copy-tag", cotton, tmp_path / "p.icc", "wtpt", "--out", tmp_path / "s.icc")
    rows = json.loads(run("gamut", cotton, photo_tiff, "--json"))
    assert rows["cotton.icc"]["covered by the first %"] == 100
    numbers = {"name": "Few", "paper": [92, 0, 3], "solids": {"C": [55, -36, -45], "M": [50, 70, -4]}}
    (tmp_path / "n.json").write_text(json.dumps(numbers))
    run("profile", "from-inks", tmp_path / "n.json", "--out", tmp_path / "t.icc", "--total-ink", 180)
    assert "2 inks" in run("inspect", tmp_path / "t.icc") or "2CLR" in run("inspect", tmp_path / "t.icc")
    assert "originals are never changed" in run(
        "profile", "rename", tmp_path / "p.icc", "x", "--out", tmp_path / "p.icc", code=2
    )
