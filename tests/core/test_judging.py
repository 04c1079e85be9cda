"""Palette, hardest hit, what a display cannot show, and house rules."""

import json

import numpy as np
import pytest

from plinto_core.adjust.adjustment import move_lab
from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.histogram import histogram
from plinto_core.analysis.hits import worst_color_clusters
from plinto_core.analysis.palette import check_palette, parse_palette
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry import delta_e_2000
from plinto_core.errors import PaletteError, RecipeError
from plinto_core.house_rules import HouseRules, decide, house_profile, rules_from_file, rules_to_file
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.standard import gray_as_rgb, gray_profile, rgb_profile
from plinto_core.icc.values import Description
from plinto_core.raster.opened import open_artwork
from plinto_core.raster.pyramid import Pyramid, build_pyramid
from plinto_core.recipe import InkStation, Recipe
from plinto_core.recipe.adjustment import Adjustment, HueMove
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.screen.proof import ColorFamily, HueRange, Renderer, RenderRequest, display_gap_share
from tests.conftest import profile_of

SRGB = rgb_profile("sRGB")


@pytest.fixture(scope="module")
def line(condition):
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(230), BLACK_PRESETS["gcr"]))
    return compile_recipe(recipe, condition("cotton-54t"), rgb_profile("opRGB"))


@pytest.fixture
def levels(photo_tiff, tmp_path):
    build_pyramid(open_artwork(photo_tiff), tmp_path / "levels")
    return Pyramid(tmp_path / "levels")


def test_palettes_are_read_as_people_write_them():
    text = (
        "Leaf #2f8f3a\nRust, 52.1 38 -44\n\nNight: 20,1; 4,0; -38,5\n#FF00FF #000000\nL*a*b* 50 −10 3\nlab(50, 1, 2)"
    )
    found = parse_palette(text)
    assert [color.name for color in found] == ["Leaf", "Rust", "Night", "#ff00ff", "#000000", "50 -10 3", "50 1 2"]
    assert found[0].lab == pytest.approx(cmm.to_lab(SRGB, np.array([0x2F, 0x8F, 0x3A]) / 255).tolist())
    assert found[1].lab == (52.1, 38, -44) and found[2].lab == (20.1, 4, -38.5)
    cgats = 'BEGIN_DATA_FORMAT\nSAMPLE_NAME LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\n"Sea green" 50 -20 5\nEND_DATA'
    assert parse_palette(cgats)[0].name == "Sea green"
    # Tables of a spreadsheet, by any coordinates (refused before: "Line 1 is no color: 'Name,L*,a*,b*'").
    for table in ("Name,L*,a*,b*\nSea green,50,-20,5\n", "Name;L*;a*;b*\r\nSea green;50,0;-20,0;5,0\r\n",
                  "Name\tL*\tC*\th\nSea green\t50\t20.6155\t165.9638\n"):  # fmt: skip
        (sea,) = parse_palette(table)
        assert sea.name == "Sea green" and sea.lab == pytest.approx((50, -20, 5), abs=1e-3)
    # What a header says of the light is heeded: Lab under D65 was taken for D50's, in lists of colors too.
    (daylight,) = parse_palette(f'ILLUMINATION_NAME "D65"\n{cgats.replace("50 -20 5", "50 60 40")}')
    assert daylight.lab == pytest.approx((50.77, 60.93, 41.57), abs=0.01)
    for bad, words in (("", "no color"), ("blue-ish", "Line 1"), ("120 0 0", "Line 1"), ("1 2", "Line 1"),
                       ("BEGIN_DATA_FORMAT\nA\nEND_DATA_FORMAT\nBEGIN_DATA\n1\nEND_DATA", "LAB_L"),
                       (cgats.replace("-20", "nan"), "Patch 1 of 'the text' has no finite number")):  # fmt: skip
        with pytest.raises(PaletteError, match=words):
            parse_palette(bad)


