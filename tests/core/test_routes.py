"""Color lists and routes: every step against LittleCMS and closed forms, links and looks on the way, proofing systems."""

import io

import imagecodecs
import numpy as np
import pytest

from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import lab_to_xyz
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM
from plinto_core.errors import CharacterizationError, IccError, PaletteError, PipelineError
from plinto_core.icc import cmm
from plinto_core.icc.named_colors import read_named_colors
from plinto_core.icc.profile import Header, Profile, parse, write
from plinto_core.icc.standard import gray_profile, rgb_profile
from plinto_core.icc.values import CurveLut, Description, ParametricCurve, Text, Xyz
from plinto_core.measurement.measurements import Measurements
from plinto_core.pipeline.space import space_of
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import AdjustStation, InkStation, Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.curve import ToneCurve
from plinto_core.recipe.limits import InkLimits
from plinto_core.route.color_list import LAB, ColorList, grid_of, pasted_list, read_list
from plinto_core.route.list_out import written_list
from plinto_core.route.proof_report import proof_html
from plinto_core.route.proofing import ProofTolerances, judged, judged_by_measurement, proofed_colors
from plinto_core.route.route import Waypoint, adjusted, apart, told, travel, waypoint_of
from plinto_core.route.sampled import sampled, sampled_at
from plinto_core.route.separated import OwnSeparation
from plinto_core.route.spectral import seen_under, under_light
from plinto_core.route.written import TableForm, route_link, route_look
from plinto_demo.inks import BLUE, CYAN, MAGENTA, ORANGE
from tests.conftest import profile_of, shop_condition

SRGB = rgb_profile("sRGB")


def some(channels, count=40):
    values = np.random.default_rng(2).random((count, len(channels)))
    return ColorList(tuple(f"P{at}" for at in range(count)), channels, values)


@pytest.mark.parametrize(
    ("intent", "bpc"), [("relative", False), ("relative", True), ("absolute", False), ("perceptual", False)]
)
def test_every_step_is_what_littlecms_makes_of_it(intent, bpc):
    """Pixels of 16 bit through imagecodecs' own transform, step after step."""
    press, colors = profile_of("halden-silk-150"), some(("R", "G", "B"))
    stations = travel(colors, (Waypoint(SRGB), Waypoint(press, intent, bpc), Waypoint(rgb_profile("opRGB"))))
    assert [station.channels for station in stations] == [("R", "G", "B"), ("C", "M", "Y", "K"), ("R", "G", "B")]
    codes = np.rint(colors.values * 65535).astype(np.uint16)[None]
    flags = imagecodecs.CMS.FLAGS.NOOPTIMIZE | (imagecodecs.CMS.FLAGS.BLACKPOINTCOMPENSATION if bpc else 0)
    inks = imagecodecs.cms_transform(
        codes, SRGB.raw, press.raw, colorspace="rgb", outcolorspace="cmyk", flags=flags,
        intent={"perceptual": 0, "relative": 1, "absolute": 3}[intent],
    )  # fmt: skip
    assert np.abs(stations[1].values - inks[0] / 65535).max() < 2e-4
    lab = cmm.to_lab(press, stations[1].values, "absolute" if intent == "absolute" else "relative")
    assert np.allclose(stations[1].lab, lab)
    back = cmm.convert(press, rgb_profile("opRGB"), stations[1].values, "relative")
    assert np.allclose(stations[2].values, back)


def test_differences_are_told_between_any_two_steps_and_what_is_out_is_marked():
    press = profile_of("cotton-54t")
    colors = ColorList(("gray", "blue"), ("L*", "a*", "b*"), np.array([[60.0, 0.0, 0.0], [32.0, 79.0, -108.0]]))
    stations = travel(colors, (waypoint_of("relative", press), waypoint_of("absolute+bpc", SRGB)))
    found = apart(stations)
    assert [(each.first, each.second) for each in found] == [
        ("as given", press.name), ("as given", SRGB.name), (press.name, SRGB.name)
    ]  # fmt: skip
    off = delta_e_2000(stations[0].lab, stations[1].lab)
    assert (
        found[0].largest == pytest.approx(off.max())
        and found[0].worst == 1
        and found[0].mean == pytest.approx(off.mean())
    )
    plain = told(colors, stations)
    assert plain["steps"][1]["out_of_gamut"] == [False, True] and plain["between"][0]["worst"] == "blue"
    assert plain["steps"][0]["lch"][1][1] == pytest.approx(np.hypot(79, 108), abs=0.01)


