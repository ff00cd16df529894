"""From an empty house to the printed sheet, by mouse and keyboard: cases 7 and 9, and more."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from tests.browser.building import begin, fill, keep, moved_on, opened, put, version_of, whole
from tests.browser.driving import HOUSE, press_key, sign_in

pytestmark = pytest.mark.browser


def power(page: Page, home: str) -> None:
    """A supply and a bare module, standing in the first place."""
    put(page, home, "supply", name="Supply")
    put(page, home, "board", name="Board")


def send(page: Page, home: str, where: str, **fields: str) -> None:
    """Send a form without its page: with the token and the version of the page that is open."""
    house = home.rsplit("/", 1)[1]
    base = home.removesuffix(f"/h/{house}")
    version = page.request.get(f"{base}/api/v1/houses/{house}/plan").json()["version"]
    token = page.locator("[name=form_token]").first.get_attribute("value") or ""
    form: dict[str, str | float | bool] = {
        "form_token": token,
        "version": str(version),
        **fields,
    }
    answer = page.request.post(f"{home}/{where}", form=form, max_redirects=0)
    assert answer.status == 303, answer.text()


def fix(page: Page, name: str) -> None:
    """A fix, by its button on the page that is open."""
    press(page, name)


def press(page: Page, name: str) -> None:
    """A fix, by its button."""
    version = version_of(page)
    page.get_by_role("button", name=name, exact=True).first.click()
    moved_on(page, version)


def assign(page: Page) -> None:
    """Pins for what has none: what came of it is another page, also where nothing was to do."""
    page.get_by_role("button", name="Assign pins").click()
    page.wait_for_url("**assigning=*")
    # Where it takes longer than a page waits, that page goes on by itself once it is done.
    expect(page.locator("#assigning")).to_have_count(0, timeout=60_000)


def printed(page: Page, home: str, sheet: str) -> None:
    """The sheet comes as PDF."""
    answer = page.request.get(f"{home}/wire/{sheet}.pdf")
    assert answer.status == 200
    assert answer.body().startswith(b"%PDF-")


def test_case_7_a_stepped_fan_from_an_empty_house_to_the_sheet(page, base):
    home = begin(page, base, "Case seven")
    put(page, home, "place", name="Bathroom")
    power(page, home)
    put(page, home, "load", name="Fan", kind="stepped", power_w="60", feed="F1")
    expect(page.locator("#f-steps")).to_have_value("1: c1; 2: c2; 3: c1+c2; 4: direct")

    # The old regulator had a step that closed a forbidden pair; what cannot be read is refused.
    page.locator("#f-steps").fill("1: c1; 2 c2")
    keep(page, refused=True)
    expect(page.locator("#fix-steps")).to_contain_text("1: c1; 2: c2; 3: c1+c2; 4: direct")
    expect(page.locator("#f-steps")).to_have_value("1: c1; 2 c2")
    page.locator("#f-steps").fill("1: c1; 2: c2; 3: c1+c2; 4: direct; old 2: c1+direct")
    keep(page)
    expect(page.get_by_text("step old 2 cannot be reached")).to_be_visible()
    expect(page.get_by_text("A relay is never the only guard").or_(
        page.get_by_text("In a gas alarm no ordinary motor"))).to_be_visible()  # fmt: skip
    page.get_by_label(re.compile("^at most, min: Fan must")).fill("240")
    page.get_by_label(re.compile("^Why: Fan must never be on for more")).fill("its bearings")
    page.get_by_role("button", name=re.compile("^Add: Fan must never be on for more")).click()
    expect(page.locator("#never")).to_contain_text(
        "Fan must never be on for more than 4 h in any 24 h. its bearings"
    )
    put(page, home, "control", name="Step dial", kind="selector")
    fill(page, contacts="3", load="fan")
    keep(page)
    put(page, home, "control", name="Remote", kind="remote")

    # Wire: relays proposed, pins assigned, then whole.
    press_key(page, "2")
    page.wait_for_url("**/wire")
    press(page, "Propose 3 relays")
    assign(page)
    expect(page.locator("#panel-drawing")).to_be_visible()
    for name in ("K1", "K2", "K3"):
        expect(page.locator("#panel-drawing")).to_contain_text(name)
    expect(page.locator("#schedule")).to_contain_text("Fan:C1 in")
    whole(page)
    page.locator("#panel-drawing a[href*='relay:k1']").first.click()
    expect(page.get_by_label("Pulls in when")).to_have_value("high")
    page.get_by_label("Pulls in when").select_option("low")
    page.get_by_label("all relays of this board are of this make").check()
    version = version_of(page)
    page.get_by_role("button", name="Save relay").click()
    moved_on(page, version)
    page.locator("#panel-drawing a[href*='relay:k3']").first.click()
    expect(page.get_by_label("Pulls in when")).to_have_value("low")

    # The steps are computed, and the forbidden one is shown as unreachable.
    page.get_by_role("link", name="Circuits").click()
    expect(page.locator("tr.warned")).to_contain_text("unreachable")
    expect(page.get_by_text("Capacitors hold charge")).to_be_visible()
    whole(page)

    # The dial is turned through, the remote captured: repeats are one press, nothing twice.
    page.get_by_role("link", name="Controls").click()
    for detent, name in ((0, "off"), (1, "1"), (2, "2")):
        page.get_by_label("Add a position of Step dial").click()
        page.get_by_role("link", name=f"Detent {detent} of Step dial").click()
        page.get_by_label("Written at the position").fill(name)
        page.get_by_role("button", name="Save to draft").click()
        expect(page.locator("#editor h2")).to_contain_text(f"{name} Step dial")
    page.get_by_label("Add a position of Step dial").click()
    page.get_by_role("link", name="Detent 1 of Step dial").click()
    expect(page.get_by_text("That is position “1”.")).to_be_visible()
    page.get_by_label("Add a key of Remote").click()
    page.get_by_role("link", name="Press key 3 of Remote").click()
    expect(page.get_by_role("status")).to_contain_text("4 times: 1 press.")
    page.get_by_label("Printed on the key").fill("faster")
    page.get_by_label("Action", exact=True).select_option("up")
    page.get_by_role("button", name="Save to draft").click()
    expect(page.locator("#editor h2")).to_contain_text("faster")
    whole(page)
    page.get_by_label("Add a key of Remote").click()
    page.get_by_role("link", name="Press key 3 of Remote").click()
    expect(page.get_by_text("It is “faster” already.")).to_be_visible()

    # Parts: a negative price is refused at its field and kept; then the drawer counts.
    page.get_by_role("link", name="Parts to order", exact=True).click()
    price = page.get_by_label(re.compile("relay module.*a pack costs"))
    price.fill("-3")
    page.get_by_role("button", name="Save drawer and prices").click()
    expect(page.locator(".fix").first).to_contain_text("0 to 100\u202f000")
    expect(price).to_have_value("-3")
    price.fill("11,5")
    page.get_by_role("button", name="Save drawer and prices").click()
    expect(page.locator("h1")).to_contain_text("for those with a price")
    printed(page, home, "door-sheet")

    # Every edit can be taken back and done again, by keys.
    page.goto(f"{home}/layout")
    before = page.locator("h1").inner_text()
    for key in ("z", "z", "y", "y"):
        version = version_of(page)
        press_key(page, key)
        moved_on(page, version)
    expect(page.locator("h1")).to_have_text(before)
    expect(page.get_by_role("button", name="Redo")).to_be_disabled()


def test_case_9_a_two_way_circuit_from_a_plan_file_to_the_sheet(page, base):
    home = opened(page, base, "stair")
    put(page, home, "load", name="Stair lamp", kind="two_way", power_w="40", feed="F5")
    expect(page.get_by_text("relay off does not mean lamp off")).to_be_visible()
    page.goto(f"{home}/wire")
    expect(page.locator("h1")).to_contain_text("needs fixing before draft")
    press(page, "Add the sensing input")
    press(page, "Propose 1 relay")
    assign(page)
    drawing = page.locator("#panel-drawing")
    expect(drawing).to_contain_text("Stair lamp")
    for strip in ("1a", "1b"):
        expect(drawing).to_contain_text(strip)
    page.get_by_role("link", name="all", exact=True).click()
    rows = page.locator("#schedule tbody")
    for end in (
        "Stair lamp wall switch:L1",
        "Stair lamp wall switch:L2",
        "Stair lamp sensed:L",
        "Stair lamp:N",
        "Stair lamp:PE",
    ):
        expect(rows).to_contain_text(end)
    expect(rows).to_contain_text("can be live with the relay off")
    expect(rows).to_contain_text("electrician decides")
    whole(page)
    page.get_by_role("link", name="Circuits").click()
    expect(page.get_by_role("rowheader", name="pulled in (14)")).to_have_count(2)
    expect(page.get_by_text("Both travellers can be live")).to_be_visible()
    printed(page, home, "electrician")

    # A weak change-over contact: no contactor can stand in for it, so none is offered.
    page.goto(f"{home}/wire?part=relay:k1")
    expect(page.locator("#f-contactor")).to_have_count(0)
    bears(page, "0.5")
    expect(page.get_by_text("contact is too weak for Stair lamp")).to_be_visible()
    expect(page.get_by_text("change-over contact is rated 2 A")).to_be_visible()
    expect(page.get_by_role("button", name="Use a contactor")).to_have_count(0)
    bears(page, "2")
    expect(page.get_by_text("contact is too weak")).to_have_count(0)

    # A valve takes one, and then it is wired: coil, neutral and the way of the current.
    put(page, home, "load", name="Garden valve", kind="valve", power_w="1500", feed="F6")
    page.goto(f"{home}/wire")
    press(page, "Propose 1 relay")
    assign(page)
    page.get_by_role("link", name="all", exact=True).click()
    for end in ("KM K2:A1", "KM K2:A2", "KM K2:1", "KM K2:2"):
        expect(rows).to_contain_text(end)
    earth = page.locator("#schedule tr", has_text="Garden valve:PE")
    expect(earth).to_have_count(1)
    expect(earth).not_to_contain_text("expect")
    expect(page.get_by_text("contact is too weak")).to_have_count(0)
    whole(page)


def bears(page: Page, rated_a: str) -> None:
    """What the chosen relay's contact bears, by its form."""
    version = version_of(page)
    page.get_by_label("Contact bears").fill(rated_a)
    page.get_by_role("button", name="Save relay").click()
    moved_on(page, version)


