"""Nothing of a person's work is lost: files that arrive together, settings while the server is away, sessions that end,
people who change the same thing."""

import io
import json
import re
import urllib.request
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import APIResponse, Browser, Page, Route, StorageState, expect

from tests.browser.bench_page import canvas, choose, open_artwork_named, press, settled, slide, tab_to


def picture(seed: int) -> bytes:
    file = io.BytesIO()
    pixels = np.random.default_rng(seed).integers(0, 255, (90, 120, 3)).astype(np.uint8)
    Image.fromarray(pixels).save(file, "PNG")
    return file.getvalue()


def file_named(name: str, seed: int) -> dict[str, object]:
    return {"name": name, "mimeType": "image/png", "buffer": picture(seed)}


def drop(page: Page, selector: str, name: str, data: bytes) -> None:
    """A file let go over an element, as a person drags it from the desk."""
    page.evaluate(
        """([selector, name, bytes]) => {
          const data = new DataTransfer();
          data.items.add(new File([new Uint8Array(bytes)], name));
          const target = document.querySelector(selector);
          for (const type of ["dragover", "drop"])
            target.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));
        }""",
        [selector, name, list(data)],
    )


def test_files_chosen_together_all_arrive_and_go_on_in_other_rooms(page: Page) -> None:
    """Only the first arrived: the input was emptied while its list was read."""
    page.locator("input[type=file]").set_input_files([file_named(f"petal {n}.png", 40 + n) for n in range(5)])
    page.get_by_role("link", name="Runs").click()
    expect(page.get_by_role("heading", name="Runs")).to_be_visible()
    page.get_by_role("link", name=re.compile("^Bench")).click()
    for number in range(5):
        expect(page.locator(".sheet-card", has_text=f"petal {number}.png")).to_be_visible()
    # The same bytes under another name: said, and not twice there.
    page.locator("input[type=file]").set_input_files([file_named("petal again.png", 40)])
    said = page.get_by_text("'petal again.png' is here already as 'petal 0.png'")
    expect(said).to_be_visible()
    page.get_by_role("button", name="Dismiss").click()
    expect(said).to_be_hidden()
    expect(page.locator(".sheet-card", has_text="petal again.png")).to_have_count(0)
    # Beside the box, and in another room, a drop arrives too; what is no picture says why.
    drop(page, "h1", "beside.png", picture(60))
    expect(page.locator(".sheet-card", has_text="beside.png")).to_be_visible()
    drop(page, ".rail", "letter.docx", b"no picture at all")
    expect(page.get_by_role("alert")).to_contain_text("'letter.docx' is neither TIFF, PNG, JPEG nor OpenRaster")
    assert page.url.endswith("/bench")


def test_many_files_at_once_are_told_of_in_one_line(page: Page) -> None:
    """260 of them pushed the shelf away by 260 lines."""
    late: list[Route] = []
    page.route(
        "**/api/artworks", lambda route: late.append(route) if route.request.method == "POST" else route.continue_()
    )
    page.locator("input[type=file]").set_input_files([file_named(f"seed {n}.png", 90 + n) for n in range(9)])
    coming = page.get_by_role("list", name="Files on their way in").get_by_role("listitem")
    expect(coming).to_have_count(1)
    expect(coming).to_contain_text("0 of 9 files are done")
    page.get_by_role("button", name="Leave out the 7 not sent yet").click()
    expect(coming).to_have_count(2)
    for each in late:
        each.continue_()
    for number in range(2):
        expect(page.locator(".sheet-card", has_text=f"seed {number}.png")).to_be_visible()
    expect(page.locator(".sheet-card", has_text="seed 2.png")).to_have_count(0)


def test_a_setting_made_while_the_server_is_away_is_kept_and_saved_when_it_is_back(
    page: Page, console_errors: list[str]
) -> None:
    """Any error once threw the setting away."""
    open_artwork_named(page, "Press card.tif")
    page.keyboard.press("4")
    settled(page)
    page.context.set_offline(True)
    page.get_by_role("button", name=re.compile("^Ink limit .*type a number")).click()
    page.get_by_label("Ink limit, exact").fill("207")
    page.keyboard.press("Enter")
    notice = page.locator(".panel .notice", has_text="Not saved.")
    expect(notice).to_contain_text("It is kept here and tried again")
    expect(page.get_by_role("button", name="Ink limit 207 %, type a number")).to_be_visible()
    page.context.set_offline(False)
    expect(notice).to_be_hidden(timeout=15_000)
    page.reload()
    settled(page)
    expect(page.get_by_role("button", name="Ink limit 207 %, type a number")).to_be_visible()
    # Notices go when the server is back; what the browser says of the line is not the page's.
    expect(page.get_by_text("The server cannot be reached")).to_have_count(0)
    console_errors[:] = [each for each in console_errors if "ERR_INTERNET_DISCONNECTED" not in each]