def test_links_and_looks_stand_on_the_way(condition):
    """A device link gives numbers that the next profile explains; an abstract profile turns Lab into Lab."""
    press = condition("halden-silk-150")
    chain = compile_recipe(Recipe(), press, SRGB)
    link = chain.baked.to_profile("Line", SRGB, press.profile)
    colors = some(("R", "G", "B"), 30)
    stations = travel(colors, (Waypoint(link), Waypoint(press.profile)))
    exact = press.model.lab(chain.inks(colors.values))
    assert stations[1].channels == ("C", "M", "Y", "K") and np.isnan(stations[0].lab).all()
    assert delta_e_2000(stations[2].lab, exact).mean() < 0.5
    assert told(colors, stations)["steps"][0]["lab"][0] is None


def test_an_abstract_profile_changes_lab_on_the_way():
    """One that turns chroma down to the half, made here: between two devices it does what it says to each color."""
    corner = np.stack(np.meshgrid(*[np.linspace(0, 1, 5)] * 3, indexing="ij"), axis=-1)
    gray = np.array([0.5, 128 / 255, 128 / 255])
    grid = np.concatenate([corner[..., :1], gray[1:] + (corner[..., 1:] - gray[1:]) / 2], axis=-1)
    straight = ParametricCurve(0, (1.0,))
    look = write(
        Profile(
            Header("abst", "Lab ", "Lab "),
            {
                "desc": Description({"enUS": "Half"}), "cprt": Text("Made by a test."),
                "wtpt": Xyz(np.array([[0.9642, 1.0, 0.8249]])),
                "A2B0": CurveLut(True, (straight,) * 3, grid=grid, a_curves=(straight,) * 3),
            },
        )
    )  # fmt: skip
    colors = some(("R", "G", "B"))
    stations = travel(colors, (Waypoint(SRGB), Waypoint(look), Waypoint(rgb_profile("ROMM"))))
    assert np.abs(stations[1].lab - stations[0].lab * [1, 0.5, 0.5]).max() < 0.1
    assert stations[1].channels == ("L*", "a*", "b*") and delta_e_2000(stations[2].lab, stations[1].lab).max() < 0.1


def test_lists_come_as_cgats_as_tables_and_as_typed_lines():
    cgats = b"CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID SAMPLE_NAME CMYK_C CMYK_M CMYK_Y CMYK_K\nEND_DATA_FORMAT\n" \
            b"NUMBER_OF_SETS 2\nBEGIN_DATA\n1 \"Lake green\" 90 18 74 22\n2 Rust 10 70 90 5\nEND_DATA\n"  # fmt: skip
    found = read_list(cgats, "list.txt")
    assert found.names == ("Lake green", "Rust") and found.channels == ("C", "M", "Y", "K")
    assert np.allclose(found.values[0], [0.9, 0.18, 0.74, 0.22])
    table = b"NAME;LAB_L;LAB_A;LAB_B\nMoss;50;-20,5;30\nSky;70;-5;-30\n"
    found = read_list(table, "list.csv")
    assert found.is_lab and found.names == ("Moss", "Sky") and found.values[0, 1] == -20.5
    found = read_list(b"Moss 50 -20.5 30\n70, -5, -30\n", "typed.txt")
    assert found.is_lab and found.names == ("Moss", "70 -5 -30") and found.values[1].tolist() == [70, -5, -30]
    found = read_list(b"Lantern #ff8000\n#000080\n", "typed.txt")
    assert found.channels == ("R", "G", "B") and found.values[0].tolist() == [1, 128 / 255, 0]
    assert grid_of(("C", "M"), 3).values.shape == (9, 2)


def test_what_does_not_fit_is_refused_with_the_way_out():
    press = profile_of("halden-silk-150")
    for waypoints, colors, words in (
        ((Waypoint(press),), some(("R", "G", "B")), "takes C, M, Y, K, and the colors are R, G, B"),
        ((), some(("R", "G", "B")), "one profile at least"),
    ):
        with pytest.raises(PipelineError, match=words):
            travel(colors, waypoints)
    with pytest.raises(PipelineError, match="is no intent; choose"):
        waypoint_of("vivid", press)
    with pytest.raises(PipelineError, match="1 to 100,000"):
        ColorList((), ("R", "G", "B"), np.zeros((0, 3)))
    with pytest.raises(PipelineError, match="grid of 30 steps"):
        grid_of(("C", "M", "Y", "K"), 30)


