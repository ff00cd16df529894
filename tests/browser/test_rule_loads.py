"""Rules of loads of their own kinds, in houses that begin with their parts: cases 6, 7 and 9."""

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import fill, opened, whole
from tests.browser.driving import settle
from tests.browser.test_rule import add_rule, put_in, slab

pytestmark = pytest.mark.browser


def tells(page: Page, home: str, *texts: str) -> None:
    """The printable page of all rules says so."""
    page.goto(f"{home}/rule/sentences")
    for text in texts:
        expect(page.locator("main")).to_contain_text(text)


def test_case_6_several_ways_to_switch_from_its_plan_file(page, base):
    home = opened(page, base, "several_switches")
    names = [f"Light {letter}" for letter in "ABCDEFGH"]

    # All of them are one group; a long press lights it, a code puts it out.
    page.goto(f"{home}/wire/controls")
    page.get_by_label("Name of the group").fill("All lights")
    for name in names:
        page.get_by_label(name, exact=True).check()
    page.get_by_role("button", name="Add group").click()
    expect(page.get_by_text("each 0.5 s after the last")).to_be_visible()
    page.get_by_label("Add a press of Hall key").click()
    settle(page)
    page.get_by_label("Press", exact=True).select_option("long")
    wants(page, "on", "group:all_lights")
    expect(page.locator("#editor")).to_contain_text("Turns the group “All lights” on.")
    for code, name, does, target in (
        ("a3f1", "Off", "off", "group:all_lights"), ("a3f2", "One", "toggle", "load:light_a"),
    ):  # fmt: skip
        page.get_by_label("Add a key of Remote").click()
        settle(page)
        page.get_by_label("Code", exact=True).fill(code)
        page.get_by_label("Printed on the key").fill(name)
        wants(page, does, target)
        expect(page.locator("#editor h2")).to_contain_text(f"code {code}")
    whole(page)

    # The sensor asks for the first one; who may ask by hand is told with it.
    page.goto(f"{home}/rule?load=light_a")
    add_rule(page, "somebody is there")
    fill(page, want="on", c_hold_s="300")
    put_in(page)
    expect(
        slab(page, "On when Landing motion detects somebody, or did in the last 5 min")
    ).to_be_visible()
    page.goto(f"{home}/rule/failsafe?load=light_a")
    main = page.locator("main")
    expect(main).to_contain_text("Hall key, a long press: turns it on, with All lights.")
    expect(main).to_contain_text("Remote, Off: turns it off, with All lights.")
    expect(main).to_contain_text("Remote, One: toggles it.")

    # Back as it was after a power cut; how often memory is written is not made up.
    fill(page, policy="last")
    put_in(page)
    expect(main).to_contain_text("There are no recorded days to count the writes on.")
    tells(page, home, "After a power cut it returns to its last state")
    whole(page)


def wants(page: Page, does: str, target: str) -> None:
    """Fill in what a press or a code requests, and save it."""
    page.get_by_label("Action", exact=True).select_option(does)
    page.get_by_label("Of", exact=True).select_option(target)
    page.get_by_role("button", name="Save to draft").click()
    settle(page)


def test_case_7_the_rules_of_a_stepped_fan_from_its_plan_file(page, base):
    home = opened(page, base, "stepped_fan")
    page.goto(f"{home}/rule?load=fan")
    page.get_by_role("button", name="A fan in steps").click()
    expect(slab(page, "Step 3 when Bathroom RH is 72 %RH or above")).to_contain_text("estimated")
    expect(slab(page, "Step 1 when Bathroom RH is 66 %RH or above")).to_be_visible()

    # What the probe cannot tell apart is said, and the fix that is offered fixes.
    expect(page.get_by_text("its thresholds are 4 %RH apart")).to_be_visible()
    page.get_by_role("button", name="End at 59").click()
    expect(page.get_by_text("its thresholds are 4 %RH apart")).to_have_count(0)
    expect(slab(page, "until 59 %RH or below")).to_be_visible()

    # Only the steps that the fan has are offered; the step is kept over a power cut.
    slab(page, "Step 3 when").get_by_role("link").click()
    offered = page.locator("#f-want option").all_inner_texts()
    assert offered == ["off", "step 1", "step 2", "step 3", "step 4", "on, its lowest step"]
    fill(page, want="step:4", basis="entered")
    put_in(page)
    expect(slab(page, "Step 4 when Bathroom RH is 72 %RH or above")).to_be_visible()
    page.goto(f"{home}/rule/failsafe?load=fan")
    fill(page, policy="last", min_off_s="5")
    put_in(page)
    tells(page, home, "After a power cut it returns to its last state", "Step 4 when Bathroom RH")
    whole(page)


def test_case_9_the_rules_of_a_two_way_lamp_from_its_plan_file(page, base):
    home = opened(page, base, "two_way_lamp")
    page.goto(f"{home}/wire")
    page.get_by_role("button", name="Add the sensing input").click()
    settle(page)
    page.goto(f"{home}/rule?load=stair_lamp")
    add_rule(page, "somebody is there")
    fill(page, want="on", c_hold_s="120")
    put_in(page)
    expect(slab(page, "On when Stair motion detects somebody, or did in the last")).to_be_visible()

    # Off is the failsafe, whichever way the wall switch stands; after a cut it asks anew.
    page.goto(f"{home}/rule/failsafe?load=stair_lamp")
    fill(page, policy="off", fault_state="off", after_s="60", ends_by="agreement")
    put_in(page)
    expect(page.get_by_role("button", name="Its wall switch: thrown while off")).to_be_visible()
    page.get_by_role("button", name="Its wall switch: thrown while off").click()
    wall = page.locator(".trial", has=page.get_by_text("Its wall switch", exact=True))
    expect(wall.locator(".serif")).to_contain_text("There are no recorded days")
    tells(
        page,
        home,
        "After a power cut it stays off until every rule that requests it has been inactive once",
    )
    whole(page)
