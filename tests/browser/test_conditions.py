"""The color lead's room through the browser: a new medium to a judged profile, build, profile, drift, light inks."""

import re
from pathlib import Path

import numpy as np
import tifffile
from playwright.sync_api import Page, expect

from plinto_core.deliver.code_limits import CodeLimits, held_within
from plinto_core.icc.profile import parse
from plinto_core.measurement.chart import correction_chart
from plinto_core.press.calibration import calibration_of
from plinto_demo.shop import measure
from tests.browser.bench_page import choose, choose_by_keys, open_artwork_named, press, settled, slide, tab_to
from tests.conftest import shop_condition

MEDIUM = "Orrin cotton paper, fine"


def _go(page: Page, room: str) -> None:
    page.get_by_role("navigation", name="Rooms").get_by_role("link", name=room).click()


def _condition(page: Page, name: str) -> None:
    _go(page, "Conditions")
    page.get_by_role("link", name=name, exact=True).click()
    expect(page.get_by_role("heading", name=name, exact=True)).to_be_visible()


def _button(page: Page, name: str) -> None:
    page.get_by_role("button", name=name, exact=True).click(timeout=90_000)


def _key(page: Page, name: str) -> None:
    button = page.get_by_role("button", name=name, exact=True)
    expect(button).to_be_enabled(timeout=90_000)
    press(page, button, most=30)


def _file(page: Page, link: str, of: str = "") -> bytes:
    """What a link gives; `of` names the run that it belongs to, where the demo has others."""
    place = page.locator(".run", has_text=of) if of else page
    with page.expect_download() as coming:
        place.get_by_role("link", name=link).last.click(timeout=60_000)
    return Path(coming.value.path()).read_bytes()


def test_from_a_new_medium_to_a_judged_profile(page: Page) -> None:
    _go(page, "Conditions")
    # The medium itself, with its cost.
    _button(page, "Add a medium")
    page.get_by_label("Name of the medium").fill("Orrin cotton paper 308 g/m²")
    page.get_by_label("Width in mm").fill("1118")
    page.get_by_label("Length in m").fill("15")
    page.get_by_label("Price", exact=True).fill("186")
    _button(page, "Save")
    expect(page.get_by_role("row", name="Orrin cotton paper 308").get_by_text("11.09 EUR")).to_be_visible()
    _button(page, "New characterization")
    page.get_by_label("Name: medium and mode").fill(MEDIUM)
    begin = page.get_by_role("region", name="New characterization")
    begin.get_by_role("combobox").nth(0).click()
    page.get_by_role("option", name="Ardent 44 inkjet").click()
    begin.get_by_role("combobox").nth(1).click()
    page.get_by_role("option", name="Orrin cotton paper 308").click()
    _button(page, "Begin")
    steps = page.get_by_role("list", name="Steps")
    # Light and dark inks: patches come in while they are read, the crossing is dragged.
    _button(page, "Print and measure the ramps of 7 inks")
    _button(page, "K and k")
    plot = page.get_by_role("group", name="K and its light ink over the tone of both")
    expect(page.get_by_role("img", name="141 patches")).to_be_visible()
    handle = plot.locator(".handle rect").first.bounding_box()
    assert handle
    page.mouse.move(handle["x"] + 4, handle["y"] + 4)
    page.mouse.down()
    page.mouse.move(handle["x"] - 40, handle["y"] + 4, steps=4)
    expect(plot.get_by_text(re.compile(r"dark from 2\d %"))).to_be_visible()
    page.mouse.up()
    expect(plot.get_by_text(re.compile(r"dark from 2\d %"))).to_be_visible()
    _button(page, "Go on to linearize")
    _button(page, "Print and measure a ramp of C M Y K")
    expect(page.get_by_text("Off a smooth curve, most")).to_be_visible()
    _button(page, "Go on to total ink")
    _button(page, "Print and measure the staircase")
    _button(page, "Go on to the chart")
    slide_to = page.get_by_role("slider", name="Patches")
    slide_to.focus()
    slide_to.press("Home")
    page.get_by_role("button", name=re.compile("Patches .* type a number")).click()
    page.get_by_label("Patches, exact").fill("420")
    page.get_by_label("Patches, exact").press("Enter")
    assert _file(page, "Chart to print (PDF)")[:5] == b"%PDF-"
    _button(page, "Use this chart")
    # Tomorrow: it goes on where it was left.
    _go(page, "Conditions")
    page.get_by_role("link", name=MEDIUM).click()
    expect(steps.get_by_role("listitem").filter(has_text="Measure")).to_contain_text("to do")
    # The rest of the way by keys alone: each step's button is near where the last one left the focus.
    _key(page, "Print and measure the chart")
    expect(page.get_by_role("img", name="420 patches")).to_be_visible(timeout=60_000)
    for step in ("Go on to build", "Build the profile", "Go on to judge"):
        _key(page, step)
    expect(page.get_by_text("round trip ΔE00, mean")).to_be_visible(timeout=60_000)
    _key(page, "Trust this profile")
    expect(page.get_by_text("Trusted. It is on the Bench")).to_be_visible()
    # An earlier step changes: what was printed through it is stale, and says so.
    steps.get_by_role("button", name=re.compile("Linearize")).click()
    page.get_by_role("button", name="Dot gain of 16 %").click()
    expect(steps.get_by_role("listitem").filter(has_text="Measure")).to_contain_text("stale")
    page.get_by_role("link", name="Conditions").click()
    row = page.get_by_role("row", name=re.compile(MEDIUM)).first
    expect(row).to_contain_text("C c M m Y K k")
    expect(row).to_contain_text("11.09 EUR/m²")