def test_a_proofing_printer_is_judged_by_the_press_that_it_stands_for():
    """Newsprint is proofed by a good offset press within its gamut; the other way round much is out of reach."""
    news, silk = profile_of("tern-news-45"), profile_of("halden-silk-150")
    grid = grid_of(("C", "M", "Y", "K"), 9)
    good, bad = (judged(one, other, grid) for one, other in ((news, silk), (silk, news)))
    assert good.colors == 6561 and good.mean < 1.5 and good.apart["paper"] < 1
    assert bad.mean > 5 and bad.apart["solid C"] > 5 and bad.worst[0].delta_e == bad.largest
    assert good.held is True and good.verdict == "Within the tolerances."
    broken = {check.tolerance for check in bad.checks if check.held is False}
    assert {"paper", "solids", "mean", "p95"} <= broken and bad.held is False and "paper" in bad.verdict
    # Tighter ones of a house; what no color tells of is not called held.
    tight = judged(news, silk, grid, ProofTolerances(mean=0.01))
    assert [check.tolerance for check in tight.checks if not check.held] == ["mean"]
    assert judged(news, silk, grid_of(("C", "M", "Y", "K"), 2)).held is None, "no grays among solids"


def test_each_requirement_of_a_proof_is_of_its_own_colors(condition):
    """A measured proof, off by known amounts: paper, a solid's hue, grays, each told by its own figure alone."""
    press = condition("halden-silk-150")
    device = np.vstack(
        [
            np.zeros((1, 4)),
            np.eye(4),
            [[0.5, 0.38, 0.38, 0]],
            np.random.default_rng(3).random((60, 4)),
            [[1, 0.4, 0, 0]],
        ]
    )
    lab = cmm.to_lab(press.profile, device, "absolute")

    def proof(row, shift):
        moved = lab.copy()
        moved[row] += shift
        return judged_by_measurement(
            press.profile, Measurements(("C", "M", "Y", "K"), device, lab_to_xyz(moved), None)
        )

    def figures(found):
        return {check.tolerance: check.figure for check in found.checks}

    right = proof(0, (0, 0, 0))
    assert right.held is True and max(figures(right).values()) < 1e-3
    # Paper four L* darker: ΔE00 after CIE 142 with S_L at that lightness.
    off = figures(proof(0, (-4, 0, 0)))
    assert off["paper"] > 2 and off["solids"] < 1e-3 and off["grays_largest"] < 1e-3
    # Magenta turned by six degrees: ΔH* = 2 C* sin 3°, and no lightness.
    chroma, angle = np.hypot(*lab[2, 1:]), np.radians(6)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    off = figures(proof(2, (0, *(turn @ lab[2, 1:] - lab[2, 1:]))))
    assert abs(off["solids_hue"] - 2 * chroma * np.sin(angle / 2)) < 0.01 and off["paper"] < 1e-3
    # Black's hue is nobody's: the standard asks it of C, M and Y.
    off = figures(proof(4, (0, 3, 0)))
    assert off["solids_hue"] < 1e-3 and off["solids"] > 2
    off = figures(proof(5, (9, 3, 4)))
    assert abs(off["grays_largest"] - 5) < 1e-3, "ΔCh has no lightness in it"
    # The outer gamut: C, M and Y themselves and what lies between two of them, none of the colors with black in them.
    off = figures(proof(-1, (8, 0, 0)))
    alone = float(delta_e_2000(lab[-1:], lab[-1:] + [8, 0, 0])[0])  # noqa: RUF005 - numbers are added
    assert abs(off["outer_mean"] - alone / 4) < 0.01 and max(off["paper"], off["solids"]) < 1e-3


