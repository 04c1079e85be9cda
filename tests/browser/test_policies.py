"""The Policies room, from a document to a file: what rows catch, looks, moving rows, sending, refusing, history."""

import io
import re
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from playwright.sync_api import Page, expect

from plinto_core.pdf.apply import rewritten
from plinto_core.pdf.draw import draw, saved
from plinto_core.pdf.tape import Tape
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule
from tests.browser.bench_page import choose


def drawn(page: Page, wide: int) -> None:
    """Wait until a picture of the page is there with more pixels across than this."""
    until = time.monotonic() + 20
    widest = "Math.max(0, ...[...document.querySelectorAll('.page img')].map((each) => each.naturalWidth))"
    while page.evaluate(widest) <= wide:
        assert time.monotonic() < until, f"no picture of more than {wide} pixels came"
        page.wait_for_timeout(100)


@pytest.fixture
def room(new_page: Page) -> Page:
    page = new_page
    page.goto("/policies")
    expect(page.get_by_role("heading", name="Outputs")).to_be_visible()
    choose(page, "Document", "Night Garden programme.pdf")
    expect(page.locator(".decision-sums")).to_contain_text("80 objects on 8 pages")
    return page


def test_a_policy_is_seen_on_a_document_and_changed_with_a_history(room: Page) -> None:
    sums, rows = room.locator(".decision-sums"), room.locator(".fall > li > button")
    expect(sums).to_contain_text("2 refused")
    expect(rows.first).to_contain_text("2 pages")
    rows.first.click()
    # The two refused pictures: a line leads to its object on its page, and the object back to its line.
    lines = room.locator(".decisions tbody tr")
    expect(lines).to_have_count(2)
    lines.nth(1).get_by_role("button").click()
    expect(room.get_by_text("Page 6 / 8")).to_be_visible()
    mark = room.locator(".page-mark")
    expect(mark).to_have_count(1)
    rows.first.click()
    box = mark.bounding_box()
    assert box is not None and box["width"] > 100
    room.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(room.locator(".decisions tr.chosen")).to_contain_text("131 ppi")
    # Moved below the row that catches black text, with the keyboard; nothing changes but the order.
    rows.first.click()
    rows.first.press("Alt+ArrowDown")
    expect(rows.nth(1)).to_contain_text("without a profile")
    expect(room.get_by_role("heading", name=re.compile("version 3"))).to_be_visible()
    room.get_by_role("button", name="Switch off").click()
    expect(sums).to_contain_text("0 refused")
    expect(rows.nth(1)).to_contain_text("off: everything falls through")
    room.get_by_role("button", name="History").click()
    first = room.locator(".revisions > li").first
    expect(first).to_contain_text("quillmere changed")
    room.locator(".revisions > li").nth(2).get_by_role("button", name="Go back to this").click()
    expect(rows.first).to_contain_text("without a profile")
    expect(sums).to_contain_text("2 refused")
    # The house's list says what color spot inks have, from here on.
    spots = room.get_by_role("combobox", name="Colors of spot inks")
    expect(spots).to_have_text("each job's own words")
    spots.click()
    room.get_by_role("option", name="Season, Night Garden, as it is now").click()
    expect(spots).to_have_text("12 known by the policy")
    spots.click()
    room.get_by_role("option", name="each job's own words").click()
    expect(spots).to_have_text("each job's own words")
    # What only a file could set before: what numbers without a profile mean, a row's limit and what it preserves, bounds.
    room.get_by_role("combobox", name="CMYK without a profile").click()
    room.get_by_role("option", name="Murrow Offset 120").click()
    expect(room.get_by_role("combobox", name="CMYK without a profile")).to_have_text("Murrow Offset 120")
    rows.last.click()
    limit = room.get_by_label("Ink limit of the row, %")
    limit.fill("plenty")
    limit.press("Enter")
    expect(room.get_by_role("alert").get_by_text("This is no number.")).to_be_visible()
    limit.fill("270 %")
    limit.press("Enter")
    expect(rows.last).to_contain_text("270 %")
    room.get_by_label("pure inks").click()
    expect(rows.last).to_contain_text("pure inks preserved")
    rows.last.click()
    rows.nth(1).click()
    under = room.get_by_label("Pictures under, ppi")
    under.fill("72")
    under.press("Enter")
    expect(rows.nth(1)).to_contain_text("under 72 ppi")


