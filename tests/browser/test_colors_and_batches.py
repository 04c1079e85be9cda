"""The Colors room from a typed list to a written route, and the shelf from a search to a batch."""

import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, Route, expect

from plinto_core.icc.profile import parse
from tests.browser.bench_page import canvas, open_artwork_named, settled, slide
from tests.browser.overlaps import overlapping


@pytest.fixture
def room(new_page: Page) -> Page:
    new_page.goto("/colors")
    expect(new_page.get_by_role("heading", name="Colors", exact=True)).to_be_visible()
    return new_page


def test_pins_of_the_bench_become_a_list_and_a_step_separates_by_itself(new_page: Page) -> None:
    page = new_page
    page.goto("/bench/3/murrow-offset-120?strip=pins")
    settled(page)
    picture, dropped = page.locator(".stage canvas").first, page.locator(".pins .remove")
    expect(dropped).not_to_have_count(0)
    before = dropped.count()
    for more, x in ((1, 300), (2, 400)):
        picture.hover(position={"x": x, "y": 90})
        page.wait_for_timeout(300)
        page.keyboard.press("p")
        expect(dropped).to_have_count(before + more)
    page.get_by_role("button", name="Pins as a color list").click()
    expect(page.get_by_role("heading", name="Colors", level=1)).to_be_visible()
    expect(page.locator(".color-grid tbody tr")).to_have_count(before + 2)
    page.get_by_role("button", name="Add a step").click()
    page.get_by_role("button", name="Add a step").click()
    expect(page.get_by_label("Step 2: own separation")).not_to_be_visible()
    page.get_by_label("Step 2: profile").select_option(label="Cotton 54T")
    page.get_by_label("Step 2: own separation").check()
    expect(page.locator(".color-grid thead")).to_contain_text("own separation")


def test_what_is_removed_can_be_brought_back_at_once_and_from_the_house(room: Page) -> None:
    """Every removal asked first, and was final after."""
    name = re.compile("^Season, Night Garden")
    for again in (False, True):
        room.get_by_role("button", name=name).click()
        room.get_by_role("button", name="Remove this list").click()
        told = room.get_by_role("region", name="Removed")
        expect(told).to_contain_text("Removed Season, Night Garden")
        expect(room.get_by_role("button", name=name)).not_to_be_visible()
        if not again:
            told.get_by_role("button", name="Bring it back").click()
            expect(told).not_to_contain_text("Removed")
    # Later, and by somebody else, from the house's own page.
    room.get_by_role("link", name=re.compile("^House rules")).click()
    lately = room.get_by_role("region", name="Removed lately")
    lately.get_by_role("button", name=re.compile("^Bring back Season")).click()
    expect(lately).not_to_be_visible()
    room.get_by_role("link", name=re.compile("^Colors")).click()
    room.get_by_role("button", name=name).click()
    expect(room.locator(".color-grid tbody tr")).to_have_count(12)


