"""Recordings benches by mouse and keyboard: from the list to the plan."""

import random
import re

import pytest
from playwright.sync_api import Route, expect
from tests.browser.driving import HOUSE, settle, sign_in
from tests.browser.looking import LOOK, serious
from tests.web.benches.calibrate.recordings.recorded import EMPTY, GAPS, OCCUPIED, bench_at

from aldea.demo.hand_recordings import hand_recordings
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES

pytestmark = pytest.mark.browser
# The mill has no photodiode; filters work on the log itself.
NOT_RECORDED = {"photodiode", "filters"}


def test_a_radar_from_an_empty_room_to_the_plan(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/calibrate")
    page.get_by_role("link", name="Stair radar").first.click()
    page.get_by_role("link", name="Start again").click()
    expect(page.locator("h1")).to_contain_text("nothing recorded yet")
    page.get_by_label("The empty room", exact=True).fill(EMPTY)
    page.get_by_role("button", name="Compare").click()
    expect(page.locator("#fix-occupied")).to_contain_text("20 or more")
    expect(page.get_by_label("The empty room", exact=True)).to_have_value(EMPTY)
    page.get_by_label("The occupied room", exact=True).fill(OCCUPIED)
    page.get_by_label("Gaps in presence, s").fill(GAPS)
    page.get_by_role("button", name="Compare").click()
    expect(page.locator("#table-1 tbody tr")).to_have_count(8)
    expect(page.locator("#facts")).to_contain_text("too few gaps for a bound")
    assert serious(page) == []
    assert page.evaluate(LOOK) == []
    first = page.locator("#table-1 tbody tr td:nth-child(3)").first
    before = float(first.inner_text())
    page.get_by_label("Margin on top").fill("12")
    page.keyboard.press("Enter")
    expect(first).to_have_text(f"{before + 7:.1f}")
    page.get_by_role("button", name="Save 8 thresholds in the plan").click()
    expect(page.locator("#in-plan")).to_contain_text("Held for 150 s")
    page.goto(f"{base}{HOUSE}/layout?part=probe:stair_radar")
    expect(page.locator("#f-hold_s")).to_have_value("150")


def test_every_bench_is_used_once_with_what_the_mill_recorded(page, base):
    """From the list by its link, the recording opened, worked out while typing, into the plan."""
    sign_in(page, base, "jon")
    recorded = list(hand_recordings())
    for recording in recorded:
        page.goto(f"{base}{HOUSE}/calibrate")
        address = bench_at(recording.bench, recording.subject)
        page.locator(f'.kinds a[href="{address}"]').click()
        nothing = RECORDINGS_BENCHES[recording.bench].nothing
        expect(page.locator("h1")).not_to_contain_text(nothing)
        page.get_by_role("link", name="Start again").click()
        expect(page.locator("h1")).to_contain_text(nothing)
        page.locator("#recordings a").first.click()
        expect(page.locator("h1")).not_to_contain_text(nothing)
        expect(
            page.locator("#found table").or_(page.locator("#found #facts")).first
        ).to_be_visible()
    assert {r.bench for r in recorded} == RECORDINGS_BENCHES.keys() - NOT_RECORDED

    page.goto(base + bench_at("gas", "studio_gas"))
    expect(page.get_by_text("no certified smoke, gas or CO detector")).to_be_visible()
    page.locator("#recordings a").first.click()
    page.wait_for_url("**recording=*")
    settle(page)
    hint = page.locator("h1")
    before = hint.inner_text()
    page.get_by_label("Speaks at").fill("2")
    expect(hint).not_to_have_text(before)
    page.keyboard.press("Tab")
    page.get_by_role("button", name="Save warm-up, clean air and ratio").click()
    expect(page.locator("#in-plan")).to_contain_text("alarm at 2 times that")
    expect(page.locator("#recordings li")).to_have_count(2)

    # A photodiode is laid out first: the page says where.
    page.goto(f"{base}{HOUSE}/calibrate")
    expect(page.locator("li", has_text="Photodiode")).to_contain_text("for a photodiode")
    page.get_by_role("link", name="Add a probe at Lay out").click()
    page.goto(f"{base}{HOUSE}/layout?part=probe:stair_light")
    page.locator("#f-sensor_kind").select_option("photodiode")
    settle(page)
    with page.expect_navigation():
        page.get_by_role("button", name=re.compile("^Save K")).click()
    expect(page.get_by_label("Responsivity")).to_be_visible()
    page.goto(base + bench_at("photodiode", "stair_light"))
    for label, value in (("Covered", "0.02"), ("In a known light", "100"), ("which is", "10")):
        page.get_by_label(label).fill(value)
    expect(hint).to_contain_text("A/W, full scale at")
    page.get_by_role("button", name="Save its responsivity in the plan").click()
    expect(page.locator("#recordings li")).to_have_count(1)


def only_pressed(route: Route) -> None:
    """Answer what is sent by a press; of what is asked while typing, nothing."""
    if "hx-request" in route.request.headers:
        route.fulfill(status=204)
    else:
        route.continue_()


def test_a_leak_tape_from_its_dry_readings_to_the_plan(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/calibrate")
    page.get_by_role("link", name="Manifold tape").first.click()
    page.get_by_role("link", name="Start again").click()
    expect(page.locator("h1")).to_contain_text("no dry baseline yet")
    readings = page.get_by_label("Counts of the dry tape, blanks between")
    # The press is meant: on a slow machine the answer to the typing would be refused before it.
    page.route("**/manifold_tape/work**", only_pressed)
    readings.fill("1960 1961 1958")
    page.get_by_role("button", name="Calculate").click()
    expect(page.locator("#fix-readings")).to_contain_text("10 or more")
    page.unroute("**/manifold_tape/work**")
    expect(readings).to_have_value("1960 1961 1958")
    noise = random.Random(5)
    readings.fill(" ".join(str(round(noise.gauss(1960, 45))) for _ in range(80)))
    page.get_by_label("Each count is").select_option("single")
    page.get_by_label("Readings in a row").fill("1")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("noise alone would alarm")

    # Three in a row instead of one: slower, and quiet.
    page.get_by_label("Readings in a row").fill("4")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("and less is wet")
    expect(page.get_by_text("4 min at the most")).to_be_visible()
    before = page.locator("#table-1 tbody tr").nth(3).inner_text()
    page.get_by_label("Wet from the baseline by").fill("40")
    page.keyboard.press("Enter")
    expect(page.locator("#table-1 tbody tr").nth(3)).not_to_have_text(before)
    page.get_by_role("button", name=re.compile("^Save wet at")).click()
    offered = page.get_by_role("button", name=re.compile("^Save wet at")).inner_text()
    kilo = offered.removeprefix("Save wet at ").removesuffix(" in the plan")
    expect(page.locator("#in-plan")).to_contain_text(f"The plan has wet at {kilo}")
    page.goto(f"{base}{HOUSE}/layout?part=probe:manifold_tape")
    ohm = float(kilo.split()[0]) * 1000
    assert float(page.locator("#f-wet_ohm").input_value()) == pytest.approx(ohm)
