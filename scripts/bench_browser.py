"""From the press of a key to the painted canvas, first pages and thin lines, in Chromium over the demo's data."""

import os
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Browser, Page, StorageState, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]

from measures_file import write_section  # noqa: E402
from tests.browser.conftest import ARGUMENTS, CHROMIUM  # noqa: E402

BENCH = "/bench/1/halden-silk-150?at=ink"
#: 1 Mbit/s with half a second of latency.
THIN = {"offline": False, "latency": 500, "downloadThroughput": 125_000, "uploadThroughput": 125_000}
MOVES = 40
LINES: list[str] = []

#: Notes, for each key, how long it took until the stage was painted anew: with a sketch over a thin line.
WATCH = """() => {
  window.took = []; let began = 0;
  addEventListener('keydown', () => { began = performance.now(); }, true);
  new PerformanceObserver((marks) => {
    if (!began || !marks.getEntries().some((mark) => mark.name === 'painted' && mark.startTime > began)) return;
    const from = began; began = 0;
    requestAnimationFrame(() => window.took.push(performance.now() - from));
  }).observe({type: 'mark'});
}"""


def say(text: str) -> None:
    """Print, and keep for the file."""
    print(text, flush=True)
    LINES.append(text)


def row(what: str, measured: str, aim: str, missed: bool) -> None:
    """A line of the table; what is missed is marked."""
    say(f"| {what} | {measured} | {aim} | {'missed' if missed else ''} |")


def moves(page: Page, count: int) -> list[float]:
    """Milliseconds of so many steps of the ink limit's slider, each waited for."""
    page.evaluate(WATCH)
    slider = page.get_by_role("slider", name="Ink limit")
    slider.focus()
    for step in range(count):
        before = page.evaluate("window.took.length")
        slider.press("ArrowLeft")
        page.wait_for_function("before => window.took.length > before", arg=before)
        page.wait_for_timeout(700 if step < 2 else 350)
    return [float(each) for each in page.evaluate("window.took")][2:]


#: Notes how long after a press the view tells of 5,000 colors and has been drawn twice.
CHOSEN = """() => {
  let began = 0;
  addEventListener('pointerdown', () => { began = performance.now(); }, {capture: true, once: true});
  const view = document.querySelector('.colors-view');
  const look = () => {
    const there = began && view.dataset.ready === 'true' && view.textContent.startsWith('5,000 chosen');
    requestAnimationFrame(there
      ? () => requestAnimationFrame(() => window.took.push(performance.now() - began)) : look);
  };
  window.took ??= []; look();
}"""
#: A list and its steps, as the room asks for them.
GRID = """async () => {
  const token = document.cookie.match(/csrftoken=([^;]+)/)[1];
  const answer = await fetch('/api/colors/lists/grid', {
    method: 'POST', headers: {'content-type': 'application/json', 'x-csrftoken': token},
    body: JSON.stringify({profile: 'ROMM', side: 18})});
  return (await answer.json()).id;
}"""


def chosen_in_space(page: Page, times: int) -> list[float]:
    """Milliseconds from the press that chooses 5,000 of 5,832 colors, through two profiles, to their points."""
    page.goto("/colors")
    page.locator("main h1").wait_for()
    page.goto(f"/colors?list={page.evaluate(GRID)}")
    for at, profile in ((1, "ROMM"), (2, "Halden Silk 150")):
        page.get_by_role("button", name="Add a step").click()
        page.get_by_label(f"Step {at}: profile").select_option(label=profile)
    page.get_by_label("To column").select_option(index=1)
    grid = page.locator(".color-grid")
    for _ in range(times):
        grid.evaluate("box => box.scrollTo({top: 0})")
        none = page.get_by_role("button", name="Choose none")
        if none.count():
            none.click()
        grid.locator('tr[aria-rowindex="3"]').get_by_role("checkbox").click()
        grid.evaluate("box => box.scrollTo({top: 124_900})")
        last = grid.locator('tr[aria-rowindex="5002"]').get_by_role("checkbox")
        last.wait_for()
        page.wait_for_timeout(1500)
        page.evaluate(CHOSEN)
        last.click(modifiers=["Shift"])
        page.wait_for_timeout(2500)
    return [float(each) for each in page.evaluate("window.took")]