def test_the_seasons_list_goes_through_a_route_and_is_seen_sorted_chosen_and_written(room: Page) -> None:
    room.get_by_role("button", name=re.compile("^Press through proofer")).click()
    rows = room.locator(".color-grid tbody tr")
    expect(rows).to_have_count(12)
    room.get_by_label("To column").select_option(index=1)
    room.get_by_role("button", name="1 → 2").click()
    # The largest difference first, and newsprint cannot reach it.
    last = room.locator(".color-grid tbody td:last-child")
    expect(last.first).to_have_text(re.compile(r"^\d"))
    # Rows of the order before stay until the new one is there, and are said to be on their way out.
    expect(room.get_by_role("table", name="Colors along the route")).to_have_attribute("aria-busy", "false")
    off = [float(text) for text in last.all_inner_texts()]
    assert off == sorted(off, reverse=True) and off[0] > 10
    figures = room.get_by_role("region", name="Difference between two columns")
    expect(figures).to_contain_text(re.compile("largest: [A-Z]"))
    spread = figures.get_by_role("group", name=re.compile("^Spread of ΔE00"))
    spread.focus()
    room.keyboard.press("ArrowRight")
    expect(figures.locator("output")).to_contain_text("of the colors")
    # Under a lamp the spots, which have spectra, fall apart from their print; the other colors have none to tell by.
    late: list[Route] = []
    room.route("**/api/colors/travel", lambda route: late.append(route))  # noqa: PLW0108
    with room.expect_request("**/api/colors/travel"):
        room.get_by_label("Under the light").select_option("A")
    room.wait_for_timeout(100)
    # While that is worked out the rows stay: they fell to dots, and the columns with them.
    assert room.locator(".color-grid td.name").count() == 12
    for each in late:
        each.continue_()
    room.unroute("**/api/colors/travel")
    expect(figures).to_contain_text("8 of 12 colors came without spectra")
    expect(figures).to_contain_text("largest: Bloom blue, spot")
    room.get_by_label("Under the light").select_option("D50")
    # Chosen rows are what is shown, with arrows between the two columns.
    room.get_by_label("Choose Night", exact=True).check()
    room.get_by_label("Choose Petal, spot", exact=True).check()
    expect(room.locator(".colors-view")).to_contain_text("2 chosen, arrows 1 → 2")
    # A step passed over leaves its column out; another order of the steps is another route, kept under a name.
    room.get_by_label("Step 2: bypass").click()
    expect(room.locator(".color-grid th.group")).to_have_count(3)
    room.get_by_label("Step 2: bypass").click()
    room.get_by_label("Step 2: intent").select_option("relative")
    room.get_by_label("Name of the route").fill("Silk shown on newsprint")
    room.get_by_role("button", name="Save as a route").click()
    expect(room.get_by_role("button", name=re.compile("^Silk shown on newsprint"))).to_have_attribute(
        "aria-pressed", "true"
    )
    room.get_by_role("button", name="Write and judge").click()
    with room.expect_download() as coming:
        room.get_by_role("button", name="Write its look").click()
    assert parse(Path(coming.value.path()).read_bytes()).header.profile_class == "abst"
    room.get_by_label("Spot inks").select_option(label="Season, Night Garden")
    room.get_by_role("button", name="Judge it over a grid").click()
    out = room.get_by_label("A proofing system judged")
    expect(out).to_contain_text("ICC-absolute over 6,561 colors")
    # What the press prints is proofed well; one of the season's spots is beyond the printer.
    expect(out.get_by_role("status")).to_contain_text("Not within the tolerances: spot inks, largest")
    out.get_by_label("Allowed: spot inks, largest, ΔE00").fill("40")
    out.get_by_label("Allowed: spot inks, largest, ΔE00").press("Enter")
    expect(out.get_by_role("status")).to_contain_text("Within the tolerances.")
    # At 1024 pixels the figures beside the requirements lay over them.
    assert overlapping(room) == []
    # A house that allows less: the verdict follows, and stands in the page to print.
    out.get_by_label("Allowed: all colors, mean, ΔE00").fill("0.01")
    out.get_by_label("Allowed: all colors, mean, ΔE00").press("Enter")
    expect(out.get_by_role("status")).to_contain_text("Not within the tolerances: all colors, mean")
    with room.expect_popup() as page:
        out.get_by_role("link", name="Report to print").click()
    expect(page.value.locator("tr", has_text="all colors, mean")).to_contain_text("broken")


