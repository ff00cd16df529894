"""Cases 7, 9, 14 from empty houses by their forms: fan in steps, two-way lamp, five sensors."""

from tests.web.cases.by_forms import begin
from tests.web.cases.lived import at, events_of, read_every, steps

from aldea.core.engine.inputs import Code, PowerCut

LOST = float("nan")


def test_case_7_a_fan_in_steps_by_steam_dial_and_remote(signed):
    house = begin(signed("jon"), "Case seven lived")
    house.put("place", name="Bathroom")
    house.put("board", name="Main")
    rh = {"name": "Bath RH", "quantity": "relative_humidity"}
    house.put("probe", **rh, sensor_kind="bus", stage="working")
    house.put("probe", name="Bath air", sensor_kind="bus", stage="working")
    house.put("load", name="Fan", kind="stepped", power_w="60")
    house.put("control", name="Dial", kind="selector", contacts="3", load="fan")
    house.put("control", name="Remote", kind="remote")
    house.send("/rule?load=fan", "/rule/begin", {"point": "steps"})
    house.rule("fan", "above", want="step:4", c_probe="bath_air", c_value="28", c_hysteresis="2")
    at_dial, at_remote = (
        (f"/wire/controls?control={which}", "/controls/learn") for which in ("dial", "remote")
    )
    house.send(*at_dial, {}, pattern="000", name="auto")
    for pattern, step in (("100", "2"), ("010", "3")):
        at_it = {"does": "step", "step": step, "target": "load:fan", "ends": "position"}
        house.send(*at_dial, {}, pattern=pattern, name=step, **at_it)
    for code, name, does in (("b001", "Up", "up"), ("b002", "Down", "down")):
        house.send(*at_remote, {}, code=code, name=name, does=does, target="load:fan")
    house.failsafe("fan", policy="last")
    house.wire()
    read = read_every(
        10, 10,
        bath_rh=steps(
            (0, 50), (1, 70), (1.5, 74), (2, 67), (2.5, 61), (7.5, LOST), (8, 50), (8.5, 74)
        ),
        bath_air=steps((0, 20), (3, 29), (3.5, 25.9), (9, LOST)),
    )  # fmt: skip
    dial = [(at("04:00"), "control:dial", 0b100), (at("04:10"), "control:dial", 0b010),
            (at("04:20"), "control:dial", 0)]  # fmt: skip
    codes = [
        Code(t_ms=at(clock), remote="remote", name=name)
        for clock, name in (("05:00", "Up"), ("05:01", "Up"), ("05:02", "Down"))
    ]
    cut = [PowerCut(from_ms=at("05:10"), to_ms=at("05:20"))]
    assert events_of(house.plan(), 10, read, levels=dial, codes=codes, cuts=cut) == [
        ("01:00:20", "fan", 1),
        ("01:30:20", "fan", 3),
        ("02:00:00", "fan", 1),
        ("02:30:00", "fan", 0),
        ("03:00:00", "fan", 4),
        ("03:30:00", "fan", 0),
        ("04:00:01", "fan", 2),  # the dial, and its next position
        ("04:10:01", "fan", 3),
        ("04:20:01", "fan", 0),
        ("05:00:00", "fan", 1),
        ("05:01:01", "fan", 2),
        ("05:02:01", "fan", 1),
        ("05:10:00", "fan", 0),
        ("05:20:01", "fan", 1),  # the step it had before the power cut
        ("06:02:00", "fan", 0),  # an hour after the last code
        ("07:44:50", "fan", 1),  # a quarter of an hour without a reading of the steam
        ("08:00:00", "fan", 0),
        ("08:30:20", "fan", 3),  # and on in the steam, though the thermometer is lost from 09:00
    ]


