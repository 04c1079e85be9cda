"""The real thing: built front end, server and worker as `make demo` starts them, the demo's data, Chromium."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, ConsoleMessage, Page, StorageState, expect, sync_playwright

# The other half of the tests takes the other core: what a person has at once may take its seconds here.
expect.set_options(timeout=20_000)
ROOT = Path(__file__).resolve().parents[2]
CHROMIUM = "/usr/bin/chromium"
ARGUMENTS = [
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--disable-default-apps",
    # Playwright's own list, which this one stands for, and three pages that the browser's address bar loads for itself with
    # each window: 40 % of the work of a test's beginning.
    "--disable-features=" + ",".join((
        "AvoidUnnecessaryBeforeUnloadCheckSync", "DestroyProfileOnBrowserClose", "HttpsUpgrades",
        "HttpsFirstBalancedModeAutoEnable", "LensOverlay", "MediaRouter", "PaintHolding", "ThirdPartyStoragePartitioning",
        "AvoidCorsURLLoaderRestartOnRedirect", "OptimizationHints", "NetworkTimeServiceQuerying", "AimEnabled",
        "PreconnectToSearch", "WebUIOmniboxPopup", "WebUIOmniboxAimPopup", "WebUIOmniboxFullPopup",
    )),
]  # fmt: skip


@pytest.fixture(scope="session")
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, Path]]:
    """Address and data folder of a running Plinto with the demo's data."""
    data = tmp_path_factory.mktemp("house")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    env = {**os.environ, "PLINTO_DATA": str(data), "PLINTO_DEMO": "1"}
    for command in (["migrate", "--verbosity", "0"], ["load_demo"]):
        subprocess.run(
            [sys.executable, "manage.py", *command], cwd=ROOT, env=env, check=True, stdout=subprocess.DEVNULL
        )
    serve = subprocess.Popen([sys.executable, "scripts/serve.py", "--port", str(port)], cwd=ROOT, env=env)
    address = f"http://127.0.0.1:{port}"
    try:
        _wait_for(f"{address}/api/session")
        yield address, data
    finally:
        serve.send_signal(signal.SIGTERM)
        serve.wait(timeout=30)


def _wait_for(address: str) -> None:
    for _ in range(120):
        try:
            urllib.request.urlopen(address, timeout=2).close()
            return
        except (urllib.error.URLError, TimeoutError, ConnectionError):
            time.sleep(0.25)
    raise TimeoutError(f"nothing answers at {address}")


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield chromium
        chromium.close()


@pytest.fixture(scope="session")
def signed_in(browser: Browser, house: tuple[str, Path]) -> StorageState:
    """What the browser keeps after signing in: done once, for a safe password takes its seconds."""
    page = browser.new_page()
    page.goto(house[0])
    page.get_by_role("button", name="Fill it in").click()
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Artwork").wait_for()
    kept = page.context.storage_state()
    page.context.close()
    return kept


@pytest.fixture
def console_errors() -> list[str]:
    """What the page's console said is wrong; a test that breaks something itself empties it."""
    return []


def _is_wrong(message: ConsoleMessage) -> bool:
    """Not what the server refuses, which the tests look for themselves, nor what comes of their reading pixels."""
    if message.type == "warning":
        return not any(words in message.text for words in ("GL Driver Message", "Multiple readback"))
    return message.type == "error" and "status of 4" not in message.text


@pytest.fixture
def new_page(
    browser: Browser, house: tuple[str, Path], signed_in: StorageState, console_errors: list[str]
) -> Iterator[Page]:
    """A signed-in page at 1280 × 800 that has not gone anywhere yet; any error or warning in its console fails the test."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, accept_downloads=True, storage_state=signed_in, base_url=house[0]
    )
    page = context.new_page()
    page.set_default_timeout(40_000)
    errors = console_errors
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on("console", lambda m: errors.append(m.text) if _is_wrong(m) else None)
    yield page
    assert errors == []
    context.close()


@pytest.fixture
def page(new_page: Page) -> Page:
    """The same, at the shelf of artwork."""
    new_page.goto("/")
    new_page.get_by_role("heading", name="Artwork").wait_for()
    return new_page


@pytest.fixture
def second_page(browser: Browser, house: tuple[str, Path]) -> Iterator[Page]:
    """Maren, the demo's operator, at a browser of her own."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=house[0])
    page = context.new_page()
    page.goto("/")
    page.get_by_label("Name").fill("maren")
    page.get_by_label("Password").fill("velderwyn-garden")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Artwork").wait_for()
    yield page
    context.close()
