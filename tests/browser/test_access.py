"""Everybody's Plinto: seen by axe-core in both rooms, worked by keys alone, its plots read out and taken along."""

import csv
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from .bench_page import choose, open_artwork_named, press, settled
from .overlaps import overlapping

AXE = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
BENCH = "/bench/1/halden-silk-150"
VIEWS = [
    "/bench", *(f"{BENCH}?at={station}" for station in ("source", "adjust", "aim", "ink", "plate", "deliver")),
    f"{BENCH}?as=sheet", f"{BENCH}?as=pair&strip=hits", "/conditions", "/conditions/halden-silk-150",
    "/conditions/halden-silk-150/build", "/conditions/halden-silk-150/profile", "/conditions/halden-silk-150/drift",
    "/conditions/from-numbers", "/colors", "/policies", "/runs", "/house", "/people",
    "/gamut?with=halden-silk-150", "/gamut?with=halden-silk-150&view=flat",
    # Addresses of what was removed: pages like any other.
    "/bench/99999/halden-silk-150", "/bench/1/removed", "/conditions/removed",
]  # fmt: skip


#: Counts how far what is seen is pushed about without anybody's doing (Layout Instability, WICG).
SHIFTS = """
window.pushed = 0;
new PerformanceObserver(list => {
  for (const each of list.getEntries()) if (!each.hadRecentInput) window.pushed += each.value;
}).observe({type: 'layout-shift', buffered: true});
"""
#: Names that two controls have, unless they are links to one place; needs axe.
SHARED_NAMES = """
() => {
  axe.setup(document.body);
  const named = {};
  for (const each of document.querySelectorAll('button, a[href], input, select, textarea, [role=slider], summary')) {
    const node = each.checkVisibility() && !each.closest('[aria-hidden=true]') && axe.utils.getNodeFromTree(each);
    if (node) (named[axe.commons.text.accessibleTextVirtual(node)] ??= []).push(each.href ?? each);
  }
  axe.teardown();
  return Object.keys(named).filter(name => new Set(named[name]).size > 1);
}
"""


def test_axe_finds_nothing_in_any_view_of_either_room(new_page: Page) -> None:
    """Nor do two controls of a view share a name, nor is anything pushed about while it opens: 0.51 on the shelf, 0.17 on a
    condition's page, 0.14 on Runs, eight buttons called 'show on the picture'."""
    page = new_page
    found = []
    page.context.add_init_script(SHIFTS)
    for view in VIEWS:
        page.goto(view)
        page.locator("main h1").first.wait_for(state="attached")
        page.evaluate(AXE.read_text())
        page.wait_for_timeout(700)
        found += [f"{view}: two controls are called '{name}'" for name in page.evaluate(SHARED_NAMES)]
        if (pushed := page.evaluate("window.pushed")) > 0.05:
            found.append(f"{view}: pushed about by {pushed:.3f}")
        for room, rules in (("light", RULES), ("dim", ["color-contrast"])):
            page.evaluate("room => { document.documentElement.dataset.room = room; }", room)
            found += _broken(page, f"{view} {room}", rules)
        found += [f"{view} {each}" for each in overlapping(page)]
        assert page.title().endswith("· Plinto")
    assert not found, "\n".join(found)


def test_what_has_not_come_yet_is_not_said_to_be_missing(new_page: Page) -> None:
    """While answers are on their way a view says nothing that they may prove wrong, in words that can be read: the Policies
    room asked for a first document and House told of no rules, the former at 4.1 : 1 on the gray around pages."""
    page = new_page
    # The page at no address any more answers for those that are left waiting.
    page.route("**/api/**", lambda route: route.continue_() if "/api/session" in route.request.url else None)
    found = []
    # The stations wait behind one and the same page, and so does what is removed.
    stations = [view for view in VIEWS if "?at=" in view]
    for view in [each for each in VIEWS[:-3] if each not in stations[1:]]:
        page.goto(view, wait_until="domcontentloaded")
        page.locator("#root :is(main, .room)").first.wait_for()
        page.evaluate(AXE.read_text())
        found += _broken(page, f"{view} waiting", ["color-contrast"])
        said = page.locator("#root").inner_text()
        found += [f"{view}: {each}" for each in re.findall(r".*(?:\byet\b|Nothing|Drop a PDF).*", said)]
    page.unroute_all(behavior="ignoreErrors")
    page.goto("about:blank")
    assert not found, "\n".join(found)


