"""The longest names that a form takes, in a house of its own: no page grows wider for them."""

import pytest
from tests.browser.driving import HOUSE, settle, sign_in

pytestmark = pytest.mark.browser


def test_with_names_of_79_letters_no_page_is_wider_than_a_window_of_320(page, base):
    sign_in(page, base, "jon")
    tail = " of the uppermost drying loft behind the second chimney stack, north side wall"
    renamed = ("probe:studio_temp", "load:extractor", "control:drying_remote", "place:print_studio")
    for part in renamed:
        page.goto(f"{base}{HOUSE}/layout?part={part}")
        settle(page)
        page.locator("#f-name").fill((part.partition(":")[2] + tail)[:79])
        with page.expect_navigation():
            page.locator("#f-name").press("Control+Enter")
    page.set_viewport_size({"width": 320, "height": 700})
    wide = {}
    for path in (
        "", "/layout?part=probe:studio_temp", "/wire", "/wire/controls?control=drying_remote",
        "/calibrate", "/calibrate/studio_temp", "/tune/extractor", "/rule?load=extractor",
        "/rule/failsafe?load=extractor", "/rule/house", "/rule/sentences", "/record",
    ):  # fmt: skip
        page.goto(f"{base}{HOUSE}{path}")
        settle(page)
        width = page.evaluate("document.documentElement.scrollWidth")
        if width > 320:
            wide[path] = width
    assert wide == {}
