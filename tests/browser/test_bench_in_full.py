"""The operator's day: intake, proof, adjust, separate, plate, hand over, each through the browser."""

import io
import json
import re
from pathlib import Path

import numpy as np
import pypdfium2
import pytest
import tifffile
from PIL import Image
from playwright.sync_api import Page, expect

from plinto_core.icc.standard import rgb_profile
from tests.browser.bench_page import canvas, choose, open_artwork_named, settled, slide


def _section(page: Page, heading: str):
    return page.locator("section", has=page.get_by_role("heading", name=heading))


def _downloaded(page: Page, link: str) -> Path:
    with page.expect_download() as coming:
        page.get_by_role("link", name=link).last.click(timeout=90_000)
    return Path(coming.value.path())


@pytest.fixture
def gradient(tmp_path: Path) -> Path:
    """An untagged JPEG of its own."""
    y, x = np.mgrid[0:200, 0:300]
    picture = np.stack([x * 255 // 300, y * 255 // 200, 255 - x * 255 // 300], axis=-1).astype(np.uint8)
    path = tmp_path / "garden gate.jpg"
    Image.fromarray(picture).save(path, quality=95)
    return path


def test_untagged_artwork_is_asked_about_and_every_decision_can_be_taken_back(page: Page, gradient: Path) -> None:
    page.locator("input[type=file]").set_input_files(gradient)
    card = page.locator(".sheet-card", has_text="garden gate.jpg")
    expect(card).to_contain_text("the house rules ask: decide at Source")
    card.click()
    # Both outcomes as pictures with figures.
    expect(page.locator(".outcomes figure")).to_have_count(2)
    expect(page.locator(".outcomes figcaption").first).to_contain_text("out of gamut")
    page.get_by_role("button", name="Read it as sRGB").click()
    settled(page)
    expect(page.get_by_role("button", name=re.compile("^Source"))).to_contain_text("sRGB")
    as_srgb = canvas(page)
    # Another profile tried on changes the picture and nothing else; converting keeps the picture.
    choose(page, "Source profile", "ROMM")
    settled(page)
    assert np.abs(canvas(page) - as_srgb).mean() > 1.5
    page.get_by_role("button", name="Convert to ROMM").click()
    expect(page.locator(".versions li")).to_have_count(3)
    settled(page)
    assert np.abs(canvas(page) - as_srgb).mean() < 0.4
    expect(page.get_by_role("button", name=re.compile("^Source"))).to_contain_text("ROMM RGB · 16 bit")
    page.locator(".versions li").first.get_by_role("button", name="go to").click()
    expect(page.get_by_role("button", name=re.compile("^Source"))).to_contain_text("no profile · 8 bit")
    assert _downloaded(page, "Download the original").read_bytes() == gradient.read_bytes()


def test_house_rules_are_switched_handed_on_and_brought_in(page: Page, tmp_path: Path) -> None:
    page.get_by_role("link", name=re.compile("House rules")).click()
    row = page.get_by_role("row", name=re.compile("^Textile"))
    with page.expect_download() as coming:
        row.get_by_role("link", name="Export").click()
    plain = json.loads(Path(coming.value.path()).read_text())
    plain["rules"]["name"] = "Textile, mill two"
    (tmp_path / "set.json").write_text(json.dumps(plain))
    page.get_by_label("House rules as a file").set_input_files(tmp_path / "set.json")
    brought = page.get_by_role("row", name=re.compile("^Textile, mill two"))
    brought.get_by_role("button", name="Use for everyone").click()
    expect(page.get_by_role("link", name=re.compile("House rules"))).to_contain_text("Textile, mill two")
    # What comes in now is converted to the house's space.
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("heading", name="Artwork").wait_for()
    file = io.BytesIO()
    pixels = np.full((60, 80, 3), [40, 160, 90], np.uint8)
    tifffile.imwrite(file, pixels, photometric="rgb", metadata=None, iccprofile=rgb_profile("P3").raw)
    page.locator("input[type=file]").set_input_files(
        {"name": "hedge.tif", "mimeType": "image/tiff", "buffer": file.getvalue()}
    )
    page.locator(".sheet-card", has_text="hedge.tif").click()
    settled(page)
    page.keyboard.press("1")
    expect(page.locator(".panel")).to_contain_text("the colors were converted to it")
    page.get_by_role("link", name=re.compile("House rules")).click()
    page.get_by_role("row", name=re.compile("^Packaging")).get_by_role("button", name="Use for everyone").click()
    expect(page.get_by_role("link", name=re.compile("House rules"))).to_contain_text("Packaging")


def test_adjusting_everywhere_and_in_a_region_through_the_proof(page: Page) -> None:
    open_artwork_named(page, "Lantern row.png")
    page.keyboard.press("2")
    settled(page)
    before = canvas(page)
    box = page.locator(".curve").bounding_box()
    assert box
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] - 30, steps=4)
    page.mouse.up()
    settled(page)
    lighter = canvas(page)
    assert (lighter - before).mean() > 5
    expect(page.get_by_role("button", name=re.compile("^Adjust"))).to_contain_text("curve")
    # Kept under a name, taken back, and used again.
    page.get_by_label("Name for this adjustment").fill("Dusk lifted")
    page.get_by_role("button", name="Keep", exact=True).click()
    page.get_by_role("button", name="Reset all").click()
    settled(page)
    assert np.array_equal(canvas(page), before)
    choose(page, "Named adjustment", "Dusk lifted")
    settled(page)
    assert np.array_equal(canvas(page), lighter)
    page.get_by_role("button", name="Reset all").click()
    # A region by lasso: gray inside, untouched outside.
    page.get_by_role("button", name="Outline").click()
    stage = page.locator(".stage").bounding_box()
    assert stage
    cx, cy = stage["x"] + 330, stage["y"] + 250
    page.mouse.move(cx + 90, cy)
    page.mouse.down()
    for step in range(1, 25):
        page.mouse.move(cx + 90 * np.cos(step / 25 * 6.28), cy + 90 * np.sin(step / 25 * 6.28))
    page.mouse.up()
    expect(page.get_by_role("button", name="Region 1")).to_have_attribute("aria-pressed", "true")
    slide(page, "Chroma", -80)
    page.mouse.move(10, 600)
    settled(page)
    changed = np.abs(canvas(page) - before).max(axis=-1) > 2
    assert changed[230:270, 310:350].mean() > 0.5
    assert changed[:100].mean() == 0 and changed[:, 500:].mean() == 0
    # No black in it.
    page.get_by_role("button", name="None here").click()
    page.get_by_role("button", name="Plate K").click()
    page.get_by_role("button", name="As gray").click()
    settled(page)
    assert (canvas(page)[230:270, 310:350] == 255).all()