def _broken(page: Page, where: str, rules: list[str]) -> list[str]:
    """What axe finds, with the markup: an element that has gone since has no selector any more."""
    # What is right is not told one by one, nor where in the page what is wrong stands: half of the time.
    how = "{runOnly: rules, selectors: false, resultTypes: ['violations']}"
    violations = page.evaluate(f"rules => axe.run(document, {how}).then(r => r.violations)", rules)
    return [f"{where}: {each['id']} {[n['html'] for n in each['nodes']][:3]}" for each in violations]


def test_the_focus_is_seen_and_never_falls_to_the_page(new_page: Page) -> None:
    page = new_page
    page.goto("/bench/3/murrow-offset-120?at=ink")
    settled(page)
    # A setting says what it does to whoever goes to its name, and leads to the guide's line on it.
    name = page.get_by_role("link", name="What Ink limit does")
    name.focus()
    expect(page.get_by_role("tooltip")).to_have_text(re.compile("^Ink limit is the most ink on one place"))
    assert name.get_attribute("href") == "/guide/settings#ink-limit"
    page.keyboard.press("Escape")
    expect(page.get_by_role("tooltip")).to_have_count(0)
    # A figure that is typed gives the focus back to itself.
    page.get_by_role("button", name=re.compile("^Ink limit .* type a number")).press("Enter")
    page.keyboard.type("260")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Ink limit 260 %"))).to_be_focused()
    # Every button shows it; MUI's too.
    page.keyboard.press("Control+Shift+Tab")
    primary = page.get_by_role("button", name="Separate and write")
    page.get_by_role("button", name="To the black button").press("Enter")
    expect(primary).to_be_focused()
    assert primary.evaluate("b => getComputedStyle(b).outlineStyle") == "solid"
    # Writing goes to Deliver, where the same button has it.
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Deliver")).to_be_visible()
    expect(page.get_by_role("button", name="Separate and write")).to_be_focused()
    # It is said, and the line of the run has the ways on; a note beside it would lie over something.
    expect(page.locator(".finished [role=status]")).to_contain_text("Done", timeout=60_000)
    expect(page.locator(".run[data-state=done]").first.get_by_role("link", name="Run sheet")).to_be_visible()
    expect(page.locator(".finished").get_by_role("link")).to_have_count(0)
    # By key to a station, its settings come next (32 Tabs to Aim's condition before); by mouse nothing is moved.
    page.keyboard.press("3")
    expect(page.get_by_role("heading", name="Aim")).to_be_focused()
    page.locator("button.station").filter(has_text="Plate").press("Enter")
    expect(page.get_by_role("heading", name="Plate", exact=True)).to_be_focused()
    aim = page.locator("button.station").filter(has_text="Aim")
    aim.click()
    expect(page.get_by_role("heading", name="Aim")).to_be_visible()
    expect(aim).to_be_focused()
    # Another room, entered by its word in the rail: its heading has it.
    page.get_by_role("link", name=re.compile("^Conditions")).press("Enter")
    expect(page.get_by_role("heading", name="Conditions", level=1)).to_be_focused()
    expect(page).to_have_title("Conditions · Plinto")


def test_the_picture_by_keys_alone(new_page: Page) -> None:
    page = new_page
    page.goto("/bench/4/murrow-offset-120")
    settled(page)
    page.get_by_role("button", name="To the picture").press("Enter")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Enter")
    expect(page.locator(".pins tbody tr")).to_have_count(2)
    page.keyboard.press("2")
    settled(page)
    page.get_by_role("button", name="Rectangle").press("Enter")
    page.get_by_role("button", name="To the picture").press("Enter")
    page.evaluate(
        """() => new MutationObserver(() => {
            const made = [...document.querySelectorAll("button")].find(each => each.textContent === "Region 1");
            if (made && !window.first_seen) window.first_seen = made.getAttribute("aria-pressed");
        }).observe(document.body, { childList: true, subtree: true })"""
    )
    for key in ("ArrowLeft", "Enter", *["Shift+ArrowRight"] * 3, *["Shift+ArrowDown"] * 2, "Enter"):
        page.keyboard.press(key)
    region = page.get_by_role("button", name="Region 1", exact=True)
    expect(region).to_be_visible()
    # What is made is chosen from its first moment: an edit made right after it belongs to it, not to everywhere.
    assert page.evaluate("first_seen") == "true"
    # The curve: a point is chosen, added, moved and removed.
    curve = page.get_by_role("application", name="Curve of all channels")
    curve.press("Insert")
    for _ in range(3):
        curve.press("ArrowUp")
    expect(page.get_by_text("Point 2: code in 128, code out 131")).to_be_visible()
    curve.press("Delete")
    expect(page.get_by_text(re.compile("Point 1: code in 0"))).to_be_visible()