def test_a_climate_part_a_dc_fan_and_copies_from_a_plan_file_to_the_sheet(page, base):
    """One part of two quantities, a fan by a transistor, a group, ten equal units by copy."""
    home = opened(page, base, "two_rooms")
    page.goto(f"{home}/layout?part=board:board")
    fill(page, name="Room 1 board")
    keep(page)

    # The way it is made follows what it measures; what is typed meanwhile stays.
    page.goto(f"{home}/layout?add=probe")
    fill(page, name="Room 1", quantity="leak")
    expect(page.locator("#f-sensor_kind")).not_to_contain_text("two-wire bus")
    expect(page.locator("#f-name")).to_have_value("Room 1")
    fill(page, quantity="air_temperature", sensor_kind="one_wire")
    expect(page.locator("#f-shortest_interval_s")).to_have_value("2")
    fill(page, sensor_kind="bus")
    expect(page.locator("#f-address")).to_have_value("0x44 (68)")
    fill(page, several="climate", address="0x45")
    page.get_by_role("button", name="Add").click()
    expect(page.locator("#layout")).to_contain_text("Room 1 RH")
    expect(page.get_by_role("heading", name="one part with Room 1 RH")).to_be_visible()
    fill(page, address="300")
    keep(page, refused=True)
    expect(page.locator("#fix-address")).to_contain_text("0 to 127")
    fill(page, address="72", reading_interval_s="0.1")
    keep(page)
    expect(page.locator("#f-address")).to_have_value("0x48 (72)")
    fix(page, "Read every 0.5 s")

    # A 12 V fan: its volts and supply, then a transistor in place of the relay that is proposed.
    put(page, home, "load", name="Room 1 fan", power_w="6", nature="motor", volts="12",
        runs_on="dc", supply="fan_supply")  # fmt: skip
    expect(
        page.get_by_text("Room 1 fan is off without supply, then follows its rules again.")
    ).to_be_visible()
    page.goto(f"{home}/wire")
    press(page, "Propose 1 relay")
    assign(page)
    expect(page.locator("#panel-drawing")).to_contain_text("Room 1 temperature")
    page.locator("#panel-drawing a[href*='relay:k1']").first.click()
    page.get_by_label("Switched by").select_option("field_effect")
    version = version_of(page)
    page.get_by_role("button", name="Save relay").click()
    moved_on(page, version)
    page.goto(f"{home}/wire?part=load:room_1_fan")
    expect(page.locator("#schedule")).to_contain_text("Fan supply:+")
    expect(page.locator("#schedule")).to_contain_text("K1:load")
    expect(page.locator("h1")).not_to_contain_text("need")
    whole(page)

    # A group for all off; then nine more like this one, and a change that reaches them all.
    page.get_by_role("link", name="Controls").click()
    page.get_by_label("Name of the group").fill("All off")
    page.get_by_label("Room 1 fan").check()
    page.get_by_role("button", name="Add group").click()
    expect(page.get_by_text("All off: Room 1 fan")).to_be_visible()
    whole(page)
    page.goto(f"{home}/layout?part=board:board")
    page.get_by_label("Replace in the names").fill("Room 1")
    page.get_by_label(re.compile("^stands")).fill(", ".join(f"Room {n}" for n in range(2, 11)))
    version = version_of(page)
    page.get_by_role("button", name="Add copy").click()
    moved_on(page, version)
    expect(page.locator("h1")).to_contain_text("10 loads, 20 probes")
    page.goto(f"{home}/layout?part=load:room_1_fan")
    fill(page, power_w="8")
    keep(page)
    page.goto(f"{home}/layout?part=board:board")
    page.get_by_role("button", name="Copy its settings to 9 copies").click()
    page.goto(f"{home}/layout?part=load:room_1_fan_10")
    expect(page.locator("#f-power_w")).to_have_value("8")
    expect(page.locator("#f-name")).to_have_value("Room 10 fan")

    # The sheet is issued; what comes later is told on the next print; the lists come as files.
    page.goto(f"{home}/wire")
    version = version_of(page)
    page.get_by_role("button", name="Issue sheet 1").click()
    moved_on(page, version)
    expect(page.get_by_role("button", name="Issue sheet 2")).to_be_visible()
    printed(page, home, "door-sheet")
    for name in ("netlist", "points"):
        answer = page.request.get(f"{home}/wire/{name}.csv")
        assert answer.status == 200
        assert "Room 10 fan" in answer.text()


