"""What a person does on the Bench, for the tests."""

import base64

import numpy as np
from playwright.sync_api import Locator, Page, expect


def settled(page: Page) -> None:
    page.wait_for_timeout(350)
    page.locator(".stage[data-ready=true]").wait_for()
    page.wait_for_timeout(150)
    page.locator(".stage[data-ready=true]").wait_for()


def canvas(page: Page) -> np.ndarray:
    """The stage's pixels (height, width, 3)."""
    width, height, data = page.evaluate(
        """() => { const c = document.querySelector('.stage canvas');
        const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
        let s = ''; for (let i = 0; i < d.length; i += 32768) s += String.fromCharCode(...d.subarray(i, i + 32768));
        return [c.width, c.height, btoa(s)]; }"""
    )
    return np.frombuffer(base64.b64decode(data), np.uint8).reshape(height, width, 4)[..., :3].astype(int)


def open_artwork_named(page: Page, name: str) -> None:
    page.get_by_text(name, exact=True).click()
    settled(page)


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_label(label, exact=True).locator("xpath=..").get_by_role("combobox").click()
    page.get_by_role("option", name=option).click()


def tab_to(page: Page, control: Locator, most: int = 60) -> None:
    """Bring the focus to a control as somebody without a mouse does, within so many presses of Tab."""
    control.wait_for()
    for _ in range(most):
        if control.evaluate("control => control === document.activeElement"):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{control} is not reached by {most} presses of Tab")


def press(page: Page, control: Locator, key: str = "Enter", most: int = 60) -> None:
    """Bring the focus to a control and press a key on it."""
    tab_to(page, control, most)
    page.keyboard.press(key)


def choose_by_keys(page: Page, label: str, option: str) -> None:
    """Open a list, go down to an option and take it, by keys alone."""
    press(page, page.get_by_label(label, exact=True).locator("xpath=..").get_by_role("combobox"))
    wanted = page.get_by_role("option", name=option)
    wanted.wait_for()
    for _ in range(40):
        if wanted.evaluate("option => option === document.activeElement"):
            return page.keyboard.press("Enter")
        page.keyboard.press("ArrowDown")
    raise AssertionError(f"'{option}' is not reached by the arrow keys")


def slide(page: Page, label: str, value: int, exact: bool = False) -> None:
    """Move a slider with the keyboard, as a person would to reach an exact figure."""
    slider = page.get_by_role("slider", name=label, exact=exact)
    slider.focus()
    now = float(slider.get_attribute("aria-valuenow") or 0)
    step = float(slider.get_attribute("step") or 1)
    for _ in range(round(abs(value - now) / step)):
        slider.press("ArrowRight" if value > now else "ArrowLeft")
    expect(slider).to_have_attribute("aria-valuenow", str(value))
