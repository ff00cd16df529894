"""Rules of loads of their own kinds, in houses that begin with their parts: cases 6, 7 and 9."""

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import fill, opened, whole
from tests.browser.driving import settle
from tests.browser.test_rule import add_claim, put_in, slab

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
    page.get_by_role("button", name="Group them").click()
    expect(page.get_by_text("each 0.5 s after the last")).to_be_visible()
    page.get_by_label("Press of Hall key", exact=True).select_option("long")
    wants(page, "a press of Hall key", "on", "group:all_lights")
    page.get_by_label("Keep the press of Hall key").click()
    settle(page)
    for code, name, does, target in (
        ("a3f1", "Off", "off", "group:all_lights"), ("a3f2", "One", "toggle", "load:light_a"),
    ):  # fmt: skip
        page.get_by_label("Code", exact=True).fill(code)
        page.get_by_label("What is printed on the button").fill(name)
        wants(page, "the new code", does, target)
        page.get_by_label("Learn it, for Remote").click()
        settle(page)
        expect(page.get_by_role("cell", name=code)).to_be_visible()
    whole(page)

    # The sensor asks for the first one; who may ask by hand is told with it.
    page.goto(f"{home}/rule?load=light_a")
    add_claim(page, "somebody is there")
    fill(page, want="on", c_hold_s="300")
    put_in(page)
    expect(slab(page, "On while Landing motion sees somebody, and 5 min after")).to_be_visible()
    page.goto(f"{home}/rule/failsafe?load=light_a")
    main = page.locator("main")
    expect(main).to_contain_text("Hall key, a long press: turns it on, with All lights.")
    expect(main).to_contain_text("Remote, Off: turns it off, with All lights.")
    expect(main).to_contain_text("Remote, One: toggles it.")

    # Back as it was after a power cut; how often memory is written is not made up.
    fill(page, policy="last")
    put_in(page)
    expect(main).to_contain_text("Nothing is recorded to count its writes on.")
    tells(page, home, "After a power cut it is again as it was before")
    whole(page)


def wants(page: Page, whose: str, does: str, target: str) -> None:
    """What a press or a code wants, by its fields."""
    page.get_by_label(f"{whose} does", exact=True).select_option(does)
    page.get_by_label(f"of which load or group, {whose}").select_option(target)


def test_case_7_the_rules_of_a_stepped_fan_from_its_plan_file(page, base):
    home = opened(page, base, "stepped_fan")
    page.goto(f"{home}/rule?load=fan")
    page.get_by_role("button", name="A fan in steps").click()
    expect(slab(page, "Step 3 while Bathroom RH is at or above 72 %RH")).to_contain_text("assumed")
    expect(slab(page, "Step 1 while Bathroom RH is above 66 %RH")).to_be_visible()

    # What the probe cannot tell apart is said, and the mend that is offered mends.
    expect(page.get_by_text("its marks are 4 %RH apart")).to_be_visible()
    page.get_by_role("button", name="End at 59").click()
    expect(page.get_by_text("its marks are 4 %RH apart")).to_have_count(0)
    expect(slab(page, "until it is below 59")).to_be_visible()

    # Only the steps that the fan has are offered; the step is kept over a power cut.
    slab(page, "Step 3 while").get_by_role("link").click()
    offered = page.locator("#f-want option").all_inner_texts()
    assert offered == ["off", "step 1", "step 2", "step 3", "step 4", "on, its lowest step"]
    fill(page, want="step:4", basis="stated")
    put_in(page)
    expect(slab(page, "Step 4 while Bathroom RH is at or above 72 %RH")).to_be_visible()
    page.goto(f"{home}/rule/failsafe?load=fan")
    fill(page, policy="last", min_off_s="5")
    put_in(page)
    tells(page, home, "After a power cut it is again as it was before", "Step 4 while Bathroom RH")
    whole(page)


def test_case_9_the_rules_of_a_two_way_lamp_from_its_plan_file(page, base):
    home = opened(page, base, "two_way_lamp")
    page.goto(f"{home}/wire")
    page.get_by_role("button", name="Add the sensing input").click()
    settle(page)
    page.goto(f"{home}/rule?load=stair_lamp")
    add_claim(page, "somebody is there")
    fill(page, want="on", c_hold_s="120")
    put_in(page)
    expect(slab(page, "On while Stair motion sees somebody, and 2 min after")).to_be_visible()

    # Off is the failsafe, whichever way the wall switch stands; after a cut it asks anew.
    page.goto(f"{home}/rule/failsafe?load=stair_lamp")
    fill(page, policy="off", silent_state="off", after_s="60", school="agreement")
    put_in(page)
    expect(page.get_by_role("button", name="Its wall switch: thrown while off")).to_be_visible()
    page.get_by_role("button", name="Its wall switch: thrown while off").click()
    wall = page.locator(".trial", has=page.get_by_text("Its wall switch", exact=True))
    expect(wall.locator(".serif")).to_contain_text("Nothing is recorded")
    tells(page, home, "After a power cut it waits until each rule that asked has let go once")
    whole(page)