def test_a_proof_shows_spot_inks_as_far_as_its_printer_reaches():
    news, silk = profile_of("tern-news-45"), profile_of("halden-silk-150")
    grid = grid_of(("C", "M", "Y", "K"), 3)
    inside = cmm.to_lab(silk, np.array([[0.1, 0.3, 0.5, 0.1]]), "absolute")
    spots = ColorList(("Sand", "Signal"), LAB, np.vstack([inside, [[60, 75, 70]]]))

    def largest(rows):
        found = judged(news, silk, grid, spots=ColorList(spots.names[:rows], LAB, spots.values[:rows]))
        return next(check for check in found.checks if check.tolerance == "spots")

    # What the printer reaches is what its own tables make of it, by LittleCMS.
    back = cmm.to_lab(silk, cmm.from_lab(silk, inside, "absolute"), "absolute")
    assert largest(1).held and abs(largest(1).figure - float(delta_e_2000(inside, back)[0])) < 0.05
    assert largest(2).held is False and largest(2).colors == 2
    assert "spots" not in {check.tolerance for check in judged(news, silk, grid).checks}
    with pytest.raises(PipelineError, match="Spot inks are colors"):
        judged(news, silk, grid, spots=grid)


def test_a_judged_proof_is_a_page_to_print():
    news, silk = profile_of("tern-news-45"), profile_of("halden-silk-150")
    page = proof_html(judged(silk, news, proofed_colors(silk, 3)), "2026-11-27")
    assert "Halden Silk 150, proofed by Tern News 45" in page and "broken" in page and "2026-11-27" in page
    assert "http" not in page and "cannot be told" in page


def test_a_route_is_written_as_a_link_and_as_a_look_and_read_by_other_hands():
    """Inks of one press into those of another, a six-ink press's look for three channels; LittleCMS reads both."""
    silk, news, sateen = (profile_of(slug) for slug in ("halden-silk-150", "tern-news-45", "sateen-reactive"))
    link = route_link((Waypoint(silk), Waypoint(news, "relative", True)))
    assert (link.profile.header.profile_class, link.profile.header.space) == ("link", "CMYK") and link.mean < 0.5
    colors = some(("C", "M", "Y", "K"), 200)
    read = cmm.by_link(link.profile, colors.values)
    exact = travel(colors, (Waypoint(silk), Waypoint(news, "relative", True)))[-1]
    assert delta_e_2000(cmm.to_lab(news, read), exact.lab).mean() < 0.5
    look = route_look((Waypoint(sateen),))
    assert look.profile.header.profile_class == "abst" and look.mean < 0.2 and look.p99 < 1.5
    lab = np.array([[50.0, 20, -30], [70, -40, 20]])
    printed = cmm.to_lab(sateen, cmm.from_lab(sateen, lab))
    assert delta_e_2000(cmm.by_abstract(look.profile, lab), printed).max() < 0.5
    with pytest.raises(PipelineError, match="from one device to another"):
        route_link((Waypoint(silk),))


def test_a_conditions_own_separation_is_a_step_as_the_bench_makes_it(condition):
    """Device values go the Bench's own way, Lab goes as the same Lab from a wide RGB would."""
    known = condition("cotton-54t")
    own = OwnSeparation(known, InkStation("rebuilt", InkLimits(220), BLACK_PRESETS["ucr"]))
    line = compile_recipe(Recipe(ink=own.ink), known, SRGB)
    colors = some(("R", "G", "B"), 300)
    stations = travel(colors, (Waypoint(SRGB), Waypoint(known.profile, "relative", True, own)))
    assert np.array_equal(stations[1].values, line.inks(colors.values)) and "own separation" in stations[1].name
    assert stations[1].values.sum(axis=1).max() <= 2.2 + 1e-9
    # Through the profile's tables it is another one.
    tables = travel(colors, (Waypoint(SRGB), Waypoint(known.profile, "relative", True)))[1]
    assert np.abs(tables.values - stations[1].values).max() > 0.05
    lab = ColorList(
        colors.names, ("L*", "a*", "b*"), np.random.default_rng(4).uniform([20, -40, -40], [90, 40, 40], (300, 3))
    )
    straight = travel(lab, (Waypoint(known.profile, "relative", True, own),))[-1]
    romm = rgb_profile("ROMM")
    device = cmm.from_lab(romm, lab.values)
    round_about = compile_recipe(Recipe(ink=own.ink), known, romm).inks(device)
    inside = ((device > 1e-4) & (device < 1 - 1e-4)).all(axis=1)
    assert inside.mean() > 0.9
    off = delta_e_2000(known.model.lab(straight.values), known.model.lab(round_about))[inside]
    assert np.percentile(off, 99) < 0.05
    with pytest.raises(PipelineError, match="nothing is separated there"):
        travel(some(("C", "M", "Y", "K")), (Waypoint(known.profile, own=own),))