def test_single_keys_act_only_where_nothing_is_typed_and_can_be_switched_off(page: Page) -> None:
    open_artwork_named(page, "Lantern row.png")
    address = page.url
    # In a list a letter chooses; at a checkbox it is a key of the Bench.
    page.keyboard.press("3")
    page.get_by_role("combobox").first.focus()
    page.keyboard.press("w")
    page.keyboard.press("Escape")
    assert "as=wipe" not in page.url
    page.get_by_role("checkbox").first.focus()
    page.keyboard.press("w")
    expect(page).to_have_url(re.compile("as=wipe"))
    # On the sheet a figure takes a variant, but not out of a list: it was taken while its order was being chosen.
    page.keyboard.press("r")
    page.get_by_role("button", name=re.compile("Perceptual")).first.wait_for()
    page.get_by_role("combobox", name="Order of the sheet").focus()
    page.keyboard.press("1")
    page.wait_for_timeout(300)
    assert "as=sheet" in page.url
    page.get_by_role("checkbox").first.focus()
    page.keyboard.press("1")
    page.wait_for_timeout(300)
    assert "as=sheet" not in page.url
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog", name="Keys of the Bench")
    dialog.get_by_role("checkbox").uncheck()
    page.keyboard.press("e")
    page.keyboard.press("Escape")
    expect(dialog).not_to_be_visible()
    page.keyboard.press("e")
    page.wait_for_timeout(300)
    assert "as=pair" not in page.url
    expect(page.locator("kbd").first).not_to_be_visible()
    assert address.split("?")[0] == page.url.split("?")[0]


def test_plots_are_read_out_by_keys_and_taken_along(page: Page) -> None:
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    open_artwork_named(page, "Night moth.tif")
    page.keyboard.press("4")
    settled(page)
    plot = page.get_by_role("group", name="Inks along the gray axis")
    # The figures come after the picture; a key reads out nothing before.
    plot.get_by_text("K", exact=True).wait_for()
    plot.focus()
    plot.press("End")
    reading = page.locator(".plot", has=plot).locator("output")
    expect(reading).to_contain_text(re.compile(r"gray 255: +C 0\.0 +M 0\.0 +Y 0\.0 +K 0\.0"))
    page.get_by_role("button", name="CSV: copy the values of Inks along the gray axis").click()
    rows = list(csv.reader(page.evaluate("navigator.clipboard.readText()").splitlines()))
    assert rows[0][1:] == ["C", "M", "Y", "K"] and len(rows) == 66
    assert all(float(value) == 0 for value in rows[-1][1:])
    page.get_by_role("button", name="SVG: copy the drawing of Inks along the gray axis").click()
    drawn = page.evaluate("navigator.clipboard.readText()")
    assert drawn.startswith("<svg") and "var(" not in drawn and drawn.count("<path") >= 10


def test_a_cut_begins_in_the_middle_and_says_where_it_is(page: Page) -> None:
    """It began at white, where there is nothing, and said 99 beside a slider at 100."""
    page.goto("/gamut?with=halden-silk-150&view=flat")
    slider = page.get_by_role("slider", name="At L*")
    expect(slider).to_have_attribute("aria-valuetext", "50")
    slider.press("End")
    expect(slider).to_have_attribute("aria-valuetext", "99")
    expect(page.get_by_text("Gamuts at L* 99")).to_be_visible()


