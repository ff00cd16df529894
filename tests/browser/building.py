"""Building a house by its pages: begun empty, parts put in, forms filled and kept."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect
from tests.browser.driving import settle, sign_in
from tests.browser.looking import LOOK, serious

HOUSES = Path(__file__).with_name("houses")


def begin(page: Page, base: str, name: str) -> str:
    """A new empty house; returns its address."""
    sign_in(page, base, "jon")
    page.goto(f"{base}/houses")
    page.get_by_label("Name").fill(name)
    page.get_by_role("button", name="Create house and lay out").click()
    page.wait_for_url("**/layout")
    expect(page.get_by_text("An empty house")).to_be_visible()
    return page.url.removesuffix("/layout")


def opened(page: Page, base: str, name: str) -> str:
    """A house begun from its plan file: what stands in it before the test; returns its address."""
    sign_in(page, base, "jon")
    page.goto(f"{base}/houses")
    page.get_by_label("Plan file").set_input_files(HOUSES / f"{name}.json")
    page.get_by_role("button", name="Import house").click()
    page.wait_for_url("**/h/**")
    return f"{base}/h/{page.url.split('/h/')[1].split('/')[0].split('?')[0]}"


def put(page: Page, home: str, part: str, /, **fields: str) -> None:
    """Put a part in by its form."""
    page.goto(f"{home}/layout?add={part}")
    fill(page, **fields)
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_role("button", name="Remove")).to_be_visible()


def fill(page: Page, /, **fields: str) -> None:
    for name, value in fields.items():
        field = page.locator(f"#f-{name}")
        if field.evaluate("e => e.tagName") == "SELECT":
            field.select_option(value)
            settle(page)
        else:
            field.fill(value)


def version_of(page: Page) -> int:
    """The draft's version, from the roof."""
    return int(page.locator(".roof .side b").first.inner_text())


def moved_on(page: Page, version: int) -> None:
    """The draft has the next version."""
    expect(page.locator(".roof .side b").first).to_have_text(str(version + 1))


def keep(page: Page, *, refused: bool = False) -> None:
    """Keep the form; the draft has another version then, unless it is refused."""
    version = version_of(page)
    page.get_by_role("button", name=re.compile("^Save K")).click()
    if refused:
        expect(page.locator(".fix").first).to_be_visible()
    else:
        moved_on(page, version)


def whole(page: Page) -> None:
    """Nothing cut, overlapping, too small; nothing serious for axe."""
    settle(page)
    found = serious(page)
    assert not found, found
    seen = page.evaluate(LOOK)
    assert not seen, seen