def test_a_drive_by_contacts_and_distance_and_five_sensors_on_one_analog_input(page, base):
    home = opened(page, base, "rack")
    put(page, home, "load", name="Hatch", kind="pulse_drive", power_w="90")
    fill(page, position="both", open_at_m="2", shut_at_m="0.5")
    keep(page)
    press(page, "Add two end contacts")
    put(page, home, "probe", name="Hatch distance", quantity="distance", sensor_kind="echo")
    page.goto(f"{home}/layout?part=load:hatch")
    expect(page.locator("#f-distance_probe")).not_to_contain_text("Shelf 1")
    expect(page.locator("#f-open_contact")).not_to_contain_text("Hatch distance")
    fill(page, distance_probe="hatch_distance")
    keep(page)
    page.goto(f"{home}/wire")
    press(page, "Propose 1 relay")
    assign(page)
    expect(page.locator("#conflict")).to_have_count(0)
    page.goto(f"{home}/wire?board=rack")
    for number in range(1, 6):
        expect(page.locator("#panel-drawing")).to_contain_text(f"Shelf {number}")
    page.get_by_role("link", name="all", exact=True).click()
    rows = page.locator("#schedule tbody")
    for end in ("Rack:s0", "Rack:s1", "Rack:s2", "Rack:common", "Rack:enable", "spare, to 0 V"):
        expect(rows).to_contain_text(end)
    page.goto(f"{home}/wire/circuits")
    expect(page.get_by_text("2 m; 0.5 m")).to_be_visible()
    whole(page)
    printed(page, home, "door-sheet")