def test_an_ended_session_asks_to_sign_in_and_goes_on_where_it_was(page: Page) -> None:
    open_artwork_named(page, "Night moth.tif")
    page.keyboard.press("4")
    settled(page)
    address = page.url
    # What was refused before, and is told of late, does not end the new session.
    refused: list[tuple[Route, APIResponse]] = []
    page.route(
        "**/differences",
        lambda route: route.continue_() if refused else refused.append((route, route.fetch())),
    )
    page.get_by_role("button", name=re.compile("^Ink limit .*type a number")).click()
    page.get_by_label("Ink limit, exact").fill("211")
    # The last moment: whatever the page asks meanwhile would be refused, and take the field away.
    page.context.clear_cookies(name="sessionid")
    page.keyboard.press("Enter")
    again = page.get_by_role("dialog", name="Sign in again")
    expect(again).to_contain_text("Your session has ended")
    again.get_by_label("Password").fill("velderwyn-garden")
    for _ in range(200):
        if refused:
            break
        page.wait_for_timeout(50)
    assert refused[0][1].status == 401
    again.get_by_role("button", name="Sign in").click()
    expect(again).to_be_hidden()
    refused[0][0].fulfill(response=refused[0][1])
    page.wait_for_timeout(1000)
    expect(again).to_be_hidden()
    assert page.url == address
    expect(page.get_by_role("button", name="Ink limit 211 %, type a number")).to_be_visible()
    expect(page.get_by_text("Not saved.")).to_be_hidden(timeout=15_000)
    page.reload()
    settled(page)
    expect(page.get_by_role("button", name="Ink limit 211 %, type a number")).to_be_visible()


def test_typed_figures_are_taken_or_refused_with_a_word(page: Page) -> None:
    """`9999` became 400 on a 230 % condition, `abc` and `220 %` were dropped, all in silence."""
    open_artwork_named(page, "Seed pouch pattern.tif")
    choose(page, "Printing condition", "Cotton 54T")
    page.keyboard.press("4")
    settled(page)
    page.get_by_role("button", name=re.compile("^Ink limit .*type a number")).click()
    field = page.get_by_label("Ink limit, exact")
    for typed, word in (("9999", "120 to 400 here."), ("abc", "This is no number."), ("", "This is no number.")):
        field.fill(typed)
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text(word)
        expect(field).to_have_value(typed)
    field.fill("220 %")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Ink limit 220 %, type a number")).to_be_visible()
    expect(page.locator(".refused")).to_have_count(0)


def test_at_ink_and_plate_going_to_deliver_writes_nothing(page: Page) -> None:
    """One click queued a run of films that nobody asked for."""
    open_artwork_named(page, "Seed pouch pattern.tif")
    page.keyboard.press("6")
    page.get_by_role("button", name="Films A plate each").click()
    settled(page)
    before = json.loads(page.request.get("/api/runs").text())
    for key in ("4", "5"):
        page.keyboard.press(key)
        page.get_by_role("button", name="Go to Deliver").click()
        expect(page.get_by_role("heading", name="Deliver")).to_be_visible()
    assert len(json.loads(page.request.get("/api/runs").text())) == len(before)
    page.get_by_role("button", name="TIFF Any inks").click()


def test_a_fault_in_one_panel_leaves_the_room_standing(page: Page, console_errors: list[str]) -> None:
    page.route("**/api/house/adjustments", lambda route: route.fulfill(json={"not": "a list"}))
    errors = "cannot be shown: something in it went wrong"
    open_artwork_named(page, "Night moth.tif")
    page.keyboard.press("2")
    expect(page.locator(".panel")).to_contain_text(errors)
    page.unroute("**/api/house/adjustments")
    page.keyboard.press("3")
    expect(page.get_by_role("heading", name="Aim")).to_be_visible()
    expect(page.locator(".panel")).not_to_contain_text(errors)
    assert console_errors
    console_errors.clear()


