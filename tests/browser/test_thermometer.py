"""Case 3 by mouse and keyboard: a thermistor that reads wrong, corrected, certified, due."""

import re

import pytest
from playwright.sync_api import expect
from tests.browser.driving import HOUSE, press_key, sign_in

pytestmark = pytest.mark.browser


def test_a_thermistor_from_the_ice_bath_to_the_certificate(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/calibrate/cellar_temp")
    expect(page.locator("h1")).to_contain_text("no line yet")
    reads = page.get_by_label("The probe reads, °C read")

    # The ice bath asks for a reading only; a reading in °F is recognised and asked about.
    expect(page.get_by_label("The reference reads, °C ref")).to_be_hidden()
    reads.fill("32,9")
    page.keyboard.press("Enter")
    expect(page.locator("#fix-reading")).to_contain_text("32.9 °F is 0.50 °C")
    expect(reads).to_have_value("32,9")
    for value in ("0,51", "0.49"):
        reads.fill(value)
        page.keyboard.press("Enter")
        expect(reads).to_have_value("")
    expect(page.locator("h1")).to_contain_text("not verified")
    expect(page.get_by_text("Slope not shown")).to_be_visible()

    # A second temperature: a clamp on each side of the probe; then one beside it, as a check.
    page.get_by_label("Reference", exact=True).select_option("between")
    for label, value in (
        ("First reference reads", "41.2"),
        ("First reference, distance", "4"),
        ("Second reference reads", "40.4"),
        ("Second reference, distance", "4"),
        ("Uncertainty of a reference", "0.2"),
        ("The probe reads", "41.6"),
    ):
        page.get_by_label(re.compile(f"^{label}")).fill(value)
    page.keyboard.press("Enter")
    expect(page.locator("tbody tr").nth(2)).to_contain_text("40.80")
    expect(page.get_by_text("Slope not shown")).to_have_count(0)
    page.get_by_label("Reference", exact=True).select_option("beside")
    page.get_by_label("Use", exact=True).select_option("check")
    page.get_by_label("The reference reads, °C ref").fill("20")
    reads.fill("23")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("above the acceptable")
    page.keyboard.press("Escape")
    page.locator("h1").click()
    press_key(page, "s")
    page.keyboard.press("Enter")
    expect(page.locator("#fix-sign")).to_contain_text("cannot be signed")

    # The check was wrong: withdrawn, taken again, and the certificate is signed.
    page.get_by_role("button", name="Withdraw pair 4").click()
    page.get_by_label("Reference", exact=True).select_option("beside")
    page.get_by_label("Use", exact=True).select_option("check")
    page.get_by_label("The reference reads, °C ref").fill("20")
    reads.fill("20.66")
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_contain_text("fit verified")

    # What is stated at the bench moves the figure at once.
    before = page.locator(".cert dd b").inner_text()
    page.get_by_label("Contact, up to, ± K").fill("0.6")
    page.get_by_role("button", name="Calculate").click()
    expect(page.locator(".cert dd b")).not_to_have_text(before)
    page.locator("h1").click()
    press_key(page, "s")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"/certificates/\d+$"))
    expect(page.get_by_text("41.2 °C at 4 cm, 40.4 °C at 4 cm")).to_be_visible()
    page.get_by_role("link", name="Due list").click()
    expect(page.locator("#due")).to_contain_text("Cellar thermistor")


def test_a_span_is_dragged_and_the_budget_follows_the_typing(page, base):
    """By mouse over the trace, its mean into the form; a row of one's own while it is typed."""
    sign_in(page, base, "jon")
    bench = f"{base}{HOUSE}/calibrate/drying_temp"
    page.goto(bench)
    strip = page.locator("#span").bounding_box()
    assert strip is not None
    page.get_by_label("The probe reads").fill("1.5")
    before = page.locator("#stability b").first.inner_text()
    page.mouse.move(strip["x"] + 40, strip["y"] + 20)
    page.mouse.down()
    page.mouse.move(strip["x"] + 70, strip["y"] + 20, steps=4)
    page.mouse.up()
    expect(page.locator("#span-form")).to_contain_text("Dragged")
    mean = page.locator("#stability b").first
    expect(mean).not_to_have_text(before)
    expect(page.get_by_label("The probe reads")).to_have_value("1.5")
    said = mean.inner_text()
    page.get_by_role("button", name="Use mean").click()
    expect(page.get_by_label("The probe reads")).to_have_value(said)
    page.get_by_label("Minutes of the trace").fill("30")
    page.get_by_role("button", name="Show", exact=True).click()
    expect(page.locator("#span-form")).not_to_contain_text("Dragged")

    page.goto(f"{base}{HOUSE}/calibrate/studio_temp/budget")
    combined = page.locator("#combined b").nth(1)
    narrow = combined.inner_text()
    page.get_by_label("Row 1, cause").fill("Bath not stirred")
    page.get_by_label("Row 1, value").fill("0.5")
    expect(combined).not_to_have_text(narrow)
    expect(page.locator("#budget-rows")).to_contain_text("Bath not stirred")
    expect(page.get_by_label("Row 1, value")).to_be_focused()
    page.get_by_role("button", name="Use in the budget").click()
    expect(page.locator("#bars")).to_contain_text("Bath not stirred")
    page.get_by_label("Drift, up to").fill("3")
    expect(page.locator("#bars")).to_contain_text("1.73")


def test_a_curve_and_a_difference_follow_the_typing(page, base):
    """Worked out while points are typed; what is not whole yet leaves the last answer standing."""
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/recordings/curve/studio_temp")
    points = page.get_by_label(re.compile("Points, temperature"))
    points.fill("0 32650\n25 10000")
    expect(page.locator("#table-1 tbody tr")).to_have_count(2)
    near = page.locator("#beside")
    before = near.inner_text()
    points.fill("0 32650\n25 10000\n50 36")
    page.wait_for_timeout(600)
    points.fill("0 32650\n25 10000\n50 3603")
    expect(page.locator("#table-1 tbody tr")).to_have_count(3)
    page.get_by_label("Near the threshold").fill("5")
    expect(near).not_to_have_text(before)
    expect(page.get_by_label("Near the threshold")).to_be_focused()
    page.goto(f"{base}{HOUSE}/recordings/tape/manifold_tape")
    page.get_by_label("Counts of the dry tape, blanks between").fill("2048 2049 2047 " * 5)
    expect(page.locator("#table-1 tbody tr")).to_have_count(5)