@pytest.mark.parametrize(
    ("line", "name", "lab"),
    [
        (
            "Leaf 52 \u201338 30",
            "Leaf",
            (52, -38, 30),
        ),  # +38 before: an en dash is what an office program makes of it
        ("Leaf\t52\t\u221238\t30", "Leaf", (52, -38, 30)),
        ("Leaf rgb(47, 143, 58)", "Leaf", (52.5, -42.7, 35.9)),  # L* 47 a* 143 b* 58 before
        ("rgb(18.43%, 56.08%, 22.75%)", "18.43 56.08 22.75", (52.5, -42.7, 35.9)),
        ("lch(52, 48, 140)", "52 48 140", (52, -36.8, 30.9)),  # L* 52 a* 48 b* 140 before
        ("LCh 52 48 140", "52 48 140", (52, -36.8, 30.9)),
        ("Leaf, #2f8f3a, 52 -38 30", "Leaf", (52, -38, 30)),
        ("Warm gray 7; 52,5; 1; 4", "Warm gray 7", (52.5, 1, 4)),
        ("L 52 a -38 b 30", "52 -38 30", (52, -38, 30)),
        ("52 -38 30 Leaf", "Leaf", (52, -38, 30)),
        ("#0f0", "#00ff00", (87.8, -79.3, 81.0)),
    ],
)
def test_what_a_typed_line_means_is_what_it_says(line, name, lab):
    (found,) = parse_palette(line)
    assert found.name == name and found.lab == pytest.approx(lab, abs=0.1)


@pytest.mark.parametrize(
    "line",
    [
        "hsl(120, 50, 40)",
        "cmyk(70, 0, 90, 0)",
        "xyz 20 30 10",
        "rgb(300, 0, 0)",
        "Leaf 10 20 30 40",
        "oklch(60 20 140)",
    ],
)
def test_numbers_of_another_space_are_not_taken_for_lab(line):
    with pytest.raises(PaletteError, match="Line 1 is no color"):
        parse_palette(line)


def test_verdicts_are_the_lines_own(line):
    rows = check_palette(line, parse_palette("gray 60 0 0\nhot 60 95 -60"), 3.0)
    assert [row.prints for row in rows] == [True, False]
    assert rows[0].delta_e < 0.5
    assert rows[1].delta_e > 10
    inks = np.array(list(rows[1].inks_percent.values())) / 100
    assert inks.sum() <= 2.3
    assert rows[1].printed_lab == pytest.approx(line.condition.model.lab(inks).tolist())


def test_families_are_what_the_print_misses(line, levels):
    found = worst_color_clusters(levels, line, 3.0)
    assert found == worst_color_clusters(levels, line, 3.0)
    means = [family.delta_e_mean for family in found]
    assert means == sorted(means, reverse=True) and means[-1] > 3
    pixels, places, _ = levels.sample(120_000)
    off = delta_e_2000(line.wanted(pixels, places), line.printed(pixels, places)) > 3
    assert sum(family.share for family in found) == pytest.approx(off.mean())
    # Shown on the picture, a family hatches colors near its own, and only those.
    scene, worst = Renderer(line, SRGB), found[0]
    plain = scene.render(RenderRequest(), pixels, places)
    marked = scene.render(
        RenderRequest(mark="family", family=ColorFamily(worst.wanted_lab, worst.radius)), pixels, places
    )
    changed = (plain != marked).any(axis=-1)
    away = np.linalg.norm(line.wanted(pixels, places) - np.array(worst.wanted_lab), axis=-1)
    assert changed.any() and away[changed].max() <= worst.radius + 0.01


def test_a_range_of_hues_is_hatched_where_a_move_of_it_would_change_the_artwork(line, levels):
    pixels, places, _ = levels.sample(120_000)
    lab = cmm.to_lab(line.source.profile, pixels / float(np.iinfo(pixels.dtype).max))
    hue, chroma = np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360, np.hypot(lab[..., 1], lab[..., 2])
    shares = np.array(histogram(levels, line)["h"])
    assert shares.sum() == pytest.approx((chroma > 5).mean(), abs=0.002)
    center = float(shares.argmax() * 5 + 2.5)
    scene, mark = Renderer(line, SRGB), RenderRequest(mark="hue", hue=HueRange(center, 40))
    changed = (scene.render(RenderRequest(), pixels, places) != scene.render(mark, pixels, places)).any(axis=-1)
    away = np.abs((hue - center + 180) % 360 - 180)
    assert changed.any() and away[changed & (chroma > 3)].max() < 21
    moved = move_lab(Adjustment(hues=(HueMove(center, 40, shift_deg=20),)), lab)
    reached = np.linalg.norm(moved - lab, axis=-1) > 2
    assert not (changed & ~reached & (chroma > 15) & (away < 10)).any()