def as_person(browser: Browser, address: str, name: str, password: str) -> Page:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.set_default_timeout(40_000)
    page.goto(address)
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Artwork").wait_for()
    return page


def test_people_have_roles_and_what_they_change_has_a_history(
    page: Page, browser: Browser, house: tuple[str, Path], signed_in: StorageState
) -> None:
    address, _ = house
    page.get_by_role("link", name="quillmere, administrator").click()
    for name, role in (("Mira", "color lead"), ("Ben", "operator")):
        page.get_by_label("Name of the account").fill(name)
        page.get_by_label("Password, at least 10 letters", exact=True).fill("a-quiet-afternoon")
        choose(page, "Role of the new account", role)
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("row", name=re.compile(f"^{name}"))).to_be_visible()
    mira = as_person(browser, address, "Mira", "a-quiet-afternoon")
    mira.goto(f"{address}/conditions/brack-pouch-film")
    mira.get_by_role("button", name="Name, process and notes").click()
    notes = mira.get_by_label("Notes")
    before = notes.input_value()
    # The list of conditions comes late after the change, as it does on a busy machine: the history goes by itself.
    late: list[Route] = []
    mira.route("**/api/conditions", lambda route: late.append(route))  # noqa: PLW0108
    notes.fill("Anilox 320, doctor blade new on Monday.")
    notes.press("Tab")
    mira.get_by_role("button", name="History").click()
    expect(mira.locator(".revisions li").first).to_contain_text("Mira changed")
    expect(mira.locator(".revisions li").first).to_contain_text("Anilox 320")
    mira.locator(".revisions > li").nth(1).get_by_role("button", name="Go back to this").click()
    expect(mira.locator(".revisions > li").first).to_contain_text("restored")
    assert late
    for each in late:
        each.continue_()
    mira.unroute("**/api/conditions")
    expect(mira.get_by_label("Notes")).to_have_value(before)
    ben = as_person(browser, address, "Ben", "a-quiet-afternoon")
    ben.goto(f"{address}/conditions/brack-pouch-film")
    ben.get_by_role("button", name="Name, process and notes").click()
    ben.get_by_label("Notes").fill("mine")
    ben.get_by_label("Notes").press("Tab")
    expect(ben.get_by_text("As operator you may look at conditions")).to_be_visible()
    page.goto(f"{address}/people")
    expect(page.locator(".revisions")).to_contain_text("Mira changed condition 'Brack Pouch film'")
    for other in (mira, ben):
        other.context.close()


def test_two_people_with_the_same_rules_are_told_and_nothing_is_lost(page: Page) -> None:
    page.get_by_role("link", name=re.compile("House rules")).click()
    page.get_by_role("row", name=re.compile("^Web and news")).get_by_role("button", name="Change").click()
    form = page.locator(".rules-form")
    form.get_by_role("button", name="opRGB").click()
    # Meanwhile somebody else saves the same set.
    sets = json.loads(page.request.get("/api/house/rules").text())
    web = next(each for each in sets if each["rules"]["name"] == "Web and news")
    token = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")
    theirs = page.request.put(
        f"/api/house/rules/{web['id']}", headers={"X-CSRFToken": token},
        data={"rules": {**web["rules"], "intent": "saturation"}, "version": web["version"]},
    )  # fmt: skip
    assert theirs.status == 200
    form.get_by_role("button", name="Save the set").click()
    expect(form.get_by_role("alert")).to_contain_text("changed 'Web and news' in the meantime")
    form.get_by_role("button", name="Keep mine").click()
    form.get_by_role("button", name="Save the set").click()
    expect(form).to_be_hidden()
    saved = next(s for s in json.loads(page.request.get("/api/house/rules").text()) if s["id"] == web["id"])
    assert saved["rules"]["gray"] == "opRGB" and saved["version"] == web["version"] + 2