def test_lists_are_typed_sampled_searched_and_what_is_wrong_is_said(room: Page, tmp_path: Path) -> None:
    # Numbers of a device have colors through its profile, which nobody has to look up a second time.
    room.get_by_role("button", name="Grid of a device").click()
    room.get_by_label("Device of the grid").select_option("Murrow Offset 120")
    room.get_by_label("Steps a channel").fill("3")
    room.get_by_role("button", name="Add the grid").click()
    expect(room.get_by_role("button", name=re.compile("^Grid of 3, "))).to_contain_text("81 colors, C M Y K")
    expect(room.get_by_label("Step 1: profile or adjustment").locator("option:checked")).to_have_text(
        "Murrow Offset 120"
    )
    room.get_by_role("button", name="Remove step 1").click()
    room.get_by_role("button", name="Type or paste").click()
    room.get_by_label("Colors, one a line").fill("Leaf #2f8f3a\nthis is none")
    room.get_by_role("button", name="Add these colors").click()
    expect(room.get_by_role("alert")).to_contain_text("Line 2 is no color: 'this is none'")
    room.get_by_label("Colors, one a line").fill("Leaf #2f8f3a\nNight #101030")
    room.get_by_role("button", name="Add these colors").click()
    expect(room.get_by_role("button", name=re.compile("^Typed colors"))).to_contain_text("2 colors, R G B")
    room.get_by_role("button", name="Add a step").click()
    room.get_by_label("Search colors").fill("nig")
    expect(room.locator(".color-grid tbody tr")).to_have_count(1)
    room.get_by_role("button", name="Sample artwork").click()
    room.get_by_label("Fields across").fill("100")
    room.get_by_label("Fields down").fill("100")
    room.get_by_role("button", name="Add the samples").click()
    # Ten thousand rows: only those in view are there, and the last can be scrolled to.
    expect(room.get_by_role("table", name="Colors along the route")).to_have_attribute("aria-rowcount", "10002")
    assert room.locator(".color-grid tbody tr").count() < 120
    grid = room.locator(".color-grid")
    grid.locator("tbody").get_by_role("checkbox").first.check()
    # Halfway down it stays there: it ran on to the end by itself.
    grid.evaluate("box => box.scrollTo({top: 125_000})")
    expect(grid.locator('tr[aria-rowindex="5010"] td.name')).to_be_visible()
    assert grid.evaluate("box => box.scrollTop") == 125_000
    grid.evaluate("box => box.scrollTo({top: box.scrollHeight})")
    expect(grid.locator('tr[aria-rowindex="10002"] td.name')).to_be_visible()
    # From the first to the last: of the rows between, a hundred or two were ever loaded, and only those were chosen.
    grid.locator('tr[aria-rowindex="10002"]').get_by_role("checkbox").click(modifiers=["Shift"])
    expect(room.locator(".grid-tools")).to_contain_text("10,000 chosen")
    room.get_by_role("button", name="On the artwork").click()
    expect(room.get_by_role("img", name="Sampled places").locator("title")).to_have_text("10,000 places")
    # All at once, and none.
    every = room.get_by_label("Choose all that are listed")
    expect(every).to_be_checked()
    every.click()
    expect(room.locator(".grid-tools")).not_to_contain_text("chosen")
    every.click()
    expect(room.locator(".grid-tools")).to_contain_text("10,000 chosen")
    broken = tmp_path / "broken.cxf"
    broken.write_text("<CxF><a></CxF>")
    room.get_by_label("File of colors").set_input_files(str(broken))
    expect(room.get_by_role("alert")).to_contain_text("'broken.cxf' is no readable CxF")


def test_several_artworks_are_found_chosen_and_separated_as_a_batch(page: Page) -> None:
    page.get_by_label("Search", exact=True).fill("lantern")
    expect(page.locator(".on-shelf")).to_have_count(2)
    page.get_by_role("button", name="List", exact=True).click()
    expect(page.get_by_role("table", name="Artwork").locator("tbody tr")).to_have_count(2)
    page.get_by_role("button", name="Pictures", exact=True).click()
    page.get_by_label("Choose Lantern row.png").check()
    page.get_by_role("button", name="Reset filters").click()
    page.get_by_label("Choose Seed pouch pattern.tif").check()
    expect(page.get_by_role("toolbar", name="The chosen artworks")).to_contain_text("2 chosen")
    page.get_by_role("button", name="Separate", exact=True).click()
    panel = page.get_by_role("region", name="Separate the chosen artworks")
    panel.get_by_label("Tern News 45").check()
    panel.get_by_label("Cotton 54T").check()
    panel.get_by_label("Names of the files").fill("{condition}")
    expect(panel.get_by_role("status")).to_contain_text("4 cannot be made")
    panel.get_by_label("Names of the files").fill("{condition} {artwork}")
    expect(panel.get_by_role("status")).to_contain_text("4 files")
    panel.get_by_role("button", name="Estimate the ink").click()
    expect(panel.get_by_role("status")).to_contain_text("One copy of each separation takes", timeout=90_000)
    expect(panel.get_by_role("cell", name=re.compile(r"^\d+ %$"))).to_have_count(4)
    panel.get_by_text("Documents too").click()
    panel.get_by_role("group", name="Documents").get_by_role("checkbox").first.check()
    panel.get_by_role("group", name="Outputs").get_by_role("checkbox").first.check()
    expect(panel.get_by_role("status")).to_contain_text("5 files")
    panel.get_by_label("Name of the batch").fill("Two by two")
    panel.get_by_role("button", name="Make 5 files").click()
    line = page.get_by_role("region", name="Batch Two by two")
    expect(line).to_contain_text("5 done", timeout=90_000)
    # Told of together, not file by file.
    told = page.get_by_role("region", name="Finished")
    expect(told).to_contain_text("of batches and watched folders written")
    expect(told.get_by_role("status").locator("p")).to_have_count(1)
    with page.expect_download() as coming:
        line.get_by_role("link", name="Download all as ZIP").click()
    names = zipfile.ZipFile(io.BytesIO(Path(coming.value.path()).read_bytes())).namelist()
    assert "Tern News 45 Lantern row.tif" in names and len(names) == 10
    line.get_by_role("button", name="Two by two").click()
    expect(line.get_by_role("row")).to_have_count(6)
    page.get_by_label("Search runs").fill("cotton seed pouch")
    expect(page.locator(".run")).to_have_count(1)


