"""A leak tape by mouse and keyboard: baseline, thresholds, false alarms, into the plan."""

import random
import re

import pytest
from playwright.sync_api import expect
from tests.browser.driving import HOUSE, sign_in

pytestmark = pytest.mark.browser


def test_a_leak_tape_from_its_dry_readings_to_the_plan(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/calibrate")
    page.get_by_role("link", name="All benches").click()
    page.get_by_role("link", name="Manifold tape").click()
    expect(page.locator("h1")).to_contain_text("no dry baseline yet")
    readings = page.get_by_label("Counts of the dry tape, blanks between")
    readings.fill("1960 1961 1958")
    page.get_by_role("button", name="Work it out").click()
    expect(page.locator("#mend-readings")).to_contain_text("10 or more")
    expect(readings).to_have_value("1960 1961 1958")
    noise = random.Random(5)
    readings.fill(" ".join(str(round(noise.gauss(1960, 45))) for _ in range(80)))
    page.get_by_label("Readings in a row").fill("1")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("noise alone would alarm")

    # Three in a row instead of one: slower, and quiet.
    page.get_by_label("Readings in a row").fill("4")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("and less is wet")
    expect(page.get_by_text("4 min at the most")).to_be_visible()
    before = page.locator("#states tbody tr").nth(3).inner_text()
    page.get_by_label("Wet from the baseline by").fill("40")
    page.keyboard.press("Enter")
    expect(page.locator("#states tbody tr").nth(3)).not_to_have_text(before)
    page.get_by_role("button", name=re.compile("^Take wet at")).click()
    offered = page.get_by_role("button", name=re.compile("^Take wet at")).inner_text()
    kilo = offered.removeprefix("Take wet at ").removesuffix(" into the plan")
    expect(page.get_by_text(f"The plan says {kilo} now.")).to_be_visible()
    page.goto(f"{base}{HOUSE}/layout?part=probe:manifold_tape")
    ohm = float(kilo.split()[0]) * 1000
    assert float(page.locator("#f-wet_ohm").input_value()) == pytest.approx(ohm)
