"""Chromium as the tests and the pictures start it, and signing in."""

from typing import Any

from playwright.sync_api import Page

from aldea.cli.checking import CHROMIUM
from aldea.demo.sign_ins import PASSWORD

LAUNCH: dict[str, Any] = {
    "executable_path": CHROMIUM,
    "args": [
        "--no-sandbox",
        "--disable-dev-shm-usage",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
    ],
}
HOUSE = "/h/molino-alto"


_SIGNED: dict[tuple[str, str], list[Any]] = {}

# Loaded, every font there, nothing asked for that has not come.
SETTLED = """() => document.readyState === 'complete' && document.fonts.status === 'loaded'
  && !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')"""


def settle(page: Page) -> None:
    """Wait until the page stands still."""
    page.wait_for_function(SETTLED)


def press_key(page: Page, key: str) -> None:
    """Press a key of the page; before it stands still nobody would hear it."""
    settle(page)
    page.keyboard.press(key)


def bring_cookie(page: Page, base: str, name: str) -> bool:
    """Bring the cookie of an earlier sign-in at the same address along, if there is one."""
    known = (base, name) in _SIGNED
    if known:
        page.context.add_cookies(_SIGNED[base, name])
    return known


def sign_in(page: Page, base: str, name: str) -> None:
    """Sign in by the page; who comes later to the same server brings the cookie along."""
    if bring_cookie(page, base, name):
        page.goto(base + HOUSE)
        if "/sign-in" not in page.url:
            return
    page.goto(f"{base}/sign-in")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    page.wait_for_url("**/h/**")
    _SIGNED[base, name] = [*page.context.cookies()]
