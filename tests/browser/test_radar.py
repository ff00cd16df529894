"""A presence radar by mouse and keyboard: two rooms recorded, gates, a hold, into the plan."""

import pytest
from playwright.sync_api import expect
from tests.browser.driving import HOUSE, sign_in
from tests.browser.test_path import LOOK, serious
from tests.web.test_radar_page import EMPTY, GAPS, OCCUPIED

pytestmark = pytest.mark.browser


def test_a_radar_from_an_empty_room_to_the_plan(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/calibrate")
    page.get_by_role("link", name="All benches").click()
    page.get_by_role("link", name="Stair radar").click()
    expect(page.locator("h1")).to_contain_text("nothing recorded yet")
    page.get_by_label("The empty room", exact=True).fill(EMPTY)
    page.get_by_role("button", name="Compare").click()
    expect(page.locator("#mend-occupied")).to_contain_text("20 or more")
    expect(page.get_by_label("The empty room", exact=True)).to_have_value(EMPTY)
    page.get_by_label("The occupied room", exact=True).fill(OCCUPIED)
    page.get_by_label("Gaps in presence, s").fill(GAPS)
    page.get_by_role("button", name="Compare").click()
    expect(page.locator("#gates tbody tr")).to_have_count(8)
    expect(page.locator("#hold")).to_contain_text("too few gaps for a promise")
    assert serious(page) == []
    assert page.evaluate(LOOK) == []
    first = page.locator("#gates tbody tr b").first
    before = float(first.inner_text())
    page.get_by_label("Margin on top").fill("12")
    page.keyboard.press("Enter")
    expect(first).to_have_text(f"{before + 7:.1f}")
    page.get_by_role("button", name="Take 8 thresholds into the plan").click()
    expect(page.locator("#in-plan")).to_contain_text("Held for 150 s")
    page.goto(f"{base}{HOUSE}/layout?part=probe:stair_radar")
    expect(page.locator("#f-hold_s")).to_have_value("150")
