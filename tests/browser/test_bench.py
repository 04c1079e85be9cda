"""An operator's path: from RGB artwork to the inks of a cotton screen print, through the browser."""

import io
import json
import re
from pathlib import Path

import numpy as np
import pytest
import tifffile
from playwright.sync_api import Page, expect

from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import Library
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import recipe_from_json
from plinto_core.screen.proof import RenderRequest, display_nodes, show_inks
from tests.browser.bench_page import canvas, choose, open_artwork_named, settled, slide


def test_from_artwork_to_inks(page: Page, house: tuple[str, Path], tmp_path: Path) -> None:
    address, data = house
    open_artwork_named(page, "Night moth.tif")

    # The condition is chosen, and with it the picture and its figures change.
    choose(page, "Printing condition", "Tern News 45")
    settled(page)
    news = canvas(page)
    choose(page, "Printing condition", "Cotton 54T")
    settled(page)
    printed = canvas(page)
    assert np.abs(news - printed).max() > 20
    expect(page.get_by_role("button", name=re.compile("^Aim"))).to_contain_text(
        re.compile(r"Cotton 54T · relative · \d+\.\d % out")
    )

    # Flip to the artwork while F is held; marks say what is out of gamut.
    page.keyboard.down("f")
    settled(page)
    artwork = canvas(page)
    page.keyboard.up("f")
    assert np.abs(artwork - printed).mean() > 5
    page.keyboard.press("o")
    settled(page)
    marked = (np.abs(canvas(page) - printed).max(axis=-1) > 30).mean()
    assert 0.01 < marked < 0.3
    page.keyboard.press("o")

    # Ink: a limit and a black of their own; the figures follow.
    page.keyboard.press("4")
    page.get_by_role("button", name="Ink limit 230 %, type a number").click()
    page.get_by_label("Ink limit, exact").fill("222")
    page.keyboard.press("Enter")
    slide(page, "Ink limit", 221)
    slide(page, "Black amount", 62)
    settled(page)
    expect(page.get_by_role("button", name=re.compile("^Ink max"))).to_contain_text(
        re.compile("of 221 % · black 62 %")
    )
    expect(page.get_by_role("button", name=re.compile("^Ink max"))).to_contain_text(
        re.compile("max 2(21|20|19) of 221 %")
    )
    assert np.abs(canvas(page) - printed).max() > 2

    # Undo and redo, and the settings survive a reload.
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("slider", name="Black amount")).not_to_have_attribute("aria-valuenow", "62")
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_role("slider", name="Black amount")).to_have_attribute("aria-valuenow", "62")
    page.reload()
    settled(page)
    expect(page.get_by_role("slider", name="Ink limit")).to_have_attribute("aria-valuenow", "221")

    # Plates one by one, the coverage map, a pin through every station.
    page.get_by_role("button", name="Plate K").click()
    page.get_by_role("button", name="As gray").click()
    settled(page)
    plate = canvas(page)[200:400, 250:600]
    assert np.array_equal(plate[..., 0], plate[..., 2])
    page.get_by_role("button", name="All inks").click()
    page.keyboard.press("l")
    settled(page)
    expect(page.locator(".stage .tag")).to_contain_text("coverage before limiting")
    page.keyboard.press("l")
    page.mouse.move(330, 400)
    expect(page.locator(".pins tbody tr").first).to_contain_text("pointer")
    page.keyboard.press("p")
    pinned = page.locator(".pins tbody tr", has_text="pin 1")
    expect(pinned).to_be_visible()
    assert re.search(r"\d+ %", pinned.inner_text())

    # Written in the background, downloaded, with its run sheet.
    page.get_by_role("button", name="Separate and write").click()
    with page.expect_download() as coming:
        page.get_by_role("link", name="Download TIFF").click(timeout=60_000)
    written = tmp_path / coming.value.suggested_filename
    coming.value.save_as(written)
    assert written.name == "Night moth Cotton 54T.tif"
    with page.expect_download() as coming:
        page.get_by_role("link", name="JSON").click()
    sheet = json.loads(Path(coming.value.path()).read_text())
    assert sheet["recipe"]["ink"]["limits"]["total_percent"] == 221
    assert sheet["recipe"]["ink"]["black"]["amount_percent"] == 62

    # The file: every pixel within the limit, and exactly what the core makes of the original.
    inks = tifffile.imread(written)
    assert inks.shape == (1600, 2400, 4)
    totals = inks.sum(axis=-1, dtype=int)
    assert (totals > 2.21 * 255).sum() == 0
    assert totals.max() / 2.55 == pytest.approx(sheet["largest_coverage_percent"], abs=1e-3)
    with tifffile.TiffFile(written) as tiff:
        profile = parse(tiff.pages[0].iccprofile)
    assert profile.name == "Cotton 54T"
    original = page.request.get(f"{address}/api/artworks/{page.url.split('/')[4]}/original").body()
    (tmp_path / "original.tif").write_bytes(original)
    source = open_artwork(tmp_path / "original.tif")
    known = Library(data / "cache").condition(profile)
    chain = compile_recipe(recipe_from_json(sheet["recipe"]), known, source.profile)
    pixels = tifffile.imread(io.BytesIO(original))
    assert np.array_equal(inks, chain.link.inks_of(pixels))

    # What the screen shows at actual pixels is the proof of that very file.
    page.mouse.move(500, 350)
    page.keyboard.press("0")
    settled(page)
    shown = canvas(page)
    proof = show_inks(
        inks, known.model, display_nodes(known.model, rgb_profile("sRGB"), False), RenderRequest()
    ).astype(int)
    assert any(
        np.array_equal(shown[300:380, 300:500], proof[y : y + 80, x : x + 200])
        for y, x in _places(proof, shown[300, 300:500])
    )