def test_a_small_display_cannot_show_what_a_large_one_can(condition, line, photo):
    model = line.condition.model
    small, large = (display_gap_share(model, rgb_profile(name), False) for name in ("sRGB", "P3"))
    assert 0 <= large < small < 0.2
    # What is hatched is further from its nearest screen color than the tolerance; a little of an offset print is.
    offset = compile_recipe(line.recipe, condition("halden-silk-150"), line.source.profile)
    places = PixelGrid.rows(0, 240, 320, 240)
    plain, marked = (
        Renderer(offset, SRGB).render(RenderRequest(mark=mark), photo, places) for mark in ("", "display")
    )
    lab = offset.printed(photo, places).astype(np.float64)
    gap = delta_e_2000(lab, cmm.to_lab(SRGB, np.clip(cmm.from_lab(SRGB, lab), 0, 1)))
    changed = (plain != marked).any(axis=-1)
    assert 0 < changed.mean() < 0.4
    assert gap[changed].min() > 1.2 and not changed[gap < 1.2].any()


def test_the_map_of_differences_is_gray_and_full_black_reaches_black(line, photo):
    places, scene = PixelGrid.rows(0, 240, 320, 240), Renderer(line, SRGB)
    shown = scene.render(RenderRequest("difference"), photo, places).astype(int)
    off = delta_e_2000(line.wanted(photo, places), line.printed(photo, places))
    assert np.abs(shown[..., 0] - (255 - 240 * np.minimum(off / 15, 1))).max() <= 1
    depths = [
        int(scene.render(RenderRequest(black_depth=keep), photo, places).max(axis=-1).min()) for keep in (True, False)
    ]
    assert depths[0] > 40 and depths[1] < 12


RULES = HouseRules("Packaging", rgb="opRGB", cmyk="", untagged="ask", differing="convert")


@pytest.mark.parametrize(
    ("untagged", "differing", "embedded", "action"),
    [
        ("keep", "keep", None, "keep"), ("assume", "keep", None, "assume"), ("ask", "keep", None, "ask"),
        ("ask", "keep", "sRGB", "keep"), ("ask", "assume", "sRGB", "assume"), ("ask", "convert", "sRGB", "convert"),
        ("ask", "ask", "sRGB", "ask"), ("ask", "convert", "opRGB", "keep"),
    ],
)  # fmt: skip
def test_rules_decide(untagged, differing, embedded, action):
    rules = HouseRules("Packaging", untagged=untagged, differing=differing)
    profile = rgb_profile(embedded) if embedded else None
    found = decide(rules, "RGB", profile, house_profile(rules.rgb, {}))
    assert found.action == action
    assert found.log.startswith("Packaging: ")
    assert (found.asks != ()) == (action == "ask")


def test_rules_know_the_same_profile_under_another_name_and_leave_the_rest_alone():
    same = rgb_profile("opRGB")
    renamed = write(Profile(Header("mntr", "RGB ", "XYZ "), {**same.tags, "desc": Description({"enUS": "My RGB"})}))
    assert decide(RULES, "RGB", renamed, same).action == "keep"
    assert decide(RULES, "CMYK", None, None).action == "keep"
    assert decide(RULES, "Lab", rgb_profile("ROMM"), None).action == "keep"
    assert decide(RULES, "gray", gray_as_rgb(gray_profile()), SRGB).action == "keep"


def test_rules_travel_as_one_file_with_their_profiles():
    press = profile_of("halden-silk-150")
    rules = HouseRules("Offset", cmyk=press.digest, mark_color=(1, 2, 3))
    plain = json.loads(json.dumps(rules_to_file(rules, {press.digest: press})))
    again, profiles = rules_from_file(plain)
    assert again == rules and profiles[press.digest].raw == press.raw
    broken = {
        "no file of house rules": {"rules": {}},
        "name": {**plain, "rules": {**plain["rules"], "name": ""}},
        "untagged": {**plain, "rules": {**plain["rules"], "untagged": "guess"}},
        "profile inside": {**plain, "profiles": {"x": "AAAA"}},
        "not here": {**plain, "profiles": {}},
    }
    for words, given in broken.items():
        with pytest.raises(RecipeError, match=words):
            rules_from_file(given)