def test_the_eight_relay_flat_from_an_empty_house_to_both_sheets(page, base):
    """Eight loads by one proposal each, one deal of pins, names that are told apart."""
    home = begin(page, base, "Flat of eight")
    put(page, home, "place", name="Flat")
    power(page, home)
    page.goto(f"{home}/layout?part=supply:supply")
    fill(page, rating_ma="4000")
    keep(page)
    names = ["Kitchen lamp", "Hall lamp", "Bath heater", "Boiler", "Fan", "Towel rail", "Lamp 1"]
    for name in [*names, "Lamp one"]:
        put(page, home, "load", name=name, power_w="200", feed="F1")
    page.goto(f"{home}/wire")
    for _ in range(8):
        press(page, "Propose 1 relay")
    assign(page)
    for number in range(1, 9):
        expect(page.locator("#panel-drawing")).to_contain_text(f"K{number}")
    expect(page.get_by_text("are the same when they are said")).to_be_visible()
    expect(page.locator("h1")).not_to_contain_text("need")
    whole(page)
    pins = page.request.get(f"{base}/api/v1/houses/{home.rsplit('/', 1)[1]}/wiring").json()
    coils = [w["start"] for w in pins["conductors"] if w["end"].endswith(":IN")]
    assert len(set(coils)) == 8
    printed(page, home, "door-sheet")
    printed(page, home, "electrician")