def _places(proof: np.ndarray, row: np.ndarray) -> list[tuple[int, int]]:
    """Where a row of pixels stands in the proof."""
    ys, xs = np.nonzero((proof[:, : -len(row)] == row[0]).all(axis=-1))
    return [
        (y, x)
        for y, x in zip(ys.tolist(), xs.tolist(), strict=True)
        if np.array_equal(proof[y, x : x + len(row)], row)
    ]


def test_bad_artwork_is_named_and_good_artwork_arrives(page: Page, tmp_path: Path) -> None:
    bad = tmp_path / "notes 'final'.tif"
    bad.write_text("This is no picture.")
    page.locator("input[type=file]").set_input_files(bad)
    expect(page.get_by_role("alert")).to_contain_text("is neither TIFF, PNG, JPEG nor OpenRaster")
    page.get_by_role("button", name="Dismiss").click()
    good = tmp_path / "untagged.tif"
    tifffile.imwrite(good, np.full((90, 120, 3), [200, 40, 90], np.uint8), photometric="rgb", metadata=None)
    page.locator("input[type=file]").set_input_files(good)
    page.locator(".sheet-card", has_text="untagged.tif").click()
    # Without a profile the numbers have no color: the Bench opens at Source and asks, and says so elsewhere.
    expect(page.get_by_role("heading", name="It came without a profile")).to_be_visible()
    page.keyboard.press("4")
    expect(page.locator(".stage .notice")).to_contain_text("Choose a source profile at Source")
    page.keyboard.press("1")
    choose(page, "Source profile", "P3")
    settled(page)
    expect(page.locator(".panel")).to_contain_text("the numbers are read by P3")
    assert page.locator(".stage .notice").count() == 0


def test_keys_wipe_and_the_other_rooms(page: Page) -> None:
    open_artwork_named(page, "Lantern row.png")
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("Out of gamut".replace("Out", "out"))
    page.get_by_role("button", name="Close").click()
    page.keyboard.press("w")
    settled(page)
    before = canvas(page)
    handle = page.get_by_role("slider", name=re.compile("^Wipe between"))
    for _ in range(8):
        handle.press("ArrowLeft")
    settled(page)
    assert np.abs(canvas(page) - before).max() > 10
    page.get_by_role("link", name=re.compile("^Conditions")).click()
    expect(page.get_by_role("table").first).to_contain_text("Halden Silk 150")
    page.get_by_role("link", name=re.compile("^Runs")).click()
    expect(page.get_by_role("heading", name="Runs")).to_be_visible()