@pytest.mark.parametrize("slug", ["gray", "leafprint-negative", "sateen-reactive"])
def test_grays_and_six_inks_are_separated_for_another_press(condition, slug):
    """A source without three or four channels was an error without words, and black of a gray one was its white."""
    press = condition("halden-silk-150")
    source = gray_profile() if slug == "gray" else profile_of(slug)
    own = OwnSeparation(press, InkStation("rebuilt", InkLimits(300)))
    channels = space_of(source).channels
    assert channels == {"sateen-reactive": ("C", "M", "Y", "K", "O", "B")}.get(slug, ("gray",))
    steps = np.linspace(0, 1, 40)[:, None]
    for intent, bpc in (("relative", True), ("perceptual", False)):
        start, end = travel(
            ColorList(("",) * 40, channels, np.repeat(steps, len(channels), axis=1) * min(1, 1.5 / len(channels))),
            (Waypoint(source), Waypoint(press.profile, intent, bpc, own)),
        )
        assert end.values.sum(axis=1).max() <= 3 + 1e-9
        order = np.argsort(start.lab[:, 0], kind="stable")
        assert (np.diff(end.lab[order, 0]) > -0.05).all() and np.ptp(end.lab[:, 0]) > 0.75 * np.ptp(start.lab[:, 0])
        if slug != "sateen-reactive":
            assert np.hypot(end.lab[:, 1], end.lab[:, 2]).max() < 1
    with pytest.raises(PipelineError, match="three or four"):
        own.line_from(source, "relative", True).link  # noqa: B018


def test_a_written_route_with_its_own_separation_holds_the_limit_and_keeps_black_in_other_hands(condition):
    known, press = condition("cotton-54t"), profile_of("halden-silk-150")
    own = OwnSeparation(known, InkStation("rebuilt", InkLimits(200), keep=("K",)))
    made = route_link((Waypoint(press), Waypoint(known.profile, "relative", True, own)))
    assert made.mean < 0.5
    values = np.random.default_rng(3).random((4000, 4)).astype(np.float64)
    values[:50] = 0
    values[:50, 3] = np.linspace(0, 1, 50)
    # Read by LittleCMS, and each ink rounded to eight bits by itself.
    inks = np.rint(cmm.by_link(made.profile, values) * 255)
    assert inks.sum(axis=1).max() <= 510
    assert (inks[:50, :3] == 0).all()


@pytest.mark.parametrize("version", [2, 4])
@pytest.mark.parametrize("bits", [8, 16])
def test_routes_are_written_in_either_version_and_depth_and_come_back_alike(condition, version, bits):
    """The file's own bytes say version and table; what LittleCMS reads of it is the route, white stays white."""
    silk, known = profile_of("halden-silk-150"), condition("cotton-54t")
    form = TableForm(version, bits)
    kind = {(2, 8): b"mft1", (2, 16): b"mft2"}.get((version, bits), b"mAB ")
    link = route_link((Waypoint(SRGB), Waypoint(silk, "relative", True)), form=form)
    look = route_look((Waypoint(silk),), form=form)
    for made in (link, look):
        assert made.profile.raw[8] == version and kind in made.profile.raw
        assert parse(made.profile.raw).header.profile_class == made.profile.header.profile_class
        assert made.mean < (0.5 if bits == 8 else 0.3) and made.p99 < 2
    white = cmm.by_abstract(look.profile, np.array([[100.0, 0, 0]]))
    assert delta_e_2000(white, [[100, 0, 0]]).max() < (0.5 if bits == 8 else 0.05)
    # With a separation of one's own the limit holds, however coarse the table.
    own = OwnSeparation(known, InkStation("rebuilt", InkLimits(210)))
    held = route_link(
        (Waypoint(SRGB), Waypoint(known.profile, "relative", True, own)), form=TableForm(version, bits, 17)
    )
    inks = np.rint(cmm.by_link(held.profile, np.random.default_rng(5).random((3000, 3))) * 255)
    assert inks.sum(axis=1).max() <= np.floor(2.1 * 255)


