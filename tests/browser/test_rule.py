"""Rules made by hand, by mouse and keys: cases 8, 10 and 13; two people at once."""

import re

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import begin, fill, opened, put, whole
from tests.browser.driving import HOUSE, press_key, settle, sign_in

pytestmark = pytest.mark.browser
RULE = f"{HOUSE}/rule"


def add_claim(page: Page, kind: str) -> None:
    """Begin a claim of a kind, by the key and the list."""
    press_key(page, "a")
    page.get_by_role("link", name=kind, exact=True).click()
    expect(page.get_by_role("heading", name="A new claim")).to_be_visible()


def put_in(page: Page) -> None:
    """Keep what is open by its button; kept or refused, another page comes."""
    settle(page)
    with page.expect_navigation():
        page.get_by_role("button", name=re.compile("^(Put it in|Keep) K")).first.click()
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
    expect(page.get_by_text("Kettle is planned: its first claim sets it to work.")).to_be_visible()

    # The schedule: a wrong time is said, what was typed stays; then it is kept, and drawn.
    page.get_by_role("link", name="Schedules and modes").click()
    page.get_by_role("link", name="put one in").first.click()
    page.locator("#f-name").fill("Morning")
    page.locator("#f-m0_at").fill("06:75")
    page.locator("#f-for_s").fill("600")
    put_in(page)
    expect(page.locator("#mend-m0_at")).to_contain_text("times as 06:30")
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
    expect(page.locator("#week")).to_contain_text("As it is typed, not kept yet.")
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

    # The claim, and the limit that such a load must have.
    page.goto(f"{home}/rule")
    add_claim(page, "a schedule")
    page.locator("#f-want").select_option("on")
    put_in(page)
    expect(slab(page, "On while the schedule “Morning” is on")).to_be_visible()
    expect(page.get_by_text("Kettle has no longest run.")).to_be_visible()
    page.get_by_role("button", name="At most 3 h").click()
    expect(page.get_by_text("Kettle has no longest run.")).to_have_count(0)
    page.get_by_role("link", name="change, rehearse").click()
    page.locator("#f-max_on_s").fill("never")
    put_in(page)
    expect(page.locator("#mend-max_on_s")).to_contain_text("a number")
    page.locator("#f-max_on_s").fill("900")
    put_in(page)
    page.get_by_role("link", name="All rules in words").click()
    expect(page.get_by_text("On while the schedule “Morning” is on.")).to_be_visible()
    expect(page.get_by_text("It runs 15 min at the longest")).to_be_visible()
    whole(page)

    # What a rule stands on cannot be taken out from under it.
    page.goto(f"{home}/rule/house?part=schedule:morning")
    page.get_by_role("button", name="Remove it").click()
    expect(page.get_by_role("alert")).to_contain_text("schedule")
    page.goto(f"{home}/rule?load=kettle")
    slab(page, "On while the schedule").hover()
    page.get_by_role("button", name=re.compile("^Remove: On while the schedule")).click()
    expect(slab(page, "On while the schedule")).to_have_count(0)
    press_key(page, "z")
    expect(slab(page, "On while the schedule")).to_be_visible()


def test_case_8_a_drive_from_its_plan_file_to_its_rules(page, base):
    home = opened(page, base, "garage_door")
    page.goto(f"{home}/rule")
    page.get_by_role("button", name="A drive").click()
    expect(slab(page, "Shut while Garage door is open for 2 h")).to_contain_text("assumed")
    expect(slab(page, "Shut while the schedule “Night” is on")).to_be_visible()
    expect(page.get_by_text("Garage door: a figure is assumed.").first).to_be_visible()

    # A figure that is assumed is looked at, changed and stated.
    slab(page, "is open for 2 h").get_by_role("link").click()
    page.locator("#f-hold_on_s").fill("-5")
    put_in(page)
    expect(page.locator("#mend-hold_on_s")).to_contain_text("0 to 604\u202f800")
    expect(page.locator("#f-hold_on_s")).to_have_value("-5")
    page.locator("#f-hold_on_s").fill("1200")
    expect(page.locator("#rule-answer .serif")).to_contain_text("is open for 20 min")
    page.locator("#f-basis").select_option("stated")
    press_key(page, "Escape")
    put_in(page)
    mended = slab(page, "Shut while Garage door is open for 20 min")
    expect(mended).to_be_visible()
    expect(mended).not_to_contain_text("assumed")

    # A second one of the same level, moved above by keys alone.
    add_claim(page, "the sun")
    page.locator("#f-rank").select_option("interlock")
    page.locator("#f-want").select_option("shut")
    page.locator("#f-offset_min").or_(page.locator("#f-c_offset_min")).fill("45")
    put_in(page)
    expect(page.get_by_role("alert")).to_contain_text("latitude")
    # the place is asked for beside the rule, once
    page.get_by_label("The house stands at").fill("42.2")
    page.locator("#f-earth_east").fill("1.9")
    put_in(page)
    expect(page.get_by_role("heading", name="A new claim")).to_have_count(0)
    first = page.locator(".slab .what").first
    expect(first).to_contain_text("is open for 20 min")
    settle(page)
    slab(page, "the sun is down").get_by_role("link").focus()
    press_key(page, "Alt+ArrowUp")
    expect(page.locator(".slab .what").first).to_contain_text("the sun is down, 45 min after")
    expect(slab(page, "the sun is down").get_by_role("link")).to_be_focused()
    # and back by drag: the mouse does what the key does
    settle(page)
    slab(page, "the sun is down").drag_to(slab(page, "is open for 20 min"))
    expect(page.locator(".slab .what").first).to_contain_text("is open for 20 min")
    whole(page)


