"""Cables, levels and feeds: what each bears is judged, and the schedule says what the plan says."""

import math

import pytest
from tests.core.houses import built, pressed

from aldea.core.devices.sensors.analog.model import AnalogSensor
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.echo.model import EchoSensor
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.serial.model import SerialSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.physics.bus import rise_s
from aldea.core.plan.check import check_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of, put_part, remove_part
from aldea.core.plan.panel import Assignment, Board, Cable, Supply
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines
from aldea.core.wiring.supply_budget import supply_budget
from aldea.demo.mill import mill_plan


def far(cable_m, cable_mm2=0.5):
    """The mill with its radar at the end of a cable."""
    plan = mill_plan()
    radar = next(p for p in plan.probes if p.id == "stair_radar")
    probe = radar.model_copy(update={"cable_m": cable_m, "cable_mm2": cable_mm2})
    return put_part(plan, "probe", probe)


def drop_of(plan):
    return next((f for f in findings(plan) if f.key == "drop-stair_radar"), None)


@pytest.mark.parametrize(
    ("cable_m", "enough"),
    [(40, None), (60, "0.75 mm²"), (80, "1 mm²"), (120, "1.5 mm²")],
)
def test_the_section_that_is_enough_is_named_and_taken_by_one_press(cable_m, enough):
    # 80 mA at 5 V may lose 0.25 V: 3.125 Ω, at 72, 49, 36.2 and 24.2 Ω/km of loop.
    found = drop_of(far(cable_m))
    assert (found is None) == (enough is None)
    if found is not None:
        assert found.press == f"Use {enough}"
        taken = found.apply(far(cable_m))
        assert drop_of(taken) is None
        wires = [w for w in conductors(taken) if w.owner == "probe:stair_radar"]
        assert wires
        assert {wire.section for wire in wires} == {f"{float(enough.split()[0])} mm²"}


def test_where_no_section_is_enough_it_is_said():
    found = drop_of(far(300))
    assert found.apply is None
    assert "feed it near by" in found.fix


def test_the_parts_list_buys_the_section_that_was_recorded():
    def bought(plan):
        return {line.part: line.needed for line in part_lines(plan) if line.part.startswith("wire")}

    before, after = bought(far(20)), bought(far(20, 1.0))
    assert "wire 1.0 mm²" not in before
    assert after["wire 1.0 mm²"] > 20
    assert after["wire 0.5 mm²"] < before["wire 0.5 mm²"]


def one(sensor: Sensor, board: str = "wifi_38", **facts: object) -> Plan:
    """A probe of a kind on a board, with its cable."""
    plan = built([sensor], 0, [board])
    probe = part_of(plan, "probe", "p0").model_copy(update=facts)
    plan = put_part(plan, "probe", probe)
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def keys(plan: Plan) -> set[str]:
    return {finding.key for finding in findings(plan)}


def test_a_bus_rises_as_fast_as_its_cable_lets_it():
    """60 pF a metre and 15 pF a part: 4.7 kΩ rise in 1 µs up to 251 pF, so about 3.6 m for one."""
    assert rise_s(4700.0, 251e-12) == pytest.approx(1e-6, rel=1e-3)
    assert "slow-bus-b0" not in keys(one(BusSensor(address=0x40), cable_m=3.6))
    assert "slow-bus-b0" in keys(one(BusSensor(address=0x40), cable_m=3.8))
    screened = Cable(cores=4, screened=True)
    assert "slow-bus-b0" in keys(one(BusSensor(address=0x40), cable_m=2.0, cable=screened))
    told = {f.key: f for f in findings(one(BusSensor(address=0x40), cable_m=5.0))}["slow-bus-b0"]
    assert "3.3 kΩ" in told.fix, "330 pF at 3.3 kΩ rise in 0.92 µs"


@pytest.mark.parametrize(
    ("sensor", "metres", "key"),
    [(EchoSensor(), 5.1, "long-p0"), (SerialSensor(), 10.1, "long-p0")],
)
def test_echo_and_serial_lines_have_a_longest_length(sensor, metres, key):
    assert key in keys(one(sensor, cable_m=metres))
    assert key not in keys(one(sensor, cable_m=metres - 0.2))


