"""A presence radar by mouse and keyboard: two rooms recorded, gates, a hold, into the plan."""

import re

import pytest
from playwright.sync_api import expect
from tests.browser.driving import HOUSE, sign_in
from tests.browser.test_path import LOOK, serious
from tests.web.test_radar_page import EMPTY, GAPS, OCCUPIED

from aldea.demo.hand_recordings import hand_recordings
from aldea.web.trials import TRIALS

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


def test_every_bench_is_used_once_with_what_the_mill_recorded(page, base):
    """From the list by its link, the recording opened, worked out while typing, into the plan."""
    sign_in(page, base, "jon")
    recorded = [r for r in hand_recordings() if r.bench in TRIALS]
    for recording in recorded:
        page.goto(f"{base}{HOUSE}/benches")
        address = f"{HOUSE}/trial/{recording.bench}/{recording.subject}"
        page.locator(f'#benches a[href="{address}"]').click()
        expect(page.locator("h1")).to_contain_text("nothing tried yet")
        page.locator("#recordings a").first.click()
        expect(page.locator("h1")).not_to_contain_text("nothing tried yet")
        expect(
            page.locator("#found table").or_(page.locator("#found #facts")).first
        ).to_be_visible()
    assert {r.bench for r in recorded} == TRIALS.keys() - {"photodiode"}

    page.goto(f"{base}{HOUSE}/trial/gas/studio_gas")
    expect(page.get_by_text("no certified smoke, gas or CO detector")).to_be_visible()
    page.locator("#recordings a").first.click()
    hint = page.locator("h1")
    before = hint.inner_text()
    page.get_by_label("Speaks at").fill("2")
    expect(hint).not_to_have_text(before)
    page.keyboard.press("Tab")
    page.get_by_role("button", name="Take warm-up, clean air and ratio").click()
    expect(page.locator("#in-plan")).to_contain_text("speaks at 2 times that")
    expect(page.locator("#recordings li")).to_have_count(2)

    # A photodiode is laid out first: the list says where.
    page.goto(f"{base}{HOUSE}/benches")
    page.locator("tr", has_text="Photodiode").get_by_role("link", name="Lay out").click()
    page.goto(f"{base}{HOUSE}/layout?part=probe:stair_light")
    page.locator("#f-sensor_kind").select_option("photodiode")
    page.get_by_role("button", name=re.compile("^Keep K")).click()
    expect(page.get_by_label("Responsivity")).to_be_visible()
    page.goto(f"{base}{HOUSE}/trial/photodiode/stair_light")
    for label, value in (("Covered", "0.02"), ("In a known light", "100"), ("which is", "10")):
        page.get_by_label(label).fill(value)
    expect(hint).to_contain_text("A/W, full scale at")
    page.get_by_role("button", name="Take its responsivity into the plan").click()
    expect(page.locator("#recordings li")).to_have_count(1)
