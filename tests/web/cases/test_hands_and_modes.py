"""Cases 5 and 6 from empty houses by their forms: buttons, modes, groups, codes: each is heard."""

from tests.web.cases.by_forms import begin
from tests.web.cases.lived import at, events_of, pressed, read_every, steps

from aldea.core.engine.inputs import Code, PowerCut


def test_case_5_a_mode_button_and_a_load_button_that_works_in_one_mode(signed):
    house = begin(signed("jon"), "Case five")
    house.put("place", name="Parlour")
    house.put("board", name="Main")
    house.put("probe", name="Parlour air", sensor_kind="bus", stage="working")
    house.put("load", name="Heater", load_class="heat", nature="resistive", power_w="900")
    house.put("load", name="Mode lamp", kind="indicator", load_class="light", power_w="0.1")
    for name in ("Mode button", "Heater button"):
        house.put("control", name=name)
    house.schedule("Night", "22:30", "06:00")
    house.send("/rule/house?part=mode:", "/rule/house", name="Heating", values="automatic, manual")
    house.rule("heater", "window", want="off", priority="interlock", c_schedule="night")
    house.rule(
        "heater", "band", 1, want="on", c_direction="falling",
        c_on_threshold="18", c_off_threshold="19",
        w0_kind="mode", w0_mode_value="heating=automatic",
    )  # fmt: skip
    house.rule("mode_lamp", "mode", want="on", c_mode_value="heating=manual")
    mode_button, heater_button = (
        (f"/wire/controls?control={which}", "/controls/press")
        for which in ("mode_button", "heater_button")
    )
    house.send(*mode_button, {}, does="mode", target="mode:heating")
    house.send(
        *heater_button, {}, does="toggle", target="load:heater",
        only="heating=manual", ends="mode",
    )  # fmt: skip
    house.wire()
    cold = read_every(
        60, 24, parlour_air=steps((0, 17.0), (8, 19.5), (12, 17.5), (20, 19.5), (21, 17.5))
    )
    presses = [
        *pressed("heater_button", "08:30"),
        *pressed("mode_button", "09:00"),
        *pressed("heater_button", "09:10"),
        *pressed("heater_button", "09:20"),
        *pressed("heater_button", "09:30"),
        *pressed("mode_button", "10:00"),
    ]
    cut = [PowerCut(from_ms=at("14:00"), to_ms=at("14:30"))]
    assert events_of(house.plan(), 24, cold, levels=presses, cuts=cut) == [
        # Cold since midnight, but no heat after a power cut before its rule has been inactive once;
        # the press at 08:30 does nothing, for the mode is automatic.
        ("09:00:01", "mode_lamp", 1),
        ("09:10:01", "heater", 1),
        ("09:20:01", "heater", 0),
        ("09:30:01", "heater", 1),
        ("10:00:01", "heater", 0),  # the override ends with the mode it was made in
        ("10:00:01", "mode_lamp", 0),
        ("12:00:00", "heater", 1),
        ("14:00:00", "heater", 0),  # the cut; the room is cold until 20:00, and it stays off
        ("21:00:00", "heater", 1),
        ("22:30:00", "heater", 0),
    ]


def test_case_6_eight_relays_by_switch_code_group_and_sensor(signed):
    house = begin(signed("jon"), "Case six")
    house.put("place", name="Landing")
    house.put("board", name="Main")
    for letter in "ABCDEFGH":
        house.put("load", name=f"Light {letter}", load_class="light", nature="lamp", power_w="40")
    house.put(
        "probe", name="Landing motion", quantity="presence", sensor_kind="motion", stage="working"
    )
    house.put("control", name="Wall A", kind="wall_switch", load="light_a")
    house.put("control", name="Hall key")
    house.put("control", name="Remote", kind="remote")
    members = {f"member-light_{letter}": "1" for letter in "abcdefgh"}
    house.send("/wire/controls", "/controls/group", name="All lights", **members)
    page = "/wire/controls?control=hall_key", "/controls/press"
    house.send(*page, press="long", does="on", target="group:all_lights")
    house.send(*page, press="short", does="toggle", target="load:light_b")
    learn = "/wire/controls?control=remote", "/controls/learn"
    for code, name, does, target in (
        ("a3f1", "All off", "off", "group:all_lights"), ("a3f2", "One", "toggle", "load:light_a"),
    ):  # fmt: skip
        house.send(*learn, code=code, name=name, does=does, target=target)
    house.rule("light_a", "presence", want="on", c_hold_s="300")
    for letter in "abcdefgh":
        house.failsafe(f"light_{letter}", policy="last", ends_by="automatic")
    house.wire()
    seen = read_every(60, 8, landing_motion=steps((0, 0), (1, 1), (1.1, 0)))
    acts = [
        *pressed("hall_key", "02:00"),
        *pressed("hall_key", "03:00", hold_s=1.2),
        (at("03:30"), "control:wall_a", 1),
        *pressed("hall_key", "06:00", hold_s=0.1),
    ]
    codes = [
        Code(t_ms=at("04:00"), remote="remote", name="One"),
        Code(t_ms=at("07:00"), remote="remote", name="All off"),
    ]
    cut = [PowerCut(from_ms=at("05:00"), to_ms=at("05:10"))]
    told = events_of(house.plan(), 8, seen, levels=acts, codes=codes, cuts=cut)
    assert [row for row in told if row[1] == "light_a"] == [
        ("01:00:00", "light_a", 1),
        ("01:11:00", "light_a", 0),  # five minutes after the last motion, at 01:06
        ("03:00:01", "light_a", 1),
        ("03:30:01", "light_a", 0),  # its wall switch, flipped
        ("04:00:00", "light_a", 1),  # its code
        ("05:00:00", "light_a", 0),
        ("05:10:00", "light_a", 1),  # as it was before the power cut
        ("07:00:00", "light_a", 0),
    ]
    # The long press lights all, half a second apart, what is lit already stays; the code ends all.
    lit = [row[:2] for row in told if "03:00:00" < row[0] < "03:01"]
    assert [name for _, name in lit] == [f"light_{letter}" for letter in "acdefgh"]
    assert lit[-1] == ("03:00:05", "light_h")
    assert [row for row in told if row[1] == "light_b"] == [
        ("02:00:01", "light_b", 1),
        ("05:00:00", "light_b", 0),
        ("05:10:00", "light_b", 1),
        ("06:00:01", "light_b", 0),  # a touch of a tenth of a second
    ]
    dark = [name for clock, name, state in told if clock > "07:00" and state == 0]
    assert dark == [f"light_{letter}" for letter in "acdefgh"]