def test_lists_go_out_and_come_back_in_every_open_format():
    named = ColorList(
        ("Lantern red", "Leaf; 'wet'", "=1+1"),
        ("L*", "a*", "b*"),
        np.array([[52, 68, 40.5], [45, -42, 31], [93, 0, -3.0]]),
    )
    inks = ColorList(("a", "b"), ("C", "M", "Y", "K"), np.array([[0.1, 0.2, 0.3, 0.0], [1, 0.5, 0, 0.25]]))
    lab = cmm.to_lab(profile_of("halden-silk-150"), inks.values)
    for kind, off in (("cgats", 1e-4), ("csv", 1e-4), ("cxf", 1e-4), ("icc", 0.01)):
        back = read_list(written_list(named, None, kind, "Season"), f"season.{kind}")
        assert back.is_lab and np.abs(back.values - named.values).max() <= off
        assert [name.lstrip("'") for name in back.names] == list(named.names)
        again = read_list(written_list(inks, lab, kind, "Season"), f"inks.{kind}")
        assert again.names == inks.names
        if kind == "icc":
            assert np.abs(again.values - lab).max() <= off
            found = read_named_colors(parse(written_list(inks, lab, kind, "Season")))
            assert found.space == "CMYK" and np.abs(found.device - inks.values).max() < 1e-4
        else:
            assert again.channels == inks.channels and np.abs(again.values - inks.values).max() < 1e-5
    for kind in ("cxf", "icc"):
        with pytest.raises(PipelineError, match="put their profile before them"):
            written_list(inks, None, kind, "Season")
    # Read by other hands: the library opens it as what it is.
    from PIL import ImageCms

    opened = ImageCms.ImageCmsProfile(io.BytesIO(written_list(named, None, "icc", "Season")))
    assert opened.profile.device_class == "nmcl"


@pytest.mark.parametrize(
    ("channels", "values"),
    [
        # Codes up to 100 were percent, 2.55 times as much; CMYK without a black one was C, M, Y, which no press takes.
        (("R", "G", "B"), [[12, 30, 99], [63.73, 0, 0]]),
        (("C", "M", "Y", "K"), [[10, 100, 0, 0], [0, 5, 50, 0]]),
        # These were not read again at all.
        (("gray",), [[30], [100]]), (("K",), [[0], [55]]), (("1", "2"), [[20, 30], [0, 70]]),
        (("C", "M", "Y", "K", "O", "B"), [[10, 20, 0, 0, 30, 0], [0, 0, 0, 0, 0, 60]]),
    ],
)  # fmt: skip
@pytest.mark.parametrize("kind", ["csv", "cgats"])
def test_device_values_come_back_as_they_went_out(kind, channels, values):
    given = ColorList(("a", "b"), channels, np.array(values, float) / (255 if channels == ("R", "G", "B") else 100))
    back = read_list(written_list(given, None, kind, "x"), f"x.{kind}")
    assert np.abs(back.values - given.values).max() < 1e-6 and back.names == given.names
    assert back.channels == given.channels


@pytest.mark.parametrize(
    ("head", "row", "channels", "values"),
    [
        ("name,C,M,Y,K", "a,20,10,0,40", ("C", "M", "Y", "K"), [0.2, 0.1, 0, 0.4]),
        ("Name;Cyan %;Magenta %;Yellow %;Black %", "a;20;10,5;0;0", ("C", "M", "Y", "K"), [0.2, 0.105, 0, 0]),
        ("name\tR\tG\tB", "a\t12\t34\t56", ("R", "G", "B"), [12 / 255, 34 / 255, 56 / 255]),
        ("Red,Green,Blue", "255,0,0", ("R", "G", "B"), [1, 0, 0]),
        ("name,L,a,b", "a,50,-20,3.5", LAB, [50, -20, 3.5]),
        ("name,X,Y,Z", "a,19.28,20,16.5", LAB, [51.8, 0, 0]),
        ("name,C,M,Y,K,Orange", "a,20,10,0,40,5", ("C", "M", "Y", "K", "O"), [0.2, 0.1, 0, 0.4, 0.05]),
        ("name,gray", "a,30", ("gray",), [0.3]),
        ("No  C   M  Y  K", '"Deep red"  0  95 80   12', ("C", "M", "Y", "K"), [0, 0.95, 0.8, 0.12]),
        ("id,K", "1,30", ("K",), [0.3]),
    ],
)
def test_tables_name_channels_as_people_do(head, row, channels, values):
    """'neither BEGIN_DATA_FORMAT nor a first line that names fields' was said of each."""
    for text in (f"{head}\n{row}\n", f"\ufeff{head}\r\n{row}\r\n\r\n"):
        found = read_list(text.encode(), "table.csv")
        assert found.channels == channels
        assert np.abs(found.values - values).max() < (0.1 if found.is_lab else 1e-6)
    assert pasted_list(text).channels == channels