def test_a_variant_is_tuned_live_compared_and_built(page: Page) -> None:
    _condition(page, "Tern News 45")
    page.get_by_role("link", name="Build", exact=True).click()
    table = page.get_by_role("table", name="Now against kept")
    expect(table.get_by_role("row", name=re.compile("Gamut"))).to_contain_text("0.0 %")
    slide(page, "Total ink", 200, exact=True)
    expect(table.get_by_role("row", name=re.compile("Its inks"))).to_contain_text("−40 %")
    expect(table.get_by_role("row", name=re.compile("Gamut"))).to_contain_text("−")
    page.get_by_label("Name of the profile").fill("Tern, thin")
    page.get_by_role("button", name="17", exact=True).click()
    _button(page, "Build this profile")
    expect(page.locator(".run[data-state=done]")).to_contain_text("Tern, thin.icc", timeout=60_000)
    _condition(page, "Tern, thin")
    expect(page.get_by_text("most ink in its tables").locator("..")).to_contain_text("200 %", timeout=60_000)


def test_a_profile_is_looked_into_beside_another_and_gets_a_tag_of_it_by_keys_alone(page: Page) -> None:
    press(page, page.get_by_role("link", name=re.compile("^Conditions")))
    press(page, page.get_by_role("link", name="Halden Silk 150", exact=True))
    press(page, page.get_by_role("link", name="Profile", exact=True))
    choose_by_keys(page, "Profile to compare with", "Murrow Offset 120")
    tags = page.get_by_role("table", name="Header and tags")
    expect(tags.get_by_role("row", name=re.compile("^version"))).to_contain_text("2.4")
    press(page, tags.get_by_role("row", name=re.compile("^B2A0")).get_by_role("checkbox"), "Space")
    tab_to(page, page.get_by_label("New name"))
    page.keyboard.press("Control+a")
    page.keyboard.type("Silk with another look")
    tab_to(page, page.get_by_role("link", name="Write a new file with B2A0 taken over"))
    with page.expect_download() as download:
        page.keyboard.press("Enter")
    made = parse(Path(download.value.path()).read_bytes())
    assert made.name == "Silk with another look"
    press(page, page.get_by_role("button", name="B2A1", exact=True), most=120)
    planes = page.locator(".plane img")
    expect(planes).to_have_count(2)
    assert planes.first.evaluate("image => image.decode().then(() => image.naturalWidth)") == 33 * 4
    assert len(page.get_by_role("group", name=re.compile("B curves")).all()) == 1
    expect(page.get_by_role("row", name=re.compile("^50 0 0"))).to_be_visible()


def test_figures_typed_one_after_the_other_are_all_kept(page: Page) -> None:
    """Who typed faster than the first was saved met a conflict with themselves, and lost all but the last."""
    _go(page, "Conditions")
    page.get_by_role("link", name="Murrow Offset 120").first.click()
    page.get_by_role("button", name="Mode of the printer").click()
    for label, typed in (
        ("Feed, %", "99,5"),
        ("Heat, °C", "182"),
        ("Carriage height, mm", "2.1"),
        ("Resolution", "2,400"),
    ):
        page.get_by_label(label, exact=True).fill(typed)
        page.keyboard.press("Tab")
    page.get_by_role("button", name="Hide the mode").click()
    expect(page.get_by_role("button", name=re.compile("^Mode:"))).to_have_text(
        "Mode: 2,400, feed 99.5 %, heat 182 °C, carriage 2.1 mm"
    )
    expect(page.get_by_role("alert")).to_have_count(0)


def test_drift_warns_on_the_bench_until_a_strip_is_within(page: Page) -> None:
    open_artwork_named(page, "Night moth.tif")
    bench = page.url
    page.goto(re.sub(r"/[^/?]+(\?.*)?$", "/tern-news-45", bench))
    settled(page)
    warning = page.get_by_text("Tern News 45 is out of tolerance since its last strip")
    expect(warning).to_be_visible()
    page.get_by_role("link", name="See its drift").click()
    expect(page.get_by_text("Out of tolerance:")).to_be_visible()
    rows = page.get_by_role("row")
    before = rows.count()
    _button(page, "Print and measure a strip")
    expect(rows).to_have_count(before + 1)
    expect(rows.nth(1)).to_contain_text("within")
    expect(page.get_by_text("Out of tolerance:")).not_to_be_visible()