def test_a_file_is_made_again_to_the_bit(page: Page) -> None:
    open_artwork_named(page, "Lantern row.png")
    choose(page, "Printing condition", "Cotton 54T")
    page.keyboard.press("4")
    settled(page)
    page.get_by_role("button", name="Separate and write").click()
    expect(page.locator(".panel .run[data-state=done]").first).to_be_visible(timeout=60_000)
    # Found, understood and made again by keys alone.
    press(page, page.get_by_role("link", name=re.compile("^Runs")), most=100)
    tab_to(page, page.get_by_label("Search runs"))
    page.keyboard.type("lantern")
    run = page.locator(".run", has_text="Lantern row").first
    tab_to(page, run.get_by_role("link", name="Run sheet"))
    with page.context.expect_page() as sheet:
        page.keyboard.press("Enter")
    expect(sheet.value.get_by_role("heading", level=1)).to_contain_text("Lantern row")
    sheet.value.close()
    press(page, run.get_by_role("button", name=re.compile("^Make .*again")))
    expect(page.get_by_text("The same file to the last bit.").first).to_be_visible(timeout=60_000)


def test_opening_artwork_many_times_leaves_nothing_behind(page: Page) -> None:
    """Each opening left some 530 nodes and 87 listeners."""
    session = page.context.new_cdp_session(page)

    def counted() -> tuple[int, int]:
        session.send("HeapProfiler.collectGarbage")
        found = session.send("Memory.getDOMCounters")
        return int(found["nodes"]), int(found["jsEventListeners"])

    def look() -> None:
        open_artwork_named(page, "Night moth.tif")
        page.get_by_role("link", name=re.compile("^Bench")).click()
        page.get_by_role("heading", name="Artwork").wait_for()

    for _ in range(3):
        look()
    nodes, listeners = counted()
    for _ in range(6):
        look()
    after = counted()
    assert after[0] < nodes + 400, (nodes, after)
    assert after[1] < listeners + 40, (listeners, after)


def test_artwork_without_a_profile_is_not_asked_about_in_vain(page: Page) -> None:
    refused: list[str] = []
    page.on("response", lambda answer: refused.append(answer.url) if answer.status == 422 else None)
    page.locator("input[type=file]").set_input_files([file_named("no profile.png", 77)])
    page.locator(".sheet-card", has_text="no profile.png").click()
    # It opens at Source, where two meanings are seen side by side; elsewhere there is no picture to ask for.
    expect(page.get_by_role("heading", name="It came without a profile")).to_be_visible()
    expect(page.locator(".outcomes figcaption").first).to_contain_text("out of gamut")
    for station in "243":
        page.keyboard.press(station)
        expect(page.get_by_text("has no profile, so its numbers have no color yet")).to_be_visible()
        page.wait_for_timeout(400)
    page.wait_for_timeout(800)
    assert refused == []


@pytest.mark.parametrize("path", ["/", "/bench", "/people"])
def test_pages_run_under_their_content_security_policy(new_page: Page, house: tuple[str, Path], path: str) -> None:
    page = new_page
    answer = urllib.request.urlopen(house[0] + path)
    assert "default-src 'self'" in answer.headers["Content-Security-Policy"]
    page.goto(house[0] + path)
    # Any violation is an error in the console, which fails the test.
    page.get_by_role("link", name="Runs").click()
    expect(page.get_by_role("heading", name="Runs")).to_be_visible()
    slide(page, "Lightness around the artwork", 49)


def test_over_a_thin_line_a_sketch_comes_first_and_the_exact_picture_when_it_rests(page: Page) -> None:
    open_artwork_named(page, "Night moth.tif")
    exact = canvas(page)
    came: list[tuple[str, int]] = []
    page.on(
        "response",
        lambda r: (
            came.append((r.headers["content-type"], int(r.headers["content-length"]))) if "/picture" in r.url else 0
        ),
    )
    line = page.context.new_cdp_session(page)
    line.send("Network.enable")
    # 1 Mbit/s and half a second each way.
    thin = {"offline": False, "latency": 500, "downloadThroughput": 125_000, "uploadThroughput": 125_000}
    line.send("Network.emulateNetworkConditions", thin)
    # The first picture over this line says how thin it is.
    page.keyboard.press("w")
    expect(page.locator(".stage .state")).to_have_text("computing")
    expect(page.locator(".stage .state")).to_have_text("", timeout=30_000)
    page.keyboard.press("w")
    came.clear()
    page.keyboard.press("o")
    expect(page.locator(".stage .state")).to_contain_text("sketch")
    page.locator(".stage[data-ready=true]").wait_for()
    assert [kind for kind, _ in came] == ["image/webp", "image/png"]
    assert came[0][1] < came[1][1] / 3
    page.keyboard.press("o")
    page.wait_for_timeout(400)
    page.locator(".stage[data-ready=true]").wait_for()
    assert np.array_equal(canvas(page), exact)
