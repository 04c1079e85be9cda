"""Routes as a person types them: every way of telling them, and a proofing system."""

import csv
import io
import json

import pytest

from plinto_core.errors import PipelineError, RecipeError
from plinto_core.measurement.tables import read_table
from plinto_core.recipe import AdjustStation, Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.route.color_list import read_list
from plinto_core.route.list_out import written_list
from plinto_demo.season import season_list
from tests.command.test_documents import run
from tests.conftest import profile_of


def test_a_list_goes_through_profiles_and_a_proofing_system_is_judged(tmp_path):
    silk, news = tmp_path / "silk.icc", tmp_path / "news.icc"
    silk.write_bytes(profile_of("halden-silk-150").raw)
    news.write_bytes(profile_of("tern-news-45").raw)
    colors = tmp_path / "list.txt"
    colors.write_text("Lake green #0a6b50\nRust #a24b2a\nGray #808080\n")
    through = ("route", colors, "--through", f"sRGB,{silk}:relative+bpc,{news}:absolute")
    told = json.loads(run(*through, "--json"))
    assert told["colors"] == ["Lake green", "Rust", "Gray"] and len(told["steps"]) == 3
    assert [len(each["values"][0]) for each in told["steps"]] == [3, 4, 4] and len(told["between"]) == 3
    rows = list(csv.reader(io.StringIO(run(*through, "--csv"))))
    assert len(rows) == 4 and rows[0][:4] == ["name", "0 R", "0 G", "0 B"]
    assert len(rows[0]) == len(rows[1]) == 1 + 8 + 9 + 9 and float(rows[3][7]) < 0.1, "gray has no chroma in sRGB"
    table = read_table(run(*through, "--cgats").encode(), "last.txt")
    assert table.fields[:3] == ("SAMPLE_ID", "SAMPLE_NAME", "CMYK_C") and table.rows[0][1] == "Lake green"
    assert "sRGB to Tern News 45: ΔE00 mean" in run(*through)
    report = tmp_path / "proof.html"
    judged = json.loads(run("roundtrip", news, "--through", silk, "--grid", 3, "--report", report, "--json"))
    assert judged["colors"] == 81 and judged["mean ΔE00"] < 2 and "solid K" in judged
    assert "Tern News 45, proofed by Halden Silk 150" in report.read_text()
    spots = tmp_path / "spots.txt"
    spots.write_text("Sand 70 8 20\nRust 42 30 28\n")
    asked = json.loads(run("roundtrip", news, "--through", silk, "--grid", 3, "--spots", spots, "--json"))
    assert [each["colors"] for each in asked["requirements"] if each["what"].startswith("spot inks")] == [2]
    own = tmp_path / "own.json"
    own.write_text('{"mean": 0.01}')
    assert "Not within" in run("roundtrip", news, "--through", silk, "--grid", 3, "--tolerances", own, ends=1)
    own.write_text('{"means": 2}')
    with pytest.raises(RecipeError, match="The tolerances cannot be read: nothing is called 'means'"):
        run("roundtrip", news, "--through", silk, "--tolerances", own)
    said = run("link", "--through", f"sRGB,{silk}:relative+bpc", "--out", tmp_path / "link.icc", "--points", 17)
    assert "17 points a channel; against the route ΔE00 mean" in said
    assert "Look of Tern News 45" in run(
        "abstract", "--through", news, "--out", tmp_path / "look.icc", "--points", 17
    )
    looked = json.loads(run("route", colors, "--through", f"sRGB,{tmp_path / 'look.icc'},{silk}", "--json"))
    assert [len(each["values"][0]) for each in looked["steps"]] == [3, 3, 4]
    (tmp_path / "tight.json").write_text('{"ink": {"method": "rebuilt", "limits": {"total_percent": 200}}}')
    own = ("--through", f"sRGB,{silk}:relative+bpc+own")
    tight = json.loads(run("route", colors, *own, "--ink-of", tmp_path / "tight.json", "--json"))
    assert max(sum(each) for each in tight["steps"][1]["values"]) <= 2 + 1e-6
    said = run("link", *own, "--total-ink", 210, "--out", tmp_path / "own.icc", "--points", 17)
    assert "17 points a channel" in said
    # A device link by itself says nothing of colors: 'nan nan nan' stood for each, and in CGATS, which nobody can read.
    only = ("route", colors, "--through", tmp_path / "own.icc")
    assert "Rust: R 162.0 G 75.0 B 42.0  →  C " in run(*only) and "nan" not in run(*only) + run(*only, "--csv")
    assert "nan" not in (written := run(*only, "--cgats")) and read_list(written.encode(), "x.txt").channels[0] == "C"
    with pytest.raises(PipelineError, match=r"there is no file 'nowhere\.icc'"):
        run("route", colors, "--through", "nowhere.icc")


def test_spots_are_seen_under_a_lamp_adjusted_on_the_way_and_known_by_a_policy(tmp_path):
    silk, season = tmp_path / "silk.icc", tmp_path / "season.cxf"
    silk.write_bytes(profile_of("halden-silk-150").raw)
    season.write_bytes(written_list(season_list(), None, "cxf", "Season"))
    under = run("route", season, "--through", f"{silk}:absolute", "--under", "A")
    assert "under A: ΔE00 mean" in under and "at Bloom blue, spot" in under
    stronger = tmp_path / "stronger.json"
    stronger.write_text(json.dumps(Recipe(adjust=AdjustStation(Adjustment(chroma_percent=20))).to_json()))
    told = json.loads(run("route", season, "--through", f"sRGB,{stronger},{silk}:relative", "--json"))
    assert [each["name"] for each in told["steps"]] == ["as given", "sRGB", "stronger", "Halden Silk 150"]
    before, after = (told["steps"][at]["lch"][6][1] for at in (1, 2))
    assert after == pytest.approx(before * 1.2, abs=0.5), "Dusk, which sRGB holds either way"
    policy, known = tmp_path / "p.json", tmp_path / "known.json"
    run("policy", "ready", "Everything into the condition", "--out", policy)
    assert "knows 12 spot inks" in run("policy", "spots", policy, season, "--out", known)
    assert "Lake green, spot; Wing gray" in run("policy", "check", known)
    assert "spots: none / Night; Petal, spot" in run("policy", "compare", policy, known)
