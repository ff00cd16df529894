"""A served demo house and a browser that reports every error of a page."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from playwright.sync_api import ConsoleMessage, Page, expect
from tests.browser.driving import LAUNCH

expect.set_options(timeout=20_000)  # a loaded machine is slow, not wrong


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    """Debian's Chromium."""
    return LAUNCH


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    """The size that the benches are drawn for."""
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True}


@contextmanager
def without_errors(page: Page) -> Iterator[Page]:
    """A page whose script errors and refused resources fail the test."""
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(str(error)))

    def note(message: ConsoleMessage) -> None:
        # A refusal of the server (422, 409) is part of the path; a broken page is not.
        # Nor is a connection that a test cut.
        known = ("status of 4", "Status Error Code 4", "net::ERR_FAILED")
        if message.type == "error" and not any(part in message.text for part in known):
            wrong.append(message.text)

    page.on("console", note)
    yield page
    assert not wrong


@pytest.fixture
def page(page: Page) -> Iterator[Page]:
    """A page of its own for one test, which nothing may go wrong on."""
    with without_errors(page):
        yield page