def test_leads_of_a_low_thermistor_make_it_read_cold():
    """20 m of 0.5 mm² are 1.44 Ω; 100 Ω at 25 °C is 53 Ω at 40 °C: 1.44 / 53 · T² / B = 0.67 K."""
    leads = 2 * 0.020 * 36.0
    low = Thermistor(r25_ohm=100.0, fixed_ohm=100.0)
    told = {f.key: f for f in findings(one(low, cable_m=20.0))}["leads-p0"]
    at40 = 100 * math.exp(3950 * (1 / 313.15 - 1 / 298.15))
    assert f"{leads / at40 * 313.15**2 / 3950:.2f} K cold" in told.head
    assert "leads-p0" not in keys(one(Thermistor(), cable_m=20.0))


def test_a_divider_fed_otherwise_and_a_voltage_beyond_the_converter_are_found():
    assert "fed-otherwise-p0" not in keys(one(Thermistor()))
    assert "fed-otherwise-p0" in keys(one(Thermistor(supply_v=5.0)))
    wires = {w.start for w in conductors(one(Thermistor(supply_v=5.0, side="sensor_high")))}
    assert "Board 0:+5 V" in wires, "the schedule prints what the plan says"
    assert "range-p0" in keys(one(AnalogSensor(highest_v=3.5), "wifi_38"))
    assert "range-p0" not in keys(one(AnalogSensor(highest_v=3.3), "wifi_38"))


def test_a_sensor_may_be_fed_by_a_supply_and_speak_through_a_level_converter():
    supply = Supply(id="s12", name="12 V", place="room", volts=12.0)
    plan = one(AnalogSensor(highest_v=3.3, supply_v=12.0), "wifi_38")
    plan = plan.model_copy(update={"supplies": (supply,)})
    assert "rail-p0" in keys(plan)
    fed = pressed(plan, "rail-p0")
    starts = {w.start for w in conductors(fed) if w.owner == "probe:p0"}
    assert {"12 V:+", "12 V:−"} <= starts
    assert supply_budget(fed, supply).sum_ma == 5.0
    loose = remove_part(fed, "supply", "s12")
    check_plan(loose)
    five = one(SerialSensor(output_v=5.0), "wifi_38")
    converted = pressed(five, "volts-probe:p0.rx")
    assert part_of(converted, "probe", "p0").level_converter
    assert "level converter, 2 lines or more" in {line.part for line in part_lines(converted)}
    note = next(w.note for w in conductors(converted) if w.signal == "probe:p0.rx")
    assert "level converter" in note


def test_a_low_active_module_of_five_volts_may_not_let_go_on_a_pin_of_three():
    plan = built([], 1, ["wifi_38"])
    relay = plan.relays[0].model_copy(update={"active": "low"})
    plan = plan.model_copy(update={"relays": (relay,)})
    plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
    assert "lets-go-k0" in keys(plan)
    assert part_of(pressed(plan, "lets-go-k0"), "relay", "k0").input_v3
    high = plan.model_copy(
        update={"relays": (plan.relays[0].model_copy(update={"active": "high"}),)}
    )
    assert "lets-go-k0" not in keys(high)


def test_five_sensors_share_one_analog_input_by_a_multiplexer_with_all_its_lines():
    plan = built([Thermistor()] * 4 + [ContactSensor(pull="resistor")], 0, ["wifi_one_analog"])
    mux = Board(id="mux", name="Mux", place="room", board_type="mux_16", host="b0")
    plan = plan.model_copy(update={"boards": (*plan.boards, mux)})
    done = assign_pins(plan)
    assert not done.conflict
    plan = plan.model_copy(update={"assignments": done.assignments})
    on = [r for r in plan.assignments if r.board == "mux"]
    assert len(on) >= 4
    lines = {w.end for w in conductors(plan) if w.owner == "board:mux"}
    assert {f"Mux:s{n}" for n in range(4)} | {"Mux:common", "Mux:enable"} <= lines
    spare = next(w.note for w in conductors(plan) if w.end == "Mux:common")
    assert spare.count("CH") == 16 - len(on)
    driven = plan.model_copy(
        update={"boards": (plan.boards[0], mux.model_copy(update={"enable": "driven"}))}
    )
    again = assign_pins(driven)
    assert "board:mux.enable" in {r.signal for r in again.assignments}
    nowhere = plan.model_copy(
        update={"boards": (plan.boards[0], mux.model_copy(update={"host": None}))}
    )
    assert assign_pins(nowhere).conflict, "never onto a multiplexer that hangs nowhere"