def test_parts_are_moved_by_mouse_and_by_arrows(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/layout")
    chip = page.locator('.chip-part[data-part="probe:studio_temp"]')
    start = chip.bounding_box()
    target = page.locator('.room[data-place="drying_room"] .floor').bounding_box()
    assert start is not None
    assert target is not None
    page.mouse.move(start["x"] + 10, start["y"] + 8)
    page.mouse.down()
    page.mouse.move(start["x"] + 60, start["y"] + 20, steps=4)
    page.mouse.move(target["x"] + 220, target["y"] + 150, steps=6)
    page.mouse.up()
    page.wait_for_url("**part=probe:studio_temp")
    expect(page.locator("#f-place")).to_have_value("drying_room")
    moved = page.locator('.chip-part[data-part="probe:studio_temp"]')
    expect(moved).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(page.locator("#f-place")).to_have_value("stair_hall")
    expect(moved).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(page.locator("#f-place")).to_have_value("print_studio")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#f-place")).to_have_value("stair_hall")


def test_contacts_stand_as_they_do_at_the_scrubber(page, base):
    sign_in(page, base, "guest")
    page.goto(f"{base}{HOUSE}/wire?board=board_b")
    # The dehumidifier has one relay; the steps of the extractor close these many of its three.
    steps = {"Off": 0, "On": 1, "Step 1": 1, "Step 2": 1, "Step 3": 2, "Step 4": 1}
    track = page.locator("#track")
    box = track.bounding_box()
    assert box is not None
    for share in (0.2, 0.5, 0.74, 0.97):
        page.mouse.click(box["x"] + share * box["width"], box["y"] + 60)
        at = track.get_attribute("aria-valuenow")
        loads = page.request.get(f"{base}/api/v1/houses/molino-alto/at?t={at}").json()["loads"]
        states = {load["load"]: load["state"] for load in loads}
        closed = steps[states["dehumidifier"]] + steps[states["extractor"]]
        expect(page.locator("#panel-summary")).to_contain_text(f"{closed} of 4 relays closed")


def test_nothing_typed_is_lost_by_a_reload_or_a_lost_connection(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}/layout?part=load:panel_heater")
    page.locator("#f-power_w").fill("1450")
    page.reload()
    expect(page.locator("#f-power_w")).to_have_value("1450")
    page.route("**/*", lambda route: route.abort())
    page.get_by_role("button", name=re.compile("^Save K")).click()
    expect(page.locator(".lost")).to_contain_text("The server does not answer")
    expect(page.locator("#f-power_w")).to_have_value("1450")
    page.unroute("**/*")
    keep(page)
    expect(page.locator("#f-power_w")).to_have_value("1450")
    page.reload()
    expect(page.locator("#f-power_w")).to_have_value("1450")


def test_a_fix_by_one_press_and_a_reason_for_what_is_left(page, base):
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}")
    expect(page.get_by_text("DO11 is high before the start.")).to_be_visible()
    page.goto(f"{base}{HOUSE}/wire")
    page.get_by_role("button", name="Move to a pin that stays low").click()
    expect(page.locator("h1")).to_contain_text("One thing needs fixing")
    page.goto(f"{base}{HOUSE}/record")
    page.get_by_label("Reason for the change").fill("Wired.")
    page.get_by_role("button", name=re.compile("Publish revision")).click()
    expect(page.locator("#fix-despite")).to_contain_text("enter the reason to publish anyway")
    expect(page.get_by_label("Reason for the change")).to_have_value("Wired.")
    page.locator("#f-despite").fill("The drain is dry in winter.")
    page.get_by_role("button", name=re.compile("Publish revision")).click()
    expect(page.get_by_role("region", name="Published revisions")).to_contain_text(
        "Published despite Floor drain tape: unplugged reads dry: The drain is dry in winter."
    )