def test_pasted_text_says_what_is_wrong_with_it():
    assert pasted_list("Leaf #2f8f3a\nRust 52.1 38 44").is_lab
    with pytest.raises(CharacterizationError, match="Line 3 of 'the text' has 4 values for 5 fields"):
        pasted_list("Name\tC\tM\tY\tK\na\t1\t2\t3\t4\nb\t1\t2\t3\n")
    with pytest.raises(CharacterizationError, match="from 0 to 400; 0 to 100 is meant"):
        pasted_list("Name,C,M,Y,K\na,0,0,0,400\n")
    with pytest.raises(PaletteError, match="<CxF"):
        pasted_list("<CxF>\n</CxF>")


def test_broken_named_colors_are_refused():
    raw = written_list(ColorList(("a",), ("L*", "a*", "b*"), np.array([[50.0, 0, 0]])), None, "icc", "x")
    at = raw.index(b"ncl2", 132 + 12 * 4)
    many = raw[: at + 12] + (2**31).to_bytes(4, "big") + raw[at + 16 :]
    with pytest.raises(IccError, match="do not fit"):
        read_list(many, "many.icc")
    with pytest.raises(IccError, match="no named color profile"):
        read_list(rgb_profile("sRGB").raw, "rgb.icc")


def test_single_places_are_read_as_they_lie_in_the_file(photo, photo_tiff):
    artwork, places = open_artwork(photo_tiff), [(5, 3), (0, 0), (photo.shape[1] - 1, photo.shape[0] - 1), (5, 3)]
    found = sampled_at(artwork, places, ("a", "b", "last", "a again"))
    assert np.array_equal(np.rint(found.values * 65535), [photo[y, x] for x, y in places])
    assert found.names == ("a", "b", "last", "a again") and found.channels == ("R", "G", "B")
    for wrong in ([], [(photo.shape[1], 0)], [(0, -1)]):
        with pytest.raises(PipelineError, match="place"):
            sampled_at(artwork, wrong, [""] * len(wrong))


def test_a_grid_of_samples_is_the_mean_of_each_field(photo, photo_tiff):
    artwork = open_artwork(photo_tiff)
    found, middles = sampled(artwork, (13, 7, 200, 101), 7, 5)
    whole = float(np.iinfo(photo.dtype).max)
    columns, rows = 13 + np.linspace(0, 200, 8).astype(int), 7 + np.linspace(0, 101, 6).astype(int)
    for at, (x, y) in enumerate(middles):
        j, i = at // 7, at % 7
        part = photo[rows[j] : rows[j + 1], columns[i] : columns[i + 1]].reshape(-1, 3)
        assert found.values[at] == pytest.approx(part.mean(axis=0) / whole)
        assert columns[i] <= x < columns[i + 1] and rows[j] <= y < rows[j + 1]
    with pytest.raises(PipelineError, match="is not on"):
        sampled(artwork, (300, 0, 200, 100), 2, 2)