def test_a_sheet_of_variants_from_which_one_is_taken(page: Page) -> None:
    open_artwork_named(page, "Night moth.tif")
    page.keyboard.press("r")
    page.get_by_role("button", name="Halden Silk 150", exact=True).click()
    page.get_by_role("button", name="Saturation", exact=True).click()
    page.get_by_role("button", name="Absolute", exact=True).click()
    cards = page.locator(".variant")
    expect(cards).to_have_count(4)
    choose(page, "Order of the sheet", "least mean ΔE00")
    # Four separations that nobody asked for before, on a core that others work on too.
    expect(page.locator(".variant[data-ready=true]")).to_have_count(4, timeout=90_000)
    expect(cards.last).to_contain_text("largest")
    means = [float(re.search(r"ΔE00 ([\d.]+) mean", text)[1]) for text in cards.all_inner_texts()]  # type: ignore[index]
    assert means == sorted(means)
    choose(page, "Order of the sheet", "least ink")
    expect(cards.last).to_contain_text(re.compile(r"Ink \d+ % mean, \d+ % largest · \d+\.\d\d EUR for 1 copy"))
    inks = [int(re.search(r"Ink (\d+) % mean", text)[1]) for text in cards.all_inner_texts()]  # type: ignore[index]
    assert inks == sorted(inks)
    cards.first.focus()
    page.keyboard.press("ArrowRight")
    expect(cards.nth(1)).to_be_focused()
    name = cards.nth(1).locator("b").inner_text()
    page.keyboard.press("2")
    settled(page)
    aim = page.get_by_role("button", name=re.compile("^Aim"))
    for part in name.split(" · "):
        expect(aim).to_contain_text(re.compile(re.escape(part), re.IGNORECASE))