def test_case_10_a_doorway_pair_from_its_plan_file_to_its_light(page, base):
    home = opened(page, base, "doorway")
    page.goto(f"{home}/rule/house?part=doorway:")
    fill(page, name="Hall door", outer="outer_beam", inner="inner_beam", reset_at="04:00")
    put_in(page)
    expect(page.get_by_role("link", name="Hall door")).to_be_visible()

    page.goto(f"{home}/rule")
    add_claim(page, "people counted in")
    page.get_by_role("button", name="Add a row").click()
    settle(page)
    page.locator("#f-w0_kind").select_option("dark")
    settle(page)
    fill(page, w0_value="20", w0_gap="8", w0_lamp="hall_lamp", w0_lamp_lx="15")
    put_in(page)
    lit = slab(page, "somebody is in by Hall door and Hall light is at or below 20 lx")
    expect(lit).to_be_visible()
    expect(lit).to_contain_text("without the light of Hall lamp")

    # The same without its own share taken off would put itself out: said, and never offered blind.
    lit.get_by_role("link").click()
    page.locator("#f-w0_sense").select_option("no")
    put_in(page)
    expect(slab(page, "Hall light is not at or below 20 lx")).to_be_visible()
    press_key(page, "z")
    expect(lit).to_be_visible()
    lit.hover()
    page.get_by_role("button", name=re.compile("^Switch off for now: On")).click()
    expect(page.get_by_text("switched off for now", exact=True)).to_be_visible()
    page.get_by_role("button", name="Switch it on").click()
    expect(page.get_by_text("switched off for now", exact=True)).to_have_count(0)


def test_two_people_on_one_load_both_keep_and_on_one_claim_both_values_are_shown(page, base):
    sign_in(page, base, "jon")
    other = page.context.new_page()
    page.goto(f"{base}{RULE}?load=extractor&claim=ex_damp")
    other.goto(f"{base}{RULE}?load=extractor&claim=ex_hot")
    page.locator("#f-c_on").fill("67")
    put_in(page)
    expect(slab(page, "is above 67 %RH")).to_be_visible()
    other.locator("#f-c_value").fill("52")
    put_in(other)
    expect(slab(other, "at or above 52 °C")).to_be_visible()
    expect(slab(other, "is above 67 %RH")).to_be_visible()

    page.goto(f"{base}{RULE}?load=extractor&claim=ex_damp")
    other.goto(f"{base}{RULE}?load=extractor&claim=ex_damp")
    page.locator("#f-c_on").fill("68")
    put_in(page)
    other.locator("#f-c_on").fill("69")
    put_in(other)
    expect(other.get_by_text("while you were here")).to_be_visible()
    expect(other.locator("#f-c_on")).to_have_value("69")
    expect(other.locator("main")).to_contain_text("68")
    other.close()


def test_the_answer_comes_while_typing_and_nothing_is_kept(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{RULE}?load=store_fan&claim=sf_damp")
    before = page.locator('[data-cost="Hours on a day"] b').inner_text()
    page.locator("#f-c_on").fill("90")
    hours = page.locator('[data-cost="Hours on a day"] b')
    expect(hours).not_to_have_text(before)
    assert float(hours.inner_text()) < float(before)
    expect(page.locator("#rule-answer")).to_contain_text("Cellar RH is above 90 %RH")
    page.locator("#f-c_on").fill("wet")
    expect(page.locator("#rule-answer")).to_contain_text("a number")
    expect(page.get_by_role("button", name=re.compile("^Keep"))).to_have_count(0)
    page.goto(f"{base}{RULE}?load=store_fan")
    expect(slab(page, "Cellar RH is above 76 %RH")).to_be_visible()


def test_each_fault_is_rehearsed_by_one_press(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{HOUSE}/rule/failsafe?load=panel_heater")
    page.get_by_role("button", name="Studio thermistor: falls silent").click()
    said = page.locator(".trial", has=page.get_by_text("Studio thermistor", exact=True)).locator(
        ".serif"
    )
    expect(said).to_contain_text("Studio thermistor silent for 2 h")
    expect(said).to_contain_text("Off from")
    expect(said).to_contain_text("(fault)")
    page.get_by_role("button", name="Power cut of 4 min: clock kept").click()
    cut = page.locator(".trial", has_text="Power cut").locator(".serif")
    expect(cut).to_contain_text("no power for 4 min: Dark at first, Off from")
    page.get_by_role("button", name="The network is gone").click()
    gone = page.locator(".trial", has_text="The network is gone").locator(".serif")
    expect(gone).to_contain_text("silent, for the network is gone for 2 h")


def test_the_stack_follows_the_scrubber(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{RULE}?load=panel_heater")
    expect(page.locator('.slab[aria-current="true"]')).to_contain_text("Studio open")
    page.locator("#track").focus()
    press_key(page, ",")
    expect(page.locator(".slab.decides")).not_to_contain_text("“Studio open” is not on")