def test_a_document_is_looked_at_sent_and_refused(room: Page, house: tuple[str, Path]) -> None:
    address, _ = house
    picture = room.locator(".page img")
    for look in ("As it came", "Plates", "Coverage", "As it prints"):
        room.get_by_role("button", name=look, exact=True).click()
        expect(picture).to_have_js_property("complete", value=True)
        drawn(room, 100)
    room.get_by_role("button", name="Send through, to be refused").click()
    line = room.locator(".outputs footer .run-line, .outputs footer [class*=run]").first
    expect(line).to_contain_text("Ask the sender which space it is in")
    choose(room, "Document", "Stall prices.pdf")
    expect(room.locator(".decision-sums")).to_contain_text("0 refused")
    room.get_by_role("button", name="Send through", exact=True).click()
    link = room.locator(".outputs footer a[href*='/file']").first
    href = link.get_attribute("href")
    assert href is not None
    data = room.request.get(f"{address}{href}").body()
    with pikepdf.open(io.BytesIO(data)) as written:
        content = written.pages[0].Contents.read_bytes()
        assert b" k\n" in content and b" rg" not in content
        assert written.Root.OutputIntents[0].OutputConditionIdentifier == "Halden Silk 150"
    # Another rule since: what went out before is named where the output is, and sent again from there.
    room.get_by_label("At least, ppi", exact=True).fill("120")
    room.get_by_label("At least, ppi", exact=True).press("Tab")
    room.get_by_text("sent before the last change").click()
    room.get_by_role("button", name="Send Stall prices.pdf again").click()
    expect(room.get_by_role("button", name="Send Stall prices.pdf again")).to_have_count(0, timeout=20_000)
    # What a page was sent by stands in the address of Deliver, as the line of one that is to be written again has it.
    room.goto("/bench/1/halden-silk-150?at=deliver&rule=1")
    expect(room.get_by_text("A page for Halden press is a PDF")).to_be_visible()
    room.get_by_role("button", name="PDF A page").click()
    expect(room.get_by_role("combobox", name="Delivery rule")).to_contain_text("Of Halden press")
    room.get_by_role("button", name="TIFF Any inks").click()
    expect(room.get_by_text("A page for Halden press is a PDF")).to_have_count(0)


def test_pages_are_gone_through_by_their_thumbnails_plates_and_coverage_up_close(room: Page) -> None:
    pages = room.get_by_role("navigation", name="Pages")
    expect(pages.get_by_role("button")).to_have_count(8)
    pages.get_by_role("button", name="Page 6, 1 refused").click()
    expect(room.get_by_text("Page 6 / 8")).to_be_visible()
    room.get_by_role("button", name="Coverage", exact=True).click()
    expect(room.locator(".stage-choices")).to_contain_text(re.compile(r"Largest total \d+ % of 320 %, [\d.]+ mm"))
    expect(room.locator(".page-spot")).to_be_visible()
    choose(room, "Document", "Scarf repeat.pdf")
    room.get_by_role("button", name="Plates", exact=True).click()
    room.get_by_label("Plate", exact=True).locator("xpath=..").get_by_role("combobox").click()
    options = room.get_by_role("option")
    expect(options.first).to_contain_text("Cyan, covers")
    room.keyboard.press("Escape")
    # Up close a page comes in tiles, of which only those near the window are asked for.
    room.get_by_role("button", name="As it came", exact=True).click()
    for _ in range(9):
        room.get_by_role("button", name="Larger").click()
    expect(room.locator(".stage-choices")).to_contain_text("800 %")
    tiles = room.locator(".page img")
    assert tiles.count() > 12
    drawn(room, 1023)
    loaded = room.evaluate(
        "[...document.querySelectorAll('.page img')].filter((each) => each.naturalWidth > 0).length"
    )
    assert loaded < tiles.count()
    room.get_by_role("button", name="About this document").click()
    expect(room.get_by_role("region", name="About this document")).to_contain_text("Against PDF/X-4")