def test_a_guide_ticks_itself_off_as_the_work_is_done(page: Page) -> None:
    page.get_by_role("button", name="Guides").click()
    guide = page.get_by_role("complementary", name="Guides")
    guide.get_by_role("button", name=re.compile("^A contact negative")).click()
    expect(guide.get_by_role("status")).to_have_text("Step 1 of 5")
    # It stands beside the picture, and nothing of it over the room.
    box, room = guide.bounding_box(), page.locator("main").bounding_box()
    assert box and room and room["x"] + room["width"] <= box["x"] + 1
    page.goto("/bench/4/leafprint-negative?at=deliver")
    settled(page)
    expect(guide.get_by_role("status")).to_have_text("Step 2 of 5")
    guide.get_by_role("button", name="Show me where").click()
    expect(page.locator(".formats.pointed-at")).to_be_visible()
    page.get_by_role("button", name="Negative For contact").click()
    expect(guide.get_by_role("status")).to_have_text("Step 3 of 5")
    for step, lightness in enumerate(["5", "20", "45", "70", "90"], 1):
        page.get_by_label(f"L* of step {step}", exact=True).fill(lightness)
    page.get_by_role("button", name="Table from the wedge").click()
    expect(guide.get_by_role("status")).to_have_text("Step 4 of 5")
    # A step that is not wanted is passed over; what is still to do stays.
    guide.get_by_role("button", name="Pass over").click()
    expect(guide.get_by_role("status")).to_have_text("Step 5 of 5")
    guide.get_by_role("button", name="Another guide").click()
    guide.get_by_role("button", name="Close").click()
    expect(guide).to_have_count(0)


def test_what_a_colleague_changes_is_seen_and_a_conflict_shows_both(new_page: Page, second_page: Page) -> None:
    page = new_page
    for each in (page, second_page):
        each.goto("/bench/4/tern-news-45?at=aim")
        settled(each)
    second_page.get_by_role("button", name=re.compile("^Perceptual")).click()
    # Seen here within seconds, with name and time.
    expect(page.get_by_role("button", name=re.compile("^Aim"))).to_contain_text("perceptual", timeout=10_000)
    expect(page.locator(".panel")).to_contain_text("maren changed these settings")
    page.get_by_role("button", name="History", exact=True).click()
    past = page.get_by_role("list", name="History of these settings")
    expect(past.locator("> li").first).to_contain_text("maren")
    expect(past.locator("> li").first).to_contain_text("relative → perceptual")
    # Both at once: the one who comes second sees what differs, looks at either, and chooses.
    second_page.context.set_offline(True)
    second_page.get_by_role("button", name=re.compile("^Saturation")).click()
    page.get_by_role("button", name=re.compile("^Relative")).click()
    expect(page.get_by_role("button", name=re.compile("^Aim"))).to_contain_text("relative")
    page.wait_for_timeout(800)
    second_page.context.set_offline(False)
    alert = second_page.locator(".panel").get_by_role("alert")
    expect(alert).to_contain_text("quillmere changed these settings meanwhile", timeout=20_000)
    expect(alert).to_contain_text("relative → saturation")
    aim = second_page.get_by_role("button", name=re.compile("^Aim"))
    press(second_page, alert.get_by_role("button", name="Look at theirs"), most=120)
    expect(aim).to_contain_text("relative")
    press(second_page, alert.get_by_role("button", name="Look at mine"))
    expect(aim).to_contain_text("saturation")
    press(second_page, alert.get_by_role("button", name="Use theirs"))
    expect(alert).to_have_count(0)
    expect(aim).to_contain_text("relative")


def test_what_is_set_a_moment_before_leaving_is_saved_where_it_was_set(page: Page) -> None:
    """The step back came before the setting was saved, which then was written for the other condition."""

    def limit(slug: str) -> float:
        answer = page.request.get(f"/api/bench/2/{slug}/recipe").json()
        return float(answer["recipe"]["ink"]["limits"]["total_percent"])

    page.goto("/bench/2/murrow-offset-120?at=aim")
    settled(page)
    choose(page, "Printing condition", "Brack Pouch film")
    expect(page.get_by_role("button", name=re.compile("^Aim"))).to_contain_text("Brack Pouch film")
    page.keyboard.press("4")
    settled(page)
    before = limit("brack-pouch-film"), limit("murrow-offset-120")
    slider = page.get_by_role("slider", name="Ink limit")
    slider.focus()
    # Both in one breath, as a hand on the keys does it.
    page.evaluate(
        """() => { const s = document.activeElement;
        const next = Number(s.value) - 7;
        Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(s, String(next));
        s.dispatchEvent(new Event('input', {bubbles: true})); s.dispatchEvent(new Event('change', {bubbles: true}));
        history.back(); }"""
    )
    expect(page.get_by_role("button", name=re.compile("^Aim"))).to_contain_text("Murrow Offset 120")
    page.wait_for_timeout(1500)
    assert limit("brack-pouch-film") == before[0] - 7
    assert limit("murrow-offset-120") == before[1]
