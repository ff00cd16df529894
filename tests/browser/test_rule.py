"""Rules made by hand, by mouse and keys: cases 8, 10 and 13; two people at once."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import begin, fill, opened, put, whole
from tests.browser.driving import HOUSE, press_key, settle, sign_in

pytestmark = pytest.mark.browser
RULE = f"{HOUSE}/rule"


def add_rule(page: Page, kind: str) -> None:
    """Begin a rule of a kind, by the key and the list."""
    press_key(page, "a")
    page.get_by_role("link", name=kind, exact=True).click()
    expect(page.get_by_role("heading", name="New rule")).to_be_visible()


def put_in(page: Page) -> None:
    """Save what is open by its button; kept or refused, another page comes."""
    settle(page)
    with page.expect_navigation():
        page.get_by_role("button", name=re.compile("^(Add|Add rule|Save) K")).first.click()
    settle(page)


def slab(page: Page, text: str):
    """The slab of the stack that says so."""
    return page.locator(".slab", has_text=text)


def test_case_13_on_at_a_minute_for_a_time_from_an_empty_house(page, base):
    home = begin(page, base, "Case thirteen")
    page.goto(f"{home}/rule")
    expect(page.get_by_text("No load yet.")).to_be_visible()
    put(page, home, "place", name="Kitchen")
    put(page, home, "load", name="Kettle", kind="outlet", power_w="1800")
    page.goto(f"{home}/rule")
    expect(
        page.get_by_text("Kettle is planned. Its first rule sets it to working.")
    ).to_be_visible()

    # The schedule: a wrong time is said, what was typed stays; then it is kept, and drawn.
    page.get_by_role("link", name="Schedules and modes").click()
    page.get_by_role("link", name="Add schedule").click()
    page.locator("#f-name").fill("Morning")
    page.locator("#f-m0_at").fill("06:75")
    page.locator("#f-for_s").fill("600")
    put_in(page)
    expect(page.locator("#fix-m0_at")).to_contain_text("times as 06:30")
    expect(page.locator("#f-m0_at")).to_have_value("06:75")
    page.locator("#f-m0_at").fill("06:45, 7:15")
    put_in(page)
    expect(page.locator("#week rect")).to_have_count(14)
    expect(page.get_by_text("no rule looks at it yet")).to_be_visible()

    # A window drawn on a day of the week goes into the empty row.
    day = page.locator("#week .day").nth(1).locator("svg")
    box = day.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] * 0.75, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.875, box["y"] + 8, steps=4)
    page.mouse.up()
    start = page.locator("#f-w0_start").input_value()
    assert abs(int(start[:2]) * 60 + int(start[3:]) - 18 * 60) <= 5
    expect(page.locator("#week")).to_contain_text("As typed, not saved yet.")
    expect(page.locator("#week rect")).to_have_count(15)

    # Its end is dragged half an hour on, and the week follows.
    grip = page.locator("#week [data-grip=w0_end]").bounding_box()
    assert grip is not None
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + 8)
    page.mouse.down()
    page.mouse.move(grip["x"] + grip["width"] / 2 + box["width"] / 48, grip["y"] + 8, steps=4)
    page.mouse.up()
    end = page.locator("#f-w0_end").input_value()
    assert abs(int(end[:2]) * 60 + int(end[3:]) - 21 * 60 - 30) <= 10
    put_in(page)
    expect(page.locator("#f-w0_end")).to_have_value(end)
    expect(page.locator("#week rect")).to_have_count(15)
    whole(page)

    # The rule, and the limit that such a load must have.
    page.goto(f"{home}/rule")
    add_rule(page, "a schedule")
    page.locator("#f-want").select_option("on")
    put_in(page)
    expect(slab(page, "On during “Morning”")).to_be_visible()
    expect(page.get_by_text("Kettle has no maximum on time.")).to_be_visible()
    page.get_by_role("button", name="Set maximum on time 3 h").click()
    expect(page.get_by_text("Kettle has no maximum on time.")).to_have_count(0)
    page.get_by_role("link", name="change, rehearse").click()
    page.locator("#f-max_on_s").fill("never")
    put_in(page)
    expect(page.locator("#fix-max_on_s")).to_contain_text("a number")
    page.locator("#f-max_on_s").fill("900")
    put_in(page)
    page.get_by_role("link", name="All rules in words").click()
    expect(page.get_by_text("On during “Morning”")).to_be_visible()
    expect(page.get_by_text("On for at most 15 min")).to_be_visible()
    whole(page)

    # What a rule stands on cannot be taken out from under it.
    page.goto(f"{home}/rule/house?part=schedule:morning")
    page.get_by_role("button", name="Remove").click()
    expect(page.get_by_role("alert")).to_contain_text("A rule of Kettle")
    page.goto(f"{home}/rule?load=kettle")
    slab(page, "On during").hover()
    page.get_by_role("button", name=re.compile("^Remove: On during")).click()
    expect(slab(page, "On during")).to_have_count(0)
    press_key(page, "z")
    expect(slab(page, "On during")).to_be_visible()


def test_case_8_a_drive_from_its_plan_file_to_its_rules(page, base):
    home = opened(page, base, "garage_door")
    page.goto(f"{home}/rule")
    page.get_by_role("button", name="A drive").click()
    expect(slab(page, "Kept shut while Garage door is open (on delay 2 h)")).to_contain_text(
        "estimated"
    )
    expect(slab(page, "Shut during “Night”")).to_be_visible()
    expect(page.get_by_text("Garage door: a figure is assumed.").first).to_be_visible()

    # A figure that is assumed is looked at, changed and stated.
    slab(page, "is open (on delay 2 h)").get_by_role("link").click()
    page.locator("#f-hold_on_s").fill("-5")
    put_in(page)
    expect(page.locator("#fix-hold_on_s")).to_contain_text("0 to 604\u202f800")
    expect(page.locator("#f-hold_on_s")).to_have_value("-5")
    page.locator("#f-hold_on_s").fill("1200")
    expect(page.locator("#rule-answer .serif")).to_contain_text("is open (on delay 20 min)")
    page.locator("#f-basis").select_option("entered")
    press_key(page, "Escape")
    put_in(page)
    fixed = slab(page, "Kept shut while Garage door is open (on delay 20 min)")
    expect(fixed).to_be_visible()
    expect(fixed).not_to_contain_text("estimated")

    # A second one of the same level, moved above by keys alone.
    add_rule(page, "the sun")
    page.locator("#f-priority").select_option("interlock")
    page.locator("#f-want").select_option("shut")
    page.locator("#f-offset_min").or_(page.locator("#f-c_offset_min")).fill("45")
    put_in(page)
    expect(page.get_by_role("alert")).to_contain_text("latitude")
    # the place is asked for beside the rule, once
    page.get_by_label("The house stands at").fill("42.2")
    page.locator("#f-earth_east").fill("1.9")
    put_in(page)
    expect(page.get_by_role("heading", name="New rule")).to_have_count(0)
    first = page.locator(".slab .what").first
    expect(first).to_contain_text("is open (on delay 20 min)")
    settle(page)
    slab(page, "after sunset").get_by_role("link").focus()
    press_key(page, "Alt+ArrowUp")
    expect(page.locator(".slab .what").first).to_contain_text("from 45 min after sunset")
    expect(slab(page, "after sunset").get_by_role("link")).to_be_focused()
    # and back by drag: the mouse does what the key does
    settle(page)
    slab(page, "after sunset").drag_to(slab(page, "is open (on delay 20 min)"))
    expect(page.locator(".slab .what").first).to_contain_text("is open (on delay 20 min)")
    whole(page)


def test_case_10_a_doorway_pair_from_its_plan_file_to_its_light(page, base):
    home = opened(page, base, "doorway")
    page.goto(f"{home}/rule/house?part=doorway:")
    fill(page, name="Hall door", outer="outer_beam", inner="inner_beam", reset_at="04:00")
    put_in(page)
    expect(page.get_by_role("link", name="Hall door")).to_be_visible()

    page.goto(f"{home}/rule")
    add_rule(page, "people counted inside")
    page.get_by_role("button", name="Add a row").click()
    settle(page)
    page.locator("#f-w0_kind").select_option("dark")
    settle(page)
    fill(page, w0_value="20", w0_hysteresis="8", w0_lamp="hall_lamp", w0_lamp_lx="15")
    put_in(page)
    lit = slab(page, "Hall light is 20 lx or below, until 28 lx or above")
    expect(lit).to_be_visible()
    expect(lit).to_contain_text("without Hall lamp’s own 15 lx")

    # The same without its own share taken off would put itself out: said, and never offered blind.
    lit.get_by_role("link").click()
    page.locator("#f-w0_sense").select_option("no")
    put_in(page)
    expect(slab(page, "it is not true that Hall light is 20 lx or below")).to_be_visible()
    press_key(page, "z")
    expect(lit).to_be_visible()
    lit.hover()
    page.get_by_role("button", name=re.compile("^Disable: On")).click()
    expect(page.get_by_text("disabled", exact=True)).to_be_visible()
    page.get_by_role("button", name="Enable").click()
    expect(page.get_by_text("disabled", exact=True)).to_have_count(0)


def test_two_people_on_one_load_both_keep_and_on_one_rule_both_values_are_shown(page, base):
    sign_in(page, base, "jon")
    other = page.context.new_page()
    page.goto(f"{base}{RULE}?load=extractor&rule=ex_damp")
    other.goto(f"{base}{RULE}?load=extractor&rule=ex_hot")
    page.locator("#f-c_on_threshold").fill("67")
    put_in(page)
    expect(slab(page, "is 67 %RH or above")).to_be_visible()
    other.locator("#f-c_value").fill("52")
    put_in(other)
    expect(slab(other, "is 52 °C or above")).to_be_visible()
    expect(slab(other, "is 67 %RH or above")).to_be_visible()

    page.goto(f"{base}{RULE}?load=extractor&rule=ex_damp")
    other.goto(f"{base}{RULE}?load=extractor&rule=ex_damp")
    page.locator("#f-c_on_threshold").fill("68")
    put_in(page)
    other.locator("#f-c_on_threshold").fill("69")
    put_in(other)
    expect(other.get_by_text("while you were here")).to_be_visible()
    expect(other.locator("#f-c_on_threshold")).to_have_value("69")
    expect(other.locator("main")).to_contain_text("68")
    other.close()


def test_the_answer_comes_while_typing_and_nothing_is_kept(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{RULE}?load=store_fan&rule=sf_damp")
    before = page.locator('[data-cost="Hours on a day"] b').inner_text()
    page.locator("#f-c_on_threshold").fill("90")
    hours = page.locator('[data-cost="Hours on a day"] b')
    expect(hours).not_to_have_text(before)
    assert float(hours.inner_text()) < float(before)
    expect(page.locator("#rule-answer")).to_contain_text("Cellar RH is 90 %RH or above")
    page.locator("#f-c_on_threshold").fill("wet")
    expect(page.locator("#rule-answer")).to_contain_text("a number")
    expect(page.get_by_role("button", name=re.compile("^Save"))).to_have_count(0)
    page.goto(f"{base}{RULE}?load=store_fan")
    expect(slab(page, "Cellar RH is 76 %RH or above")).to_be_visible()


def test_each_fault_is_rehearsed_by_one_press(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{HOUSE}/rule/failsafe?load=panel_heater")
    page.get_by_role("button", name="Studio thermistor: no reading").click()
    said = page.locator(".trial", has=page.get_by_text("Studio thermistor", exact=True)).locator(
        ".serif"
    )
    expect(said).to_contain_text("Studio thermistor silent for 2 h")
    expect(said).to_contain_text("Off from")
    expect(said).to_contain_text("(sensor fault)")
    page.get_by_role("button", name="Power cut of 4 min: clock kept").click()
    cut = page.locator(".trial", has_text="Power cut").locator(".serif")
    expect(cut).to_contain_text("no power for 4 min: Dark at first, Off from")
    page.get_by_role("button", name="The network is gone").click()
    gone = page.locator(".trial", has_text="The network is gone").locator(".serif")
    expect(gone).to_contain_text("no reading: the network has failed for 2 h")


def test_the_stack_follows_the_scrubber(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{RULE}?load=panel_heater")
    expect(page.locator('.slab[aria-current="true"]')).to_contain_text("Studio open")
    page.locator("#track").focus()
    press_key(page, ",")
    expect(page.locator(".slab.decides")).not_to_contain_text("“Studio open” is not on")