def test_a_board_of_ones_own_by_table_and_by_file(page, base, tmp_path):
    home = begin(page, base, "Own boards")
    page.goto(f"{home}/wire/boards?type=small_5v")
    with page.expect_download() as coming:
        page.get_by_role("link", name="This pin table as CSV").click()
    file = tmp_path / "board.csv"
    coming.value.save_as(file)
    text = file.read_text().replace("A3", "A9")
    page.get_by_label("Name of the new board").fill("Mill board")
    bad = tmp_path / "bad.csv"
    bad.write_text(text.replace("name,number", "name,nmuber"))
    page.get_by_label("Pin table, CSV").set_input_files(bad)
    page.get_by_role("button", name="Add board type").click()
    expect(page.locator("#refusal")).to_contain_text("Missing: number")
    page.get_by_label("Name of the new board").fill("Mill board")
    Path(bad).write_text(text)
    page.get_by_label("Pin table, CSV").set_input_files(bad)
    page.get_by_role("button", name="Add board type").click()
    expect(page.locator("h1")).to_contain_text("Mill board: 20 pins")
    page.get_by_label("Row 20, limit, mA").fill("lots")
    page.get_by_role("button", name=re.compile("^Save K")).click()
    expect(page.locator("#refusal")).to_contain_text("row 20, limit_ma")
    expect(page.get_by_label("Row 20, limit, mA")).to_have_value("lots")
    page.get_by_label("Row 20, limit, mA").fill("15")
    page.get_by_label("Row 21, name").fill("A10")
    page.get_by_label("Row 21, number").fill("40")
    page.get_by_label("Row 21, can").fill("analog_in")
    page.get_by_role("button", name=re.compile("^Save K")).click()
    expect(page.locator("h1")).to_contain_text("Mill board: 21 pins")
    whole(page)
    put(page, home, "place", name="Cellar")
    put(page, home, "board", name="Mill", board_type="mill_board")
    page.goto(f"{home}/wire?part=board:mill")
    expect(page.get_by_role("rowheader", name="A10", exact=True)).to_be_visible()


def test_what_cannot_be_done_is_said_as_the_smallest_quarrel(page, base):
    home = begin(page, base, "Quarrel")
    put(page, home, "place", name="Cellar")
    power(page, home)
    put(page, home, "probe", name="Thermistor 0")
    fill(page, sensor_kind="thermistor")
    keep(page)
    # Six more of them, sent as the same form sends them.
    for number in range(1, 7):
        name = f"Thermistor {number}"
        for part in ({"name": name}, {"part_id": f"thermistor_{number}"}):
            fields = {"part_kind": "probe", "sensor_kind": "thermistor", **part}
            send(page, home, "layout/part", **fields)
    page.goto(f"{home}/wire")
    assign(page)
    expect(page.locator("#conflict li")).to_have_count(7)
    expect(page.locator("#conflict")).to_contain_text("analog in")
    page.goto(f"{home}/layout?part=board:board")
    page.locator("#f-radio_on").select_option("no")
    keep(page)
    page.goto(f"{home}/wire")
    assign(page)
    expect(page.locator("#conflict")).to_have_count(0)
    expect(page.get_by_text("has no pin")).to_have_count(0)