def test_hardest_hit_palette_and_the_display(page: Page) -> None:
    open_artwork_named(page, "Night moth.tif")
    plain = canvas(page)
    page.get_by_role("button", name="Largest errors").click()
    page.get_by_role("button", name="show family 1 on the picture").click()
    settled(page)
    # The strip takes room: look at what is hatched once it is gone again.
    page.get_by_role("button", name="Pins").click()
    settled(page)
    marked = (np.abs(canvas(page) - plain).max(axis=-1) > 30).mean()
    assert 0.001 < marked < 0.2
    page.get_by_role("button", name="Palette").click()
    page.get_by_label("Color 1", exact=True).fill("Stone 62 2 8")
    page.keyboard.press("Enter")
    page.keyboard.type("Fuchsia #ff00ff")
    rows = page.locator(".palette tbody tr")
    expect(rows.first).to_contain_text("prints")
    expect(rows.nth(1)).to_contain_text("out of gamut")
    choose(page, "Display profile", "P3")
    expect(page.locator(".panel")).to_contain_text(re.compile(r"This display cannot show \d+\.\d %"))
    page.keyboard.press("d")
    settled(page)
    expect(page.locator(".legend")).to_contain_text("15")
    gray = canvas(page)
    assert np.array_equal(gray[200:300, 300:500, 0], gray[200:300, 300:500, 1])


def test_inks_left_out_and_cmyk_for_another_press(page: Page, tmp_path: Path) -> None:
    open_artwork_named(page, "Pouch wrap.jpg")
    page.keyboard.press("4")
    page.keyboard.press("e")
    settled(page)
    expect(page.locator(".stage .tag").first).to_contain_text("as it prints there: Halden Silk 150")
    for kept in ("K", "M"):
        page.get_by_label("Pure inks that are preserved").get_by_role("button", name=kept, exact=True).click()
    page.get_by_role("button", name="Do without Y").click()
    expect(page.locator(".panel")).to_contain_text(re.compile(r"Without Y: ΔE00 \d"))
    page.get_by_role("button", name="Do without Y").click()
    page.keyboard.press("5")
    page.get_by_label("Plate to work on").get_by_role("button", name="C").click()
    page.get_by_role("button", name="Drop below", exact=True).click()
    slide(page, "below", 6)
    page.get_by_role("button", name="Separate and write").click()
    inks = tifffile.imread(_downloaded(page, "Download TIFF"))
    # The caption is black alone, the band magenta alone, solids solid; no cyan dot under 6 % is left.
    assert inks[-30, 40].tolist() == [0, 0, 0, 255]
    assert inks[-52, 300].tolist() == [0, 255, 0, 0]
    cyan = inks[..., 0].astype(int)
    assert ((cyan == 0) | (cyan >= 15)).all()
    assert inks.sum(axis=-1, dtype=int).max() <= 2.3 * 255
    # The same steps are there for another press.
    page.keyboard.press("3")
    choose(page, "Printing condition", "Tern News 45")
    expect(page.get_by_role("button", name="Plate C changed")).to_be_visible()
    # Limits and black as another press's profile was built with.
    page.keyboard.press("4")
    page.get_by_role("button", name=re.compile("^Saved ink settings")).click()
    page.get_by_label("As a profile was built").select_option(label="Murrow Offset 120")
    expect(page.get_by_role("button", name=re.compile("^Ink limit 280 %"))).to_be_visible()