def test_case_9_a_two_way_lamp_is_put_out_whichever_way_its_wall_switch_stands(signed):
    house = begin(signed("jon"), "Case nine lived")
    house.put("place", name="Stair")
    house.put("board", name="Main")
    motion = {"name": "Stair motion", "quantity": "presence", "sensor_kind": "motion"}
    house.put("probe", **motion, stage="working")
    house.put("load", name="Lamp", kind="two_way", load_class="light", nature="lamp", power_w="40")
    house.send("/wire", "/wire/fix", {"finding": "sense-lamp"})
    house.rule("lamp", "presence", want="on", c_hold_s="120")
    house.failsafe("lamp", policy="off", fault_state="off", after_s="60", ends_by="agreement")
    house.wire()
    seen = read_every(
        10,
        8,
        stair_motion=steps(
            (0, 0), (1, 1), (1.1, 0), (3, 1), (3.1, 0), (6.5, 1), (6.6, 0), (7, LOST)
        ),
    )
    cut = [PowerCut(from_ms=at("05:00"), to_ms=at("05:30"))]
    throws = [("lamp", at(clock)) for clock in ("02:00", "03:01", "05:10", "06:30:30")]
    assert events_of(house.plan(), 8, seen, throws=throws, cuts=cut) == [
        ("01:00:01", "lamp", 1),
        ("01:08:01", "lamp", 0),  # two minutes after the last motion
        ("02:00:00", "lamp", 1),  # thrown, and again at 03:01
        ("03:01:00", "lamp", 0),
        ("05:30:01", "lamp", 0),  # thrown in the dark: it burns when power is back, and is put out
        ("06:30:01", "lamp", 1),
        ("06:30:30", "lamp", 0),
    ]


def test_case_14_five_sensors_on_one_analog_input(signed):
    house = begin(signed("jon"), "Case fourteen")
    house.put("place", name="Shelf")
    house.put("board", name="Small", board_type="wifi_one_analog")
    house.put("board", name="Mux", board_type="mux_8", host="small")
    light = {"name": "Shelf light", "quantity": "illuminance", "sensor_kind": "light_resistor"}
    gas = {"name": "Shelf gas", "quantity": "gas_hint", "sensor_kind": "gas"}
    tape = {"name": "Shelf tape", "quantity": "leak", "sensor_kind": "leak_tape"}
    for probe in ({"name": "Shelf air", "sensor_kind": "thermistor"}, light, gas, tape,
                  {"name": "Water", "sensor_kind": "thermistor"}):  # fmt: skip
        house.put("probe", **probe, stage="working")
    house.put("load", name="Fan", power_w="20")
    house.put("load", name="Pump", power_w="30", load_class="water")
    house.rule("fan", "above", want="on", c_probe="shelf_air", c_value="30", c_hysteresis="3")
    house.rule("pump", "tape", want="off", c_probe="shelf_tape")
    house.rule(
        "pump",
        "band",
        want="on",
        c_probe="water",
        c_direction="falling",
        c_on_threshold="10",
        c_off_threshold="14",
    )
    house.wire()
    plan = house.plan()
    seats = {a.signal: (a.board, a.pin) for a in plan.assignments if a.board == "mux"}
    assert sorted(seats.values()) == [("mux", f"CH{channel}") for channel in range(5)]
    read = read_every(
        10, 4,
        shelf_air=steps((0, 20), (1, 30), (1.5, 27)), shelf_light=steps((0, 100)),
        shelf_gas=steps((0, 1.0)), shelf_tape=steps((0, 470), (3, 20), (3.5, 470)),
        water=steps((0, 20), (2, 9), (2.5, 14.5), (3.2, 9)),
    )  # fmt: skip
    cut = [PowerCut(from_ms=at("03:40"), to_ms=at("03:50"))]
    assert events_of(plan, 4, read, cuts=cut) == [
        ("01:00:00", "fan", 1),
        ("01:30:00", "fan", 0),
        ("02:00:00", "pump", 1),
        ("02:30:00", "pump", 0),
        # The tape is wet from 03:00: the pump has tripped, dry or not, cut or not.
    ]