def test_a_match_falls_apart_under_another_light_as_the_prints_spectra_say():
    """Spots of other pigments, matched in inks: the press itself, which knows every spectrum, says by how much."""
    shop, profile = shop_condition("halden-silk-150"), profile_of("halden-silk-150")
    spots = np.stack([ink.transmittance() * 0.82 for ink in (ORANGE, BLUE, CYAN, MAGENTA)])
    fields = " ".join(f"SPECTRAL_NM{nm:.0f}" for nm in WAVELENGTHS_NM)
    rows = "\n".join(f"S{at} " + " ".join(f"{each:.6f}" for each in row) for at, row in enumerate(spots))
    text = f"CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_NAME {fields}\nEND_DATA_FORMAT\nBEGIN_DATA\n{rows}\nEND_DATA\n"
    listed = read_list(text.encode(), "spots.txt")
    assert listed.is_lab and np.abs(listed.spectra - spots).max() < 1e-4
    stations = travel(listed, (Waypoint(profile, "absolute"),))
    true = shop.press.reflectance(stations[1].values)
    for light in ("A", "F11", "D65"):
        told_off = delta_e_2000(*under_light(light, *stations))
        of_press = delta_e_2000(*seen_under(light, spots, true))
        assert np.abs(told_off - of_press).max() < 0.25, (light, told_off, of_press)
    assert delta_e_2000(*under_light("A", *stations)).max() > 2
    # The same spectra never fall apart, whatever they differ by in lightness under D50.
    assert delta_e_2000(*seen_under("A", spots, spots * 0.9)).max() < 1e-6


def test_lights_are_compared_only_where_spectra_are_known(condition):
    colors = ColorList(("gray",), ("L*", "a*", "b*"), np.array([[60.0, 0.0, 0.0]]))
    stations = travel(colors, (Waypoint(profile_of("halden-silk-150")), Waypoint(SRGB)))
    with pytest.raises(PipelineError, match="colors without spectra"):
        under_light("A", *stations[:2])
    with pytest.raises(PipelineError, match="does not tell of spectra"):
        apart(stations, "A")
    with pytest.raises(PipelineError, match="choose D50"):
        seen_under("candle", np.ones((1, 36)), np.ones((1, 36)))


def test_an_adjustment_is_a_step_on_the_numbers_before_it_as_the_bench_makes_it(condition):
    adjustment = Adjustment(master=ToneCurve(((0.0, 0.0), (0.5, 0.6), (1.0, 1.0))), chroma_percent=20)
    press, colors = condition("cotton-54t"), some(("R", "G", "B"))
    start = Waypoint(SRGB)
    way = (start, adjusted(start, adjustment, "lifted"), Waypoint(press.profile, "relative", True))
    stations = travel(colors, way)
    recipe = Recipe(adjust=AdjustStation(adjustment), ink=InkStation(method="as-profiled"))
    assert stations[1].name == "lifted" and stations[1].channels == ("R", "G", "B")
    assert np.abs(stations[2].values - compile_recipe(recipe, press, SRGB).inks(colors.values)).max() < 1e-6
    written = route_link(way)
    assert written.p99 < 0.5, "the link of the whole route holds the adjustment too"
    lab = ColorList(("gray",), ("L*", "a*", "b*"), np.array([[60.0, 0.0, 0.0]]))
    with pytest.raises(PipelineError, match="right before it"):
        travel(lab, (adjusted(None, adjustment, "lifted"),))
    with pytest.raises(PipelineError, match="comes first"):
        travel(colors, way[1:])
    with pytest.raises(PipelineError, match="other ones come to it"):
        travel(colors, (start, Waypoint(press.profile), way[1]))


def test_a_yellow_plate_by_itself_stays_yellow_on_a_press(condition):
    """Its solid was taken for a black that is matched, and printed at L* 12."""
    press = condition("halden-silk-150")
    steps = np.linspace(0, 1, 33)[:, None]
    solid = press.model.lab(steps * [0.0, 0.0, 1.0, 0.0])
    table = CurveLut(
        True,
        (ParametricCurve(0, (1.0,)),) * 3,
        grid=TableForm().coded_lab(solid),
        a_curves=(ParametricCurve(0, (1.0,)),),
    )
    tags = {"desc": Description({"enUS": "Yellow"}), "cprt": Description({"enUS": "x"}), "A2B0": table}
    plate = write(Profile(Header("prtr", "GRAY", "Lab "), tags | {"wtpt": Xyz(np.array([[0.9642, 1.0, 0.8249]]))}))
    own = OwnSeparation(press, InkStation("rebuilt", InkLimits(300)))
    colors = ColorList(("",) * 33, ("gray",), steps)
    for intent in ("relative", "perceptual", "saturation"):
        start, end = travel(colors, (Waypoint(plate), Waypoint(press.profile, intent, True, own)))
        assert delta_e_2000(start.lab, end.lab).max() < (1.6 if intent != "saturation" else 5)
        assert end.lab[-1, 0] > 85
