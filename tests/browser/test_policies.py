"""The Policies room, from a document to a file: what rows catch, looks, moving rows, sending, refusing, history."""

import io
import re
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


@pytest.fixture
def room(page: Page) -> Page:
    page.get_by_role("link", name=re.compile("^Policies")).click()
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


def test_a_document_is_looked_at_sent_and_refused(room: Page, house: tuple[str, Path]) -> None:
    address, _ = house
    picture = room.locator(".page img")
    for look in ("As it came", "Plates", "As it prints"):
        room.get_by_role("button", name=look).click()
        expect(picture).to_have_js_property("complete", value=True)
        assert picture.evaluate("(img) => img.naturalWidth") > 100
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


def test_documents_come_from_anywhere_and_bad_ones_are_told_why(room: Page, tmp_path: Path) -> None:
    (tmp_path / "cut.pdf").write_bytes(b"%PDF-1.7\n1 0 obj")
    good = pikepdf.Pdf.new()
    good.add_blank_page(page_size=(200, 100)).Contents = pikepdf.Stream(good, b"1 0 0 rg 20 20 100 50 re f")
    good.save(tmp_path / "Small card.pdf")
    input_field = room.get_by_label("A document as a PDF")
    input_field.set_input_files(tmp_path / "cut.pdf")
    expect(room.get_by_role("alert")).to_contain_text("'cut.pdf' is damaged")
    input_field.set_input_files(tmp_path / "Small card.pdf")
    expect(room.locator(".decision-sums")).to_contain_text("1 objects on 1 page")
    expect(room.locator(".decisions tbody")).to_contain_text("DeviceRGB 255 0 0")
    room.once("dialog", lambda dialog: dialog.accept())
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