def test_films_a_negative_and_a_hard_proof_are_handed_over(page: Page) -> None:
    open_artwork_named(page, "Press card.tif")
    page.keyboard.press("6")
    page.get_by_role("button", name="Films A plate each").click()
    page.get_by_role("button", name="600", exact=True).click()
    page.get_by_role("button", name="Look at the dots").click()
    page.mouse.move(500, 300)
    for _ in range(6):
        page.keyboard.press("+")
    settled(page)
    # Enlarged, there is nothing but solids of the inks and their overprints.
    seen = np.unique(canvas(page)[200:400, 200:600].reshape(-1, 3), axis=0)
    assert len(seen) < 200
    page.get_by_role("button", name="Write the films").click()
    films = pypdfium2.PdfDocument(_downloaded(page, "Download PDF"))
    assert len(films) == 4
    page.get_by_role("button", name="Negative For contact").click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Film of the wedge").click()
    assert coming.value.suggested_filename == "Step wedge.pdf"
    assert len(pypdfium2.PdfDocument(coming.value.path())) == 1
    for step, lightness in enumerate(["5", "20", "45", "70", "90"], 1):
        page.get_by_label(f"L* of step {step}", exact=True).fill(lightness)
    page.get_by_role("button", name="Table from the wedge").click()
    with page.expect_download() as coming:
        page.get_by_role("button", name="Write a .cube").click()
    assert "LUT_1D_SIZE 256" in Path(coming.value.path()).read_text()
    page.get_by_role("button", name="Hard proof One page").click()
    page.get_by_role("button", name="Write the hard proof").click()
    expect(page.get_by_role("link", name="Download PDF")).to_have_count(2, timeout=90_000)
    proof = pypdfium2.PdfDocument(_downloaded(page, "Download PDF"))
    assert "Hard proof" in proof[0].get_textpage().get_text_range()


def test_several_conditions_in_one_go(page: Page) -> None:
    open_artwork_named(page, "Lantern poster.ora")
    page.keyboard.press("1")
    expect(page.locator(".panel")).to_contain_text(
        "4 layers were taken as its own merged picture shows them; 1 hidden"
    )
    page.keyboard.press("6")
    page.get_by_role("button", name="PDF A page").click()
    for name in ("Halden Silk 150", "Tern News 45"):
        page.get_by_label(name).check()
    page.get_by_role("button", name="Separate and write, 3 files").click()
    for name in ("Cotton 54T", "Halden Silk 150", "Tern News 45"):
        run = page.locator(".run", has_text=f"Lantern poster {name}.pdf")
        expect(run.get_by_role("link", name="Download PDF")).to_be_visible(timeout=90_000)


def test_measurements_become_a_condition_and_its_gamut_is_looked_into(page: Page) -> None:
    from plinto_demo.shop import measure_chart
    from tests.conftest import shop_condition

    page.get_by_role("link", name=re.compile("^Conditions")).click()
    text = measure_chart(shop_condition("tern-news-45"), 420).to_cgats().replace("Tern News 45", "Back page")
    file = {"name": "back page.txt", "mimeType": "text/plain", "buffer": text.encode()}
    page.get_by_label("Profile or measurements").set_input_files(file)
    page.get_by_role("link", name="Back page", exact=True).click(timeout=120_000)
    expect(page.get_by_text("round trip ΔE00, mean")).to_be_visible()
    expect(page.locator(".condition-plots .plot")).to_have_count(6, timeout=60_000)
    page.get_by_role("button", name="Trusted").click()
    expect(page.get_by_role("button", name="Trusted")).to_have_attribute("aria-pressed", "true")
    # From the Bench, one key leads into the gamut with the artwork and the condition that are on it.
    page.get_by_role("link", name="Bench").click()
    open_artwork_named(page, "Night moth.tif")
    page.keyboard.press("g")
    page.wait_for_selector(".gamut-stage[data-ready=true]", timeout=60_000)
    page.wait_for_selector(".gamut-stage canvas")
    solid = page.get_by_role("application", name="Colors in Lab")
    seen = [solid.screenshot()]
    for key in ("ArrowRight", "+", "0"):
        solid.press(key)
        page.wait_for_timeout(300)
        seen.append(solid.screenshot())
    assert seen[1] != seen[0] and seen[2] != seen[1] and seen[3] != seen[2], "turned, nearer, put back by key"
    page.wait_for_timeout(1500)
    drawn = np.asarray(
        Image.open(io.BytesIO(page.locator(".gamut-stage canvas").screenshot())).convert("RGB")
    ).astype(int)
    colorful = (drawn.max(axis=-1) - drawn.min(axis=-1)) > 40
    assert colorful.mean() > 0.001
    expect(page.locator(".figures")).to_contain_text("Cotton 54T")
    page.get_by_role("button", name="Cut at one L*").click()
    expect(page.locator(".slice path")).not_to_have_count(0)