def test_a_wrong_ticket_is_seen_on_the_page_and_its_strip_finds_it_out(room: Page, tmp_path: Path) -> None:
    room.get_by_role("button", name=re.compile("^Office inkjet")).click()
    expect(room.get_by_role("button", name=re.compile("^Office inkjet"))).to_contain_text("ticket converts twice")
    choose(room, "Document", "Stall prices.pdf")
    room.get_by_role("button", name="By its ticket").click()
    expect(room.locator(".stage-choices")).to_contain_text("converted more than once")
    drawn(room, 100)
    ticket = room.get_by_role("region", name="Ticket")
    ticket.get_by_text("Check strip").click()
    choose(room, "How its driver is set", "Driver: twice")
    ticket.get_by_role("button", name="Print and measure it").click()
    expect(ticket.get_by_role("status")).to_contain_text("The strip was converted twice")
    with room.expect_download() as saved:
        ticket.get_by_text("To measure (CGATS)").click()
    assert "SAMPLE_ID RGB_R RGB_G RGB_B" in Path(saved.value.path()).read_text()
    # Put right, the look goes and the list says nothing more.
    ticket.get_by_label("the driver").first.uncheck()
    expect(room.get_by_role("button", name=re.compile("^Office inkjet"))).not_to_contain_text("ticket")
    expect(room.get_by_role("button", name="By its ticket")).to_have_count(0)


def test_outputs_are_compared_on_a_document_and_a_policy_goes_from_one_to_the_other(
    room: Page, tmp_path: Path
) -> None:
    choose(room, "Compare with", "Tern web press")
    comparison = room.get_by_role("region", name="Comparison")
    expect(comparison).to_contain_text("kinds of color differ")
    expect(comparison).to_contain_text("Halden press refuses it")
    line = comparison.locator("tbody tr").first
    line.get_by_role("button").click()
    expect(room.locator(".page-mark").first).to_be_visible()
    choose(room, "Compare with", "Nothing")
    expect(room.get_by_role("region", name="Decisions")).to_be_visible()
    with room.expect_download() as saved:
        room.get_by_text("Export it with its profiles").click()
    kept = tmp_path / "policy.json"
    saved.value.save_as(kept)
    room.get_by_role("button", name=re.compile("^Sateen RIP")).click()
    expect(room.get_by_role("heading", name="Everything into the condition, version 1")).to_be_visible()
    room.get_by_label("A policy as a file").set_input_files(kept)
    expect(room.get_by_role("heading", name=re.compile("version 2"))).to_be_visible()
    expect(room.locator(".fall > li > button").first).to_contain_text("without a profile")
    room.get_by_role("button", name="History").click()
    room.locator(".revisions > li").nth(1).get_by_role("button", name="Go back to this").click()
    expect(room.get_by_role("heading", name=re.compile("version 3"))).to_be_visible()


def test_a_large_document_is_read_by_a_job_with_progress(room: Page, tmp_path: Path) -> None:
    pdf = pikepdf.Pdf.new()
    for number in range(310):
        page = pdf.add_blank_page(page_size=(200, 100))
        curves = b"".join(b"0.%03d 0.5 0.%02d rg %d 20 9 50 re f " % (number, at, 9 * at) for at in range(20))
        page.Contents = pikepdf.Stream(pdf, curves)
    pdf.save(tmp_path / "Catalog.pdf")
    room.get_by_label("A document as a PDF").set_input_files(tmp_path / "Catalog.pdf")
    expect(room.locator(".decisions")).to_contain_text("Reading every color of a large document")
    expect(room.get_by_text("Page 1 / 310")).to_be_visible()
    expect(room.locator(".decision-sums")).to_contain_text("6,200 objects on 310 pages", timeout=60_000)
    choose(room, "Compare with", "Tern web press")
    comparison = room.get_by_role("region", name="Comparison")
    expect(comparison).to_contain_text("kinds of color differ", timeout=60_000)
    choose(room, "Compare with", "Nothing")
    pages = room.get_by_role("navigation", name="Pages")
    pages.evaluate("(strip) => strip.scrollTo(0, 300 * 104)")
    pages.get_by_role("button", name="Page 302").click()
    expect(room.get_by_text("Page 302 / 310")).to_be_visible()
    # 6,200 lines, of which 5,000 come with the whole: those of this page are there all the same, and can be pointed at.
    room.get_by_label("Page 302 only").check()
    lines = room.locator(".decisions tbody tr")
    expect(lines).to_have_count(20)
    expect(lines.first).to_contain_text("302")
    box = room.locator(".page").bounding_box()
    assert box
    room.mouse.click(box["x"] + box["width"] * 0.11, box["y"] + box["height"] * 0.55)
    expect(room.locator(".decisions tr.chosen")).to_have_count(1)
    room.get_by_label("Document", exact=True).get_by_role("button", name="Remove", exact=True).click()
    expect(room.locator(".document-stage")).not_to_contain_text("Catalog.pdf")