def by_hand(probes: int, channels: list[str]) -> Plan:
    """Thermistors on channels that a hand chose; its own lines dealt, but s2 and s3."""
    plan = built([Thermistor()] * probes, 0, ["wifi_one_analog"])
    mux = Board(id="mux", name="Mux", place="room", board_type="mux_16", host="b0")
    plan = plan.model_copy(update={"boards": (*plan.boards, mux)})
    rows = [r for r in assign_pins(plan).assignments if not r.signal.startswith("probe:")]
    rows = [r for r in rows if not r.signal.endswith((".s2", ".s3"))]
    rows += [
        Assignment(signal=f"probe:p{n}.sense", board="mux", pin=channel, by="hand")
        for n, channel in enumerate(channels)
    ]
    return plan.model_copy(update={"assignments": tuple(rows)})


def test_an_address_line_that_no_channel_needs_may_be_tied():
    """Three sensors on CH0 to CH2 need s0 and s1; s2 and s3 give their pins back and are tied."""
    tied = by_hand(3, ["CH0", "CH1", "CH2"])
    assert not [f for f in findings(tied) if f.at == "board:mux" and f.key.startswith("no-pin")]
    ends = {w.end: w for w in conductors(tied) if w.owner == "board:mux"}
    assert ends["Mux:s2"].start == ends["Mux:s3"].start == "Board 0:0 V"
    assert "tied" in ends["Mux:s3"].note
    needed = by_hand(4, ["CH0", "CH1", "CH2", "CH8"])
    assert "no-pin-board:mux" in {f.key for f in findings(needed)}, "CH8 needs s3"
    more = by_hand(4, ["CH0", "CH1", "CH2"])
    assert "no-pin-board:mux" in {f.key for f in findings(more)}, "the fourth may go to any channel"


def test_a_multiplexer_on_no_board_feeds_nothing():
    gas = GasSensor()
    plan = built([gas], 0, ["wifi_one_analog"])
    mux = Board(id="mux", name="Mux", place="room", board_type="mux_16")
    row = Assignment(signal="probe:p0.sense", board="mux", pin="CH0", by="hand")
    plan = plan.model_copy(update={"boards": (*plan.boards, mux), "assignments": (row,)})
    starts = {w.start for w in conductors(plan) if w.owner == "probe:p0"}
    assert starts == {"Mux:CH0"}, "it has no rail of its own"


def test_a_relay_away_from_its_board_has_a_cable_of_its_own():
    """72 mA may lose 0.5 V of 5 V: 6.94 Ω, which 0.75 mm² (2 × 24.5 Ω/km) has at 141.7 m."""
    base = built([], 1, ["wifi_38"])
    base = base.model_copy(update={"assignments": assign_pins(base).assignments})

    def reached(cable_m: float, mm2: float = 0.75) -> Plan:
        relay = part_of(base, "relay", "k0")
        cable = Cable(cores=3, screened=True)
        return put_part(
            base,
            "relay",
            relay.model_copy(update={"cable_m": cable_m, "cable_mm2": mm2, "cable": cable}),
        )

    assert "coil-drop-k0" not in keys(reached(141))
    assert "coil-drop-k0" in keys(reached(143))
    taken = pressed(reached(143), "coil-drop-k0")
    assert part_of(taken, "relay", "k0").cable_mm2 == 1.0, "2 × 18.1 Ω/km"
    own = [w for w in conductors(taken) if w.owner == "relay:k0"]
    assert {w.section for w in own} == {"1.0 mm²"}
    assert next(w.note for w in own if w.signal).endswith("3 cores, screened")

    def bought(plan: Plan, part: str) -> float:
        return next((line.needed for line in part_lines(plan) if line.part == part), 0)

    assert bought(reached(10), "cable gland") == bought(base, "cable gland") + 1
    assert bought(reached(10), "wire 0.75 mm²") == bought(base, "wire 0.75 mm²") + 30
