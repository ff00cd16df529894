"""Cases 2 and 4 from empty houses by their forms, and what happens in them: a warm box, a leak."""

from tests.web.cases.by_forms import begin
from tests.web.cases.lived import at, events_of, pressed, read_every, steps

from aldea.core.engine.inputs import PowerCut

DRY, DAMP, WET = 470.0, 200.0, 20.0  # kΩ, with 470 kΩ across the far end


def test_case_2_a_warm_box_is_cooled_by_day_at_night_only_in_need_and_always_when_blind(signed):
    house = begin(signed("jon"), "Case two")
    house.put("place", name="Cupboard")
    house.put("supply", name="PSU", volts="12")
    house.put("board", name="Main")
    house.put(
        "probe", name="Box air", sensor_kind="thermistor", stage="working", stale_after_s="120"
    )
    house.put("load", name="Fan", volts="12", runs_on="dc", power_w="4", supply="psu")
    house.schedule("Night", "22:30", "07:00")
    house.rule("fan", "above", c_value="42", c_hysteresis="3", want="on")
    house.rule(
        "fan", "band", 1, c_on_threshold="35", c_off_threshold="32", want="on",
        w0_kind="window", w0_sense="no", w0_schedule="night",
    )  # fmt: skip

    # As a mere demand the rule for a lost probe is weaker than the failsafe, which says off.
    page = house.rule("fan", "quality", want="on", c_among="stale", priority="demand")
    assert "its rule on the fault of Box air can never decide" in page
    house.send("/rule?load=fan", "/rule/fix", {"finding": "unheard-fan_demand_3"})
    assert "can never decide" not in house.page("/rule?load=fan")
    house.wire()

    box = read_every(10, 24, box_air=steps(
        (0, 20), (8, 35), (9, 32), (10, 36), (23, 42), (23.5, 39), (23.6, float("nan")),
    ))  # fmt: skip
    assert events_of(house.plan(), 24, box) == [
        ("08:00:00", "fan", 1),
        ("09:00:00", "fan", 0),
        ("10:00:00", "fan", 1),
        ("22:30:00", "fan", 0),
        ("23:00:00", "fan", 1),
        ("23:30:00", "fan", 0),
        ("23:37:50", "fan", 1),  # two minutes after the last reading, at 23:35:50
    ]
    # Without power nothing runs; with it back the box is still warm and the fan goes on at once.
    cut = [PowerCut(from_ms=at("12:00"), to_ms=at("12:30"))]
    assert events_of(house.plan(), 13, box, cuts=cut)[2:] == [
        ("10:00:00", "fan", 1),
        ("12:00:00", "fan", 0),
        ("12:30:00", "fan", 1),
    ]


def test_case_4_a_leak_shuts_the_water_until_a_person_resets_it_and_is_told_by_its_severity(signed):
    house = begin(signed("jon"), "Case four")
    house.put("place", name="Kitchen")
    house.put("supply", name="PSU")
    house.put("board", name="Main", supply="psu")
    for name in ("Sink tape", "Boiler tape", "Washer tape", "Bath tape"):
        house.put("probe", name=name, quantity="leak", sensor_kind="leak_tape", stage="working")
    house.put("load", name="Main valve", kind="valve", load_class="water", power_w="6", volts="12")
    house.put("load", name="Siren", kind="sounder", volts="12", power_w="3", others="1 1; 0.2 0.2")
    house.put("control", name="Reset key")
    house.send("/rule?load=main_valve", "/rule/begin", {"point": "leak"})
    for states, pattern in (("wet short", "pattern:3"), ("damp wet short", "pattern:2")):
        house.rule(
            "siren", "tape", want=pattern, priority="demand", c_probe="boiler_tape", c_states=states
        )
    house.send(
        "/wire/controls?control=reset_key",
        "/controls/press",
        does="reset",
        target="trip:main_valve_trip",
    )
    house.wire()
    plan = house.plan()
    none = float("nan")
    read = read_every(
        10, 8,
        sink_tape=steps((0, DRY), (1, WET), (1.5, DRY)),
        boiler_tape=steps((0, DRY), (3, DAMP), (3.5, WET), (4, DRY)),
        washer_tape=steps((0, DRY), (7, none), (7.5, DRY)),
        bath_tape=steps((0, DRY)),
    )  # fmt: skip
    resets = [
        *pressed("reset_key", "02:00"),
        *pressed("reset_key", "03:40"),  # the tape is wet still: it trips anew
        *pressed("reset_key", "05:20"),
    ]
    cut = [PowerCut(from_ms=at("05:00"), to_ms=at("05:10"))]
    assert events_of(plan, 8, read, levels=resets, cuts=cut) == [
        ("00:01:00", "main_valve", 1),
        ("01:02:00", "main_valve", 0),  # the third wet reading in a row, one a minute
        ("02:00:01", "main_valve", 1),  # dry since 01:30, and reset
        ("03:02:00", "siren", 3),
        ("03:32:00", "main_valve", 0),
        ("03:32:00", "siren", 4),
        ("04:00:00", "siren", 0),
        ("05:20:01", "main_valve", 1),  # a power cut does not reset it, a person does
        ("07:04:50", "main_valve", 0),  # five minutes after the last reading of one tape
    ]
