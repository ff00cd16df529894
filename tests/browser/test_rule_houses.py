"""Rules of houses that begin with their parts: cases 5 and 16, with hands, modes and hours."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import fill, opened, whole
from tests.browser.driving import press_key, settle
from tests.browser.test_rule import add_rule, put_in, slab

pytestmark = pytest.mark.browser


def schedule(page: Page, home: str, name: str, start: str, end: str) -> None:
    """A schedule of one window on each day."""
    page.goto(f"{home}/rule/house?part=schedule:")
    fill(page, name=name, w0_start=start, w0_end=end)
    put_in(page)
    expect(page.locator("#week rect").first).to_be_visible()


def press_wants(page: Page, control: str, does: str, target: str, only: str = "") -> None:
    """What the short press of a button wants, at Controls."""
    page.get_by_label(f"Add a press of {control}").click()
    settle(page)
    page.get_by_label("Action", exact=True).select_option(does)
    page.get_by_label("Of", exact=True).select_option(target)
    if only:
        page.get_by_label("Only while").select_option(only)
    page.get_by_role("button", name="Save to draft").click()
    settle(page)
    expect(page.locator("#editor h2")).to_contain_text("short press")


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

    # In the overview an edge is moved by keys and by mouse, and keeps the focus.
    page.goto(f"{home}/rule/house")
    edge = page.locator(".edge[data-part=night][data-field=w0_start]")
    edge.focus()
    with page.expect_navigation():
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowRight")
    settle(page)
    expect(edge).to_have_attribute("aria-valuetext", "22:40")
    expect(edge).to_be_focused()
    box = edge.bounding_box()
    strip = page.locator("svg", has=edge).bounding_box()
    assert box is not None
    assert strip is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(
        box["x"] + box["width"] / 2 - strip["width"] / 36, box["y"] + box["height"] / 2, steps=4
    )
    with page.expect_navigation():
        page.mouse.up()
    settle(page)
    assert re.fullmatch(r"21:(35|40|45)", edge.get_attribute("aria-valuetext") or "")
    whole(page)
    page.get_by_role("button", name="Undo").click()
    settle(page)

    # The band asks only in automatic; at night nothing is asked for.
    page.goto(f"{home}/rule?load=heater")
    page.get_by_role("button", name="A heater").click()
    slab(page, "Parlour air is 18 °C or below").get_by_role("link").click()
    page.get_by_role("button", name="Add a row").click()
    settle(page)
    fill(page, w0_kind="mode", w0_mode_value="heating=automatic", basis="entered")
    put_in(page)
    expect(slab(page, "Heating is “automatic”")).to_contain_text("Parlour air is 18 °C or below")
    add_rule(page, "a schedule")
    fill(page, want="off", c_schedule="night")
    put_in(page)
    expect(slab(page, "Off during “Night”")).to_be_visible()
    whole(page)

    # One button changes the mode; the other works the load, and only in manual.
    page.goto(f"{home}/wire/controls")
    press_wants(page, "Mode button", "mode", "mode:heating")
    press_wants(page, "Heater button", "toggle", "load:heater", "heating=manual")
    page.goto(f"{home}/rule/failsafe?load=heater")
    told = page.get_by_text(
        "Heater button, a short press: toggles it, only while Heating is “manual”."
    )
    expect(told.first).to_be_visible()
    expect(page.get_by_text("Mode button, a short press")).to_have_count(0)

    # The lamp from dusk to bedtime.
    page.goto(f"{home}/rule?load=evening_lamp")
    add_rule(page, "a schedule")
    fill(page, want="on", c_schedule="evening")
    put_in(page)
    expect(slab(page, "On during “Evening”")).to_be_visible()
    page.get_by_role("link", name="All rules in words").click()
    for text in ("Heating is “automatic”", "only while Heating is “manual”", "On during “Evening”"):
        expect(page.get_by_text(re.compile(text)).first).to_be_visible()
    whole(page)


def test_case_16_who_may_override_and_until_when_from_its_plan_file(page, base):
    home = opened(page, base, "shared_drier")
    schedule(page, home, "Quiet hours", "22:00", "07:00")

    # A hand ends after an hour, and no hand gets past the quiet hours.
    page.goto(f"{home}/rule?load=drier")
    add_rule(page, "a schedule")
    fill(page, want="off", c_schedule="quiet_hours")
    put_in(page)
    page.goto(f"{home}/rule/failsafe?load=drier")
    expect(
        page.get_by_text("A manual override takes precedence over every rule of this load")
    ).to_be_visible()
    expect(page.get_by_text("Weir flat: toggles it.").first).to_be_visible()
    fill(page, ends_by="time", for_s="3600", max_on_s="7200")
    put_in(page)
    page.get_by_role("link", name="Add enforced quiet hours").click()
    expect(page.locator("#f-priority")).to_have_value("interlock")
    expect(page.locator("#f-want")).to_have_value("off")
    fill(page, c_schedule="quiet_hours")
    put_in(page)
    stack = page.locator(".slab .what")
    expect(stack.first).to_contain_text("“Quiet hours” (")
    page.goto(f"{home}/rule/failsafe?load=drier")
    bound = page.locator("li", has_text="during “Quiet hours”")
    expect(bound.first).to_be_visible()
    page.goto(f"{home}/rule/sentences")
    expect(page.get_by_text("A manual override ends after 1 h.")).to_be_visible()

    # Who did it, and what it was before, stands in the record; a step back is one key.
    page.goto(f"{home}/record")
    expect(page.get_by_text("Quiet hours").first).to_be_visible()
    page.goto(f"{home}/rule?load=drier")
    before = stack.count()
    press_key(page, "z")
    expect(stack).to_have_count(before - 1)
    whole(page)