def test_documents_come_from_anywhere_and_bad_ones_are_told_why(room: Page, tmp_path: Path) -> None:
    (tmp_path / "cut.pdf").write_bytes(b"%PDF-1.7\n1 0 obj")
    good = pikepdf.Pdf.new()
    good.add_blank_page(page_size=(200, 100)).Contents = pikepdf.Stream(good, b"1 0 0 rg 20 20 100 50 re f")
    good.save(tmp_path / "Small card.pdf")
    input_field = room.get_by_label("A document as a PDF")
    input_field.set_input_files(tmp_path / "cut.pdf")
    expect(room.get_by_role("alert")).to_contain_text("'cut.pdf' is damaged")
    input_field.set_input_files(tmp_path / "Small card.pdf")
    expect(room.locator(".decision-sums")).to_contain_text("1 object on 1 page")
    expect(room.locator(".decisions tbody")).to_contain_text("DeviceRGB 255 0 0")
    room.get_by_label("Document", exact=True).get_by_role("button", name="Remove", exact=True).click()
    expect(room.locator(".document-stage")).not_to_contain_text("Small card.pdf")


def test_what_the_browser_itself_prints_is_left_as_it_draws_and_can_be_converted(room: Page, tmp_path: Path) -> None:
    """Another maker: gradients, half-transparent parts, patterns, shadows, as Chromium writes them."""
    other = room.context.new_page()
    other.set_content(
        "<h1 style='color:#a21'>Night garden</h1><p style='opacity:.6'>Half seen <b style='color:navy'>navy</b></p>"
        "<div style='width:300px;height:80px;background:linear-gradient(90deg,blue,yellow)'></div>"
        "<div style='width:200px;height:80px;background:radial-gradient(circle,red,transparent)'></div>"
        "<svg width=200 height=100><defs><pattern id=p width=10 height=10 patternUnits=userSpaceOnUse><circle r=4 cx=5 "
        "cy=5 fill=green /></pattern></defs><rect width=90 height=90 fill='url(#p)'/></svg>"
        "<div style='box-shadow:4px 4px 8px rgba(0,0,0,.5);width:100px;background:#eee'>shadow</div>"
    )
    other.pdf(path=tmp_path / "From a browser.pdf", print_background=True)
    other.close()
    with pikepdf.open(tmp_path / "From a browser.pdf") as pdf:
        before = draw(tmp_path / "From a browser.pdf", 0, 100)
        monkey = pytest.MonkeyPatch()
        monkey.setattr(Tape, "changed", property(lambda self: True, lambda self, value: None), raising=False)
        rewritten(pdf, "job", replace(READY_MADE["Leave and report"], into="sRGB"), DeliveryRule(), None)
        monkey.undo()
        assert np.abs(before.astype(int) - draw(saved(pdf), 0, 100)).max() <= 1
    room.get_by_label("A document as a PDF").set_input_files(tmp_path / "From a browser.pdf")
    # Its shadow is a picture without a profile, which the first output refuses; the web press assumes one.
    expect(room.locator(".decision-sums")).to_contain_text("1 refused")
    room.get_by_role("button", name="Tern web press").click()
    expect(room.locator(".decision-sums")).to_contain_text("0 refused")
    expect(room.locator(".page img")).to_have_js_property("complete", value=True)