def test_what_is_dropped_in_any_room_is_seen_coming_in(page: Page) -> None:
    page.goto("/runs")
    page.get_by_role("heading", name="Runs").wait_for()
    given = page.evaluate_handle(
        "() => { const t = new DataTransfer(); t.items.add(new File(['no picture'], 'letter.tif')); return t; }"
    )
    page.dispatch_event("main", "drop", {"dataTransfer": given})
    coming = page.get_by_role("list", name="Files on their way in")
    expect(coming.get_by_role("alert")).to_contain_text("letter.tif")
    coming.get_by_role("button", name="Dismiss").click()
    expect(coming).to_have_count(0)


def _changed(page: Page, before: np.ndarray, least: float = 0.02) -> float:
    """Share of the picture that is another one, once it is; the last share that was seen after twenty seconds."""
    for _ in range(40):
        settled(page)
        share = float((np.abs(canvas(page) - before).max(axis=-1) > 8).mean())
        if share > least:
            break
    return share


def test_a_hue_is_pointed_at_and_moved_on_the_ring(page: Page) -> None:
    open_artwork_named(page, "Night moth.tif")
    page.keyboard.press("2")
    settled(page)
    before = canvas(page)
    page.get_by_role("button", name="Point at the picture").click()
    stage = page.locator(".stage canvas").bounding_box()
    assert stage
    red, green, blue = (before[..., channel] for channel in range(3))
    magenta = red + blue - 2 * green
    down, across = np.argwhere(magenta > np.percentile(magenta, 99))[500]
    page.mouse.click(stage["x"] + int(across), stage["y"] + int(down))
    middle = page.get_by_role("slider", name="Range 1, middle")
    expect(middle).to_be_visible()
    pointed = int(middle.get_attribute("aria-valuenow") or "0")
    assert pointed > 320 or pointed < 20, "the magenta flower"
    # What the pointer finds out of reach was said in the middle of the panel, which fell back by 73 pixels under a hand
    # on its way there from the picture: on a busy machine the press fell beside the button.
    hatch = page.get_by_role("button", name="Hatch what it reaches")
    resting = hatch.bounding_box()
    page.mouse.move(stage["x"] + int(across), stage["y"] + int(down) + 1)
    expect(page.locator(".panel")).to_contain_text("At the pointer: wanted")
    assert hatch.bounding_box() == resting
    hatch.click()
    expect(page.get_by_role("button", name="Hide what it reaches")).to_be_visible()
    assert 0.02 < _changed(page, before) < 0.5
    page.get_by_role("button", name="Hide what it reaches").click()
    settled(page)
    slide(page, "Turn", 40)
    assert _changed(page, before) > 0.02
    middle.focus()
    page.keyboard.press("Shift+ArrowUp")
    expect(middle).to_have_attribute("aria-valuenow", str((pointed + 10) % 360))
    page.get_by_role("button", name="Remove range 1").click()
    settled(page)
    assert np.array_equal(canvas(page), before)
