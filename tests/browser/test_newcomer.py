"""A newcomer who reads only what is shown: from sign-in to a kept band, and to a wired draft."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import whole
from tests.browser.driving import press_key, settle, sign_in

pytestmark = pytest.mark.browser
MOST_CLICKS = 36  # at five seconds each three minutes


class Hand:
    """A hand that counts: a press, a choice and a typed field are one each."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.did = 0

    def press(self, name: str | re.Pattern[str], role: str = "button") -> None:
        self.did += 1
        self.page.get_by_role(role, name=name).first.click()  # type: ignore[arg-type]

    def fill(self, label: str, text: str) -> None:
        self.did += 2
        settle(self.page)  # what is typed before the scripts stand nobody would answer
        self.page.get_by_role("textbox", name=label, exact=True).fill(text)

    def choose(self, label: str, text: str) -> None:
        self.did += 2
        self.page.get_by_label(label, exact=True).select_option(label=text)


def test_from_a_log_to_a_kept_band_in_three_minutes_of_clicks(page, base, tmp_path):
    rows = ["time;damp"]
    for i in range(432):
        damp = f"{52 + abs(i % 144 - 72) / 4:.1f}".replace(".", ",")
        rows.append(f"{1 + i // 144:02d}.11.2025 {i // 6 % 24:02d}:{i % 6}0;{damp}")
    log = tmp_path / "cellar.csv"
    log.write_text("\n".join(rows))
    sign_in(page, base, "jon")
    page.goto(f"{base}/houses")
    hand = Hand(page)
    page.get_by_label("The log, CSV").set_input_files(log)
    hand.did += 3
    hand.choose("Quantity", "relative humidity")
    hand.fill("In the place", "Cellar")
    hand.fill("Load to switch", "Cellar fan")
    hand.choose("On", "when it is too high")
    hand.press("Start with this log")
    hand.press("Check the whole file")
    expect(page.locator("h1")).to_contain_text("432 readings")
    hand.press(re.compile("^Store 432"))
    hand.press("Tune on it", "link")
    expect(page.locator("#verdict")).to_contain_text("starts a day")
    hand.fill("On threshold", "68")
    expect(page.locator("#verdict")).to_contain_text("on at 68")
    whole(page)
    hand.press(re.compile("^Save in draft"))
    expect(page.get_by_text("Saved as draft 2.")).to_be_visible()
    assert hand.did <= MOST_CLICKS, hand.did


def test_from_a_problem_to_a_wired_draft_and_back(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}/houses")
    whole(page)
    page.locator("summary", has_text="Stair light").click()
    page.get_by_role("button", name="Start with: stair light").click()
    page.wait_for_url("**/rule?load=stair_lamp")
    expect(page.locator(".slab").first).to_be_visible()
    expect(page.get_by_text("estimated").first).to_be_visible()
    press_key(page, "2")
    page.wait_for_url("**/wire")
    drawing = page.locator("#panel-drawing")
    for name in ("Stair lamp", "Stair motion", "Stair light"):
        expect(drawing).to_contain_text(name)
    expect(page.locator("h1")).not_to_contain_text("needs fixing")
    page.goto(f"{base}/houses")
    page.get_by_role("button", name=re.compile("Undo the creation of Stair light")).click()
    expect(page.get_by_role("link", name="Stair light")).to_have_count(0)


def test_on_a_phone_the_benches_fold_into_a_menu_and_no_page_is_wider(page, base):
    page.set_viewport_size({"width": 390, "height": 844})
    sign_in(page, base, "guest")
    for path in ("", "/record", "/rule?load=extractor", "/tune/dehumidifier", "/wire", "/layout",
                 "/calibrate/drying_rh", "/certificates", "/computed", "/calibrate"):  # fmt: skip
        page.goto(f"{base}/h/molino-alto{path}")
        width = page.evaluate("document.documentElement.scrollWidth")
        assert width <= 390, (path, width)
    page.goto(f"{base}/h/molino-alto")
    benches = page.get_by_role("navigation", name="Benches")
    expect(benches).to_be_hidden()
    page.get_by_role("button", name="Benches").click()
    expect(benches).to_be_visible()
    expect(benches.get_by_role("link").first).to_be_focused()
    benches.get_by_role("link", name="Record").click()
    page.wait_for_url("**/record")


def test_escape_leaves_a_field_so_that_keys_are_heard_again(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}/h/molino-alto/tune/dehumidifier")
    page.locator("#f-on").click()
    page.keyboard.press("9")
    assert page.url.endswith("/tune/dehumidifier"), "it was typed, not pressed"
    page.keyboard.press("Escape")
    page.keyboard.press("9")
    page.wait_for_url("**/record")