def test_judging_shows_artwork_before_and_after_and_prints_a_report(page: Page) -> None:
    _condition(page, "Sateen Reactive")
    expect(page.get_by_text("round trip ΔE00, mean")).to_be_visible(timeout=60_000)
    choose(page, "Artwork to proof", "Night moth.tif")
    for words in ("as it is", "as Sateen Reactive prints it, on its substrate"):
        shown = page.get_by_role("img", name=f"Night moth.tif {words}")
        expect(shown).to_be_visible()
        page.wait_for_function(
            "c => [...c.getContext('2d').getImageData(0, 0, c.width, c.height).data].some((v, i) => i % 4 < 3 && v > 60)",
            arg=shown.element_handle(), timeout=60_000,
        )  # fmt: skip
    with page.context.expect_page() as coming:
        page.get_by_role("link", name="Report to print").click()
    report = coming.value
    expect(report.get_by_role("heading", name="Sateen Reactive")).to_be_visible(timeout=60_000)
    expect(report.locator("img")).to_have_count(2)


def test_a_backlit_separation_is_delivered_in_the_printers_seven_inks(page: Page, tmp_path: Path) -> None:
    open_artwork_named(page, "Lantern row.png")
    page.goto(re.sub(r"/[^/?]+(\?.*)?$", "/lumen-panel", page.url))
    settled(page)
    origin = page.evaluate("location.origin")
    profile = page.request.get(f"{origin}/api/conditions/lumen-panel/profile").body()
    behind = calibration_of(parse(profile))
    assert behind is not None
    page.keyboard.press("6")
    page.get_by_role("button", name="C c M m Y K k").click()
    _button(page, "Separate and write")
    seven = tmp_path / "seven.tif"
    seven.write_bytes(_file(page, "Download TIFF", "Lumen Panel"))
    with tifffile.TiffFile(seven) as tiff:
        assert tiff.pages[0].shape[-1] == 7 and tiff.pages[0].tags["InkNames"].value.startswith(
            "Cyan\0Light cyan\0Magenta"
        )
        inks = tiff.pages[0].asarray()[::40, ::40]
    page.get_by_role("button", name="C M Y K", exact=True).click()
    _button(page, "Separate and write")
    page.wait_for_timeout(1500)
    four = tmp_path / "four.tif"
    expect(page.locator(".run[data-state=done]", has_text="Lumen Panel")).to_have_count(2, timeout=60_000)
    four.write_bytes(_file(page, "Download TIFF", "Lumen Panel"))
    separation = tifffile.imread(four)[::40, ::40]
    # Light and dark inks together hold the limit that the separation was made for.
    printed = np.asarray(behind.apply_codes(separation), separation.dtype)
    assert np.array_equal(inks, held_within(printed, CodeLimits.of(np.ones(7), 3.4, 8)))
    assert inks.sum(axis=-1, dtype=int).max() <= 3.4 * 255


def test_a_suppliers_numbers_become_a_condition_marked_as_such(page: Page) -> None:
    _go(page, "Conditions")
    page.get_by_role("link", name="From a supplier's numbers").click()
    page.get_by_label("Name", exact=True).fill("Velder tote, supplier")
    # A table copied from a data sheet: paper, four solids, with their gains.
    table = "92\t0\t3\n55\t-36\t-45\t22\n50\t70\t-4\t22\n88\t-6\t86\t20\n22\t0\t1\t25"
    page.get_by_label("L* of paper").focus()
    page.evaluate(
        """text => { const data = new DataTransfer(); data.setData('text', text);
        const paste = new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true});
        document.activeElement.dispatchEvent(paste); }""",
        table,
    )
    expect(page.get_by_label("b* of Y", exact=True)).to_have_value("86")
    expect(page.get_by_label("Gain of K, percent points")).to_have_value("25")
    # A supplier's tone curve in the place of one figure.
    page.get_by_label("Gain of K, percent points").fill("25:45 50:74 75:92")
    overprints = page.get_by_role("table", name="Overprints")
    expect(overprints.get_by_role("row")).to_have_count(6)
    _button(page, "Add an overprint")
    page.get_by_label("Inks of line 5").fill("C+M")
    for axis, value in (("L*", "28"), ("a*", "18"), ("b*", "-44")):
        page.get_by_label(f"{axis} of C+M").fill(value)
    expect(overprints.get_by_role("row", name=re.compile(r"C\+M.*given"))).to_be_visible()
    _button(page, "Make the condition")
    page.get_by_role("link", name="See it").click(timeout=90_000)
    expect(page.get_by_text("From numbers.", exact=True)).to_be_visible()
    expect(page.get_by_text("Predicted, for nobody gave them")).to_be_visible()
    with page.expect_download() as coming:
        page.get_by_role("link", name="Patches to print (CGATS)").click()
    assert "NUMBER_OF_SETS 24" in Path(coming.value.path()).read_text()
    page.get_by_label("Measured patches").set_input_files(
        {"name": "strip.txt", "mimeType": "text/plain", "buffer": _tote_patches()}
    )
    expect(page.get_by_role("link", name="see it")).to_be_visible(timeout=90_000)


def _tote_patches() -> bytes:
    """The cotton press's own patches, as somebody would measure them."""
    return measure(shop_condition("cotton-54t"), correction_chart(("C", "M", "Y", "K")), seed=4).to_cgats().encode()
