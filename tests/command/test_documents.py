"""Documents and policies as a person types them: decide, send, prove, take apart, compare."""

import json

import numpy as np
import pikepdf
import pytest
import tifffile
from click.testing import CliRunner
from PIL import Image

from plinto_core.cli import plinto
from plinto_core.errors import PolicyError
from plinto_core.house_rules import HouseRules, rules_to_file
from plinto_demo.documents import DOCUMENTS, write_document
from tests.conftest import profile_of


def run(*arguments, ends=0):
    done = CliRunner().invoke(plinto, [str(each) for each in arguments], catch_exceptions=False)
    assert done.exit_code == ends, done.output
    return done.stdout


@pytest.fixture
def job(tmp_path, monkeypatch):
    """The shop's price list, a profile beside it, and two policies as files."""
    from plinto_demo.kept_folder import kept_folder

    monkeypatch.setenv("PLINTO_CACHE", str(kept_folder() / "cache"))
    (tmp_path / "silk.icc").write_bytes(profile_of("halden-silk-150").raw)
    for name, file in (("Office documents", "office.json"), ("Refuse anything untagged", "strict.json")):
        run("policy", "ready", name, "--out", tmp_path / file)
    return write_document(next(each for each in DOCUMENTS if each.file_name == "Stall prices.pdf"), tmp_path)


def test_a_document_from_policy_to_plates(job, tmp_path):
    assert "2  RGB · text and line art · solids: clean solids" in run("policy", "check", tmp_path / "office.json")
    press = ("--profile", tmp_path / "silk.icc", "--total-ink", 320)
    said = run(
        "pdf", "apply", job, "--policy", tmp_path / "office.json", *press, "--out", tmp_path / "out.pdf", "--report",
        tmp_path / "report.html",
    )  # fmt: skip
    assert "1 pages" in said and "clean solids" in said
    assert "<b>Sent on.</b>" in (tmp_path / "report.html").read_text()
    with pikepdf.open(tmp_path / "out.pdf") as written:
        content = written.pages[0].Contents.read_bytes()
        assert b"0 1 1 0 k" in content and b" rg" not in content
        metadata = written.Root.Metadata.read_bytes()
        assert b"Office documents" in metadata and b"clean solids" in metadata
    run(
        "pdf", "proof", job, "--policy", tmp_path / "office.json", *press, "--ppi", 50, "--out", tmp_path / "page.png"
    )
    with Image.open(tmp_path / "page.png") as page:
        assert page.size == (414, 585) and page.info["icc_profile"]
    told = json.loads(run("pdf", "plates", tmp_path / "out.pdf", "--ppi", 50, "--out", tmp_path / "plates", "--json"))
    assert told["largest total %"] <= 320 and told["mean %"].keys() == {"Cyan", "Magenta", "Yellow", "Black"}
    planes = sorted((tmp_path / "plates").glob("*.tif"))
    black = tifffile.imread(planes[3])
    assert [each.name for each in planes][3] == "4 Black.tif" and black.shape == (585, 414)
    assert np.isclose(black.mean() / 2.55, told["mean %"]["Black"], atol=0.01)
    both = ("--policy", tmp_path / "office.json", "--policy", tmp_path / "strict.json")
    compared = json.loads(run("pdf", "compare", job, *both, *press, "--json"))
    assert compared["refused"] == [False, True] and compared["differing"]


def test_a_refused_document_is_not_written_and_says_so(job, tmp_path):
    press = ("--profile", tmp_path / "silk.icc")
    strict = ("--policy", tmp_path / "strict.json", *press, "--out")
    assert "Refused, nothing was written" in run("pdf", "apply", job, *strict, tmp_path / "out.pdf", ends=3)
    assert not (tmp_path / "out.pdf").exists()
    with pytest.raises(PolicyError, match="is the document itself"):
        run("pdf", "apply", job, *strict, job)
    with pytest.raises(PolicyError, match="Choose one"):
        run("pdf", "apply", job, "--policy", tmp_path / "office.json", "--out", tmp_path / "out.pdf")
    (tmp_path / "bad.json").write_text('{"name": "x", "rows": [{"catches": {}, "does": {"kind": "dance"}}]}')
    with pytest.raises(PolicyError, match="rows › 1"):
        run("policy", "check", tmp_path / "bad.json")


def test_policies_are_compared_and_made_of_house_rules(job, tmp_path):
    assert "They do the same." in run("policy", "compare", tmp_path / "office.json", tmp_path / "office.json")
    assert "profiles_count" in run("policy", "compare", tmp_path / "office.json", tmp_path / "strict.json")
    rules = HouseRules("Textile", rgb="opRGB", untagged="assume", differing="convert")
    (tmp_path / "house.json").write_text(json.dumps(rules_to_file(rules, {})))
    run("policy", "from-rules", tmp_path / "house.json", "--out", tmp_path / "made.json")
    said = run("policy", "check", tmp_path / "made.json")
    assert "Textile, for documents, into opRGB" in said and "RGB without a profile: opRGB" in said
    run("pdf", "apply", job, "--policy", tmp_path / "made.json", "--out", tmp_path / "out.pdf")


def test_a_printer_set_wrong_is_found_out_from_its_strip(tmp_path):
    """The shop's press, printed without a conversion and measured with noise, read from the file alone."""
    from plinto_core.colorimetry.lab import lab_to_xyz
    from plinto_core.measurement.cgats import read_chart
    from plinto_core.measurement.measurements import Measurements
    from plinto_core.policy.check_strip import hypotheses

    press = profile_of("halden-silk-150")
    (tmp_path / "silk.icc").write_bytes(press.raw)
    (tmp_path / "ticket.json").write_text('{"converts": ["application", "driver"]}')
    assert "converted more than once" in run("ticket", "check", tmp_path / "ticket.json", ends=3)
    strip, page = tmp_path / "strip.txt", tmp_path / "strip.pdf"
    run("ticket", "strip", "--profile", tmp_path / "silk.icc", "--out", strip, "--pdf", page)
    with pikepdf.open(page) as printed:
        assert printed.pages[0].Contents.read_bytes().count(b" rg") > 24
    device, letters = read_chart(strip.read_bytes(), "strip.txt")
    noise = np.random.default_rng(1).normal(0, 0.4, (len(device), 3))
    for name, ends in (("never", 3), ("twice", 3), ("once", 0)):
        lab = next(each.lab for each in hypotheses(press, (), 1 - device) if each.name == name)
        made = Measurements(letters, device, lab_to_xyz(lab + noise))
        (tmp_path / "read.txt").write_text(made.to_cgats())
        told = json.loads(
            run("ticket", "read", tmp_path / "read.txt", "--profile", tmp_path / "silk.icc", "--json", ends=ends)
        )
        assert told["cause"] == name and told["ranked"][0]["mean ΔE00"] < 1
