"""Rules of houses that begin with their parts: cases 5 and 16, with hands, modes and hours."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import fill, opened, whole
from tests.browser.driving import press_key, settle
from tests.browser.test_rule import add_claim, put_in, slab

pytestmark = pytest.mark.browser


def schedule(page: Page, home: str, name: str, start: str, end: str) -> None:
    """A schedule of one window on each day."""
    page.goto(f"{home}/rule/house?part=schedule:")
    fill(page, name=name, w0_start=start, w0_end=end)
    put_in(page)
    expect(page.locator("#week rect").first).to_be_visible()


def press_wants(page: Page, control: str, does: str, target: str, only: str = "") -> None:
    """What the short press of a button wants, at Controls."""
    whose = f"a press of {control}"
    page.get_by_label(f"{whose} does", exact=True).select_option(does)
    page.get_by_label(f"of which load or group, {whose}").select_option(target)
    if only:
        page.get_by_label(f"in which mode, {whose}").select_option(only)
    page.get_by_label(f"Keep the press of {control}").click()
    settle(page)


def test_case_5_a_thermostat_with_a_mode_button_from_its_plan_file(page, base):
    home = opened(page, base, "thermostat")
    page.goto(f"{home}/layout?part=house")
    fill(page, latitude_deg="42.2", longitude_deg="1.9")
    put_in(page)
    page.goto(f"{home}/rule/house?part=mode:")
    fill(page, name="Heating", values="automatic, manual")
    put_in(page)
    schedule(page, home, "Night", "22:30", "06:00")
    schedule(page, home, "Evening", "sunset", "23:00")

    # The band asks only in automatic; at night nothing is asked for.
    page.goto(f"{home}/rule?load=heater")
    page.get_by_role("button", name="A heater").click()
    slab(page, "Parlour air is below 18 °C").get_by_role("link").click()
    page.get_by_role("button", name="Add a row").click()
    settle(page)
    fill(page, w0_kind="mode", w0_mode_value="heating=automatic", basis="stated")
    put_in(page)
    expect(slab(page, "Heating is “automatic”")).to_contain_text("Parlour air is below 18 °C")
    add_claim(page, "a schedule")
    fill(page, want="off", c_schedule="night")
    put_in(page)
    expect(slab(page, "Off while the schedule “Night” is on")).to_be_visible()
    whole(page)

    # One button changes the mode; the other works the load, and only in manual.
    page.goto(f"{home}/wire/controls")
    press_wants(page, "Mode button", "mode", "mode:heating")
    press_wants(page, "Heater button", "toggle", "load:heater", "heating=manual")
    page.goto(f"{home}/rule/failsafe?load=heater")
    told = page.get_by_text(
        "Heater button, a short press: toggles it, only while Heating is manual."
    )
    expect(told.first).to_be_visible()
    expect(page.get_by_text("Mode button, a short press")).to_have_count(0)

    # The lamp from dusk to bedtime.
    page.goto(f"{home}/rule?load=evening_lamp")
    add_claim(page, "a schedule")
    fill(page, want="on", c_schedule="evening")
    put_in(page)
    expect(slab(page, "On while the schedule “Evening” is on")).to_be_visible()
    page.get_by_role("link", name="All rules in words").click()
    for text in ("Heating is “automatic”", "only while Heating is manual", "“Evening” is on"):
        expect(page.get_by_text(re.compile(text)).first).to_be_visible()
    whole(page)


def test_case_16_who_may_override_and_until_when_from_its_plan_file(page, base):
    home = opened(page, base, "shared_drier")
    schedule(page, home, "Quiet hours", "22:00", "07:00")

    # A hand ends after an hour, and no hand gets past the quiet hours.
    page.goto(f"{home}/rule?load=drier")
    add_claim(page, "a schedule")
    fill(page, want="off", c_schedule="quiet_hours")
    put_in(page)
    page.goto(f"{home}/rule/failsafe?load=drier")
    expect(page.get_by_text("A hand gets past every rule of it")).to_be_visible()
    expect(page.get_by_text("Weir flat: toggles it.").first).to_be_visible()
    fill(page, school="time", for_s="3600", max_on_s="7200")
    put_in(page)
    page.get_by_role("link", name="Add binding hours").click()
    expect(page.locator("#f-rank")).to_have_value("interlock")
    expect(page.locator("#f-want")).to_have_value("off")
    fill(page, c_schedule="quiet_hours")
    put_in(page)
    stack = page.locator(".slab .what")
    expect(stack.first).to_contain_text("Off while the schedule “Quiet hours” is on")
    page.goto(f"{home}/rule/failsafe?load=drier")
    bound = page.locator("li", has_text="Off while the schedule “Quiet hours” is on.")
    expect(bound.first).to_be_visible()
    page.goto(f"{home}/rule/sentences")
    expect(page.get_by_text("By hand: it ends by itself after 60 min.")).to_be_visible()

    # Who did it, and what it was before, stands in the record; a step back is one key.
    page.goto(f"{home}/record")
    expect(page.get_by_text("Quiet hours").first).to_be_visible()
    page.goto(f"{home}/rule?load=drier")
    before = stack.count()
    press_key(page, "z")
    expect(stack).to_have_count(before - 1)
    whole(page)