def over_a_thin_line(chromium: Browser, address: str, state: StorageState) -> None:
    """The first picture, and a moved limit."""
    thin = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address, storage_state=state)
    page = thin.new_page()
    line = thin.new_cdp_session(page)
    line.send("Network.enable")
    line.send("Network.emulateNetworkConditions", THIN)
    page.goto("/bench")
    page.locator(".sheet-card").first.wait_for()
    page.wait_for_timeout(15_000)  # the rooms come while one looks at the shelf
    began = time.perf_counter()
    page.get_by_text("Night moth.tif", exact=True).click()
    page.locator(".stage canvas").wait_for()
    page.wait_for_function(
        "() => { const c = document.querySelector('.stage canvas'); if (!c.width) return false;"
        "return c.getContext('2d').getImageData(c.width / 2, c.height / 2, 1, 1).data[3] > 0; }"
    )
    picture = time.perf_counter() - began
    row("1 Mbit/s, 500 ms: the Bench's first picture", f"{picture:.1f} s", "4 s", picture > 4)
    page.keyboard.press("4")
    page.locator(".stage[data-ready=true]").wait_for()
    took = moves(page, 10)
    slow = statistics.median(took)
    row(
        f"1 Mbit/s, 500 ms: ink limit moved, {len(took)} steps, median",
        f"{slow / 1000:.2f} s",
        "1.5 s",
        slow > 1500,
    )
    thin.close()


def measure(address: str) -> None:
    """Everything that is measured in a browser."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
        page = context.new_page()
        page.goto("/")
        page.get_by_role("button", name="Fill it in").click()
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Artwork").wait_for()
        state = context.storage_state()
        say("| in Chromium, 1280 × 800, a 3.8 MP artwork, fitted | measured | aim | |")
        say("|---|---|---|---|")
        page.goto(BENCH)
        page.locator(".stage[data-ready=true]").wait_for()
        took = moves(page, MOVES)
        median, late = statistics.median(took), sorted(took)[int(0.95 * len(took))]
        row(f"ink limit moved, key to canvas, {len(took)} steps, median", f"{median:.0f} ms", "120 ms", median > 120)
        row("the same, 95 % within", f"{late:.0f} ms", "200 ms", late > 200)
        context.close()

        space = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address, storage_state=state)
        took = chosen_in_space(space.new_page(), 7)
        median = statistics.median(took)
        row("5,000 colors chosen, click to points in space, median", f"{median:.0f} ms", "200 ms", median > 200)
        space.close()

        cold = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=address, storage_state=state)
        page = cold.new_page()
        began = time.perf_counter()
        page.goto("/bench")
        page.locator(".sheet-card").first.wait_for()
        first = time.perf_counter() - began
        row("first page, nothing in the browser's cache", f"{first:.2f} s", "1 s", first > 1)
        cold.close()

        over_a_thin_line(chromium, address, state)
        chromium.close()


def main() -> None:
    """Start a house of its own with the demo's data, measure, stop it."""
    with tempfile.TemporaryDirectory() as data, socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
        free.close()
        env = {**os.environ, "PLINTO_DATA": data, "PLINTO_DEMO": "1"}
        for command in (["migrate", "--verbosity", "0"], ["load_demo"]):
            subprocess.run(
                [sys.executable, "manage.py", *command], cwd=ROOT, env=env, check=True, stdout=subprocess.DEVNULL
            )
        serve = subprocess.Popen([sys.executable, "scripts/serve.py", "--port", str(port)], cwd=ROOT, env=env)
        time.sleep(25)  # the batch of the demo is made meanwhile
        try:
            measure(f"http://127.0.0.1:{port}")
        finally:
            serve.send_signal(signal.SIGTERM)
            serve.wait(timeout=30)
    write_section("## In the browser", LINES)


if __name__ == "__main__":
    main()
