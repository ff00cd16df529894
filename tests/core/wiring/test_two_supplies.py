"""Things that speak with a board and are fed by another supply: 0 V, volts and level."""

import networkx as nx
import pytest
from tests.core.houses import built, pressed

from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.models import Sensor
from aldea.core.devices.sensors.motion.model import MotionSensor
from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.core.plan.controls import Control
from aldea.core.plan.defaults import new_load, new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import remove_part
from aldea.core.plan.panel import Assignment, Board, RelayOutput, Supply, TransistorSwitch
from aldea.core.plan.seats import boot_coil
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings, offered
from aldea.core.wiring.parts import part_lines
from aldea.core.wiring.supply_budget import supply_budget

FIVE = Supply(id="s5", name="PSU five", place="room", volts=5.0)
TWELVE = Supply(id="s12", name="PSU twelve", place="room", volts=12.0)


def seated(plan: Plan) -> Plan:
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def hood_fan(transistor: TransistorSwitch | None) -> Plan:
    """A 12 V fan; its board is fed with 5 V from another supply."""
    fan = new_load(load_id="fan", name="Hood fan", place="room", kind="relay").model_copy(
        update={"volts": 12.0, "runs_on": "dc", "supply": "s12", "power_w": 6.0, "nature": "motor"}
    )
    board = Board(id="b0", name="Board 0", place="room", board_type="wifi_38", supply="s5")
    return seated(
        built([], 0, [], rules=()).model_copy(
            update={
                "supplies": (FIVE, TWELVE),
                "loads": (fan,),
                "boards": (board,),
                "relays": (RelayOutput(id="k1", load="fan", transistor=transistor),),
            }
        )
    )


def joined(plan: Plan, first: str, second: str) -> bool:
    graph: nx.Graph[str] = nx.Graph((wire.start, wire.end) for wire in conductors(plan))
    return first in graph and second in graph and bool(nx.has_path(graph, first, second))


def test_a_gate_and_its_transistor_have_one_zero_volts():
    by_transistor, by_relay = hood_fan(TransistorSwitch()), hood_fan(None)
    assert joined(by_transistor, "K1:0 V", "Board 0:0 V"), "the gate has no way back"
    link = next(w for w in conductors(by_transistor) if w.owner == "supply:s12")
    assert (link.start, link.end) == ("PSU twelve:−", "PSU five:−")
    assert "Hood fan" in link.note
    assert not joined(by_relay, "PSU twelve:−", "PSU five:−"), "a relay keeps the two apart"


@pytest.mark.parametrize("feeder", ["s12", "b1"])
def test_a_sensor_fed_by_another_supply_has_its_boards_zero_volts(feeder):
    probe = new_probe(probe_id="pir", name="PIR", place="room", quantity="presence").model_copy(
        update={"sensor": MotionSensor(supply_v=12.0, output_v=3.3), "fed_by": feeder}
    )
    near = Board(id="b0", name="Board 0", place="room", board_type="wifi_38", supply="s5")
    far = Board(id="b1", name="Board 1", place="room", board_type="wifi_38", supply="s12")
    plan = built([], 0, [], rules=(), supplies=(FIVE, TWELVE), probes=(probe,))
    plan = plan.model_copy(update={"boards": (near, far)})
    pin = Assignment(signal="probe:pir.out", board="b0", pin="IO25", by="hand")
    plan = plan.model_copy(update={"assignments": (pin,)})
    assert joined(plan, "PSU twelve:−", "Board 0:0 V")


def test_one_conductor_joins_two_supplies_however_many_need_it():
    plan = hood_fan(TransistorSwitch())
    second = plan.loads[0].model_copy(update={"id": "duct", "name": "Duct fan"})
    plan = plan.model_copy(
        update={
            "loads": (*plan.loads, second),
            "relays": (
                *plan.relays,
                RelayOutput(id="k2", load="duct", transistor=TransistorSwitch()),
            ),
        }
    )
    links = [w for w in conductors(seated(plan)) if w.owner.startswith("supply:")]
    assert len(links) == 1
    assert "Hood fan and Duct fan" in links[0].note


def with_sensor(sensor: Sensor, kind: str = "wifi_38") -> Plan:
    probe = new_probe(probe_id="p", name="P", place="room", quantity="air_temperature")
    probe = probe.model_copy(update={"sensor": sensor})
    return seated(built([], 0, [kind], rules=(), probes=(probe,)))


@pytest.mark.parametrize(
    "sensor", [BusSensor(address=0x44, supply_v=5.0), OneWireSensor(supply_v=5.0)]
)
def test_a_shared_line_of_five_volts_on_a_pin_of_three_is_severe(sensor):
    plan = with_sensor(sensor)
    found = [f for f in findings(plan) if f.head.startswith("5 V on ")]
    assert len(found) == 1
    assert found[0].weight == "severe"
    after = pressed(plan, found[0].key)
    assert after.probes[0].level_converter
    assert not [f for f in findings(with_sensor(BusSensor(address=0x44))) if "V on" in f.head]


def test_a_board_of_five_volts_kills_a_sensor_of_three():
    plan = with_sensor(BusSensor(address=0x44), kind="small_5v")
    assert [f.weight for f in findings(plan) if f.key == "over-p"] == ["severe"]
    assert pressed(plan, "over-p").probes[0].level_converter


def test_a_pad_that_drives_five_volts_into_a_pin_of_three_is_severe():
    pad = Control(id="pad", name="Pad", place="room", kind="touch_pad", supply_v=5.0)
    plan = seated(built([], 0, ["wifi_38"], rules=(), controls=(pad,)))
    found = next(f for f in findings(plan) if f.at == "control:pad" and "which bears" in f.head)
    assert found.weight == "severe"
    assert pressed(plan, found.key).controls[0].supply_v == 3.3
    collector = pad.model_copy(update={"output": "open_collector"})
    plan = seated(built([], 0, ["wifi_38"], rules=(), controls=(collector,)))
    assert not [f for f in findings(plan) if "which bears" in f.head]


@pytest.mark.parametrize("how", [{"driver": "transistor"}, {"transistor": TransistorSwitch()}])
def test_a_transistor_pulls_in_when_high_whatever_the_plan_says(how):
    """Nothing is offered that switches it on while the board starts."""
    plan = hood_fan(None)
    relay = plan.relays[0].model_copy(update={"active": "low", **how})
    plan = plan.model_copy(update={"relays": (relay,)})
    found = next(f for f in findings(plan) if f.key == "inverted-k1")
    assert found.weight == "severe"
    for finding in offered(plan):
        if finding.apply is not None and finding.at == "relay:k1":
            after = finding.apply(plan)
            assert boot_coil(after.relays[0], after) is not True, finding.head
    assert pressed(plan, "inverted-k1").relays[0].active == "high"
    low = relay.model_copy(update={"pull_ohm": None})
    assert "logic supply" not in " ".join(
        f.fix for f in findings(plan.model_copy(update={"relays": (low,)}))
    )


def climates(**facts: object) -> Plan:
    """Two parts of humidity and temperature on a single wire, and two thermometers."""
    probes = [
        new_probe(probe_id=f"rh{n}", name=f"RH {n}", place="room", quantity="relative_humidity")
        for n in range(2)
    ] + [
        new_probe(probe_id=f"t{n}", name=f"T {n}", place="room", quantity="air_temperature")
        for n in range(2)
    ]
    made = tuple(
        p.model_copy(update={"sensor": OneWireSensor.model_validate(facts)}) for p in probes
    )
    return seated(built([], 0, ["wifi_38"], rules=(), probes=made))


def test_parts_without_a_code_have_a_wire_each_and_thermometers_share_one():
    plan = climates()
    pins = {row.signal: (row.board, row.pin) for row in plan.assignments}
    own = {pins["probe:rh0.data"], pins["probe:rh1.data"], pins["probe:t0.data"]}
    assert len(own) == 3
    assert pins["probe:t0.data"] == pins["probe:t1.data"]
    pulls = next(line for line in part_lines(plan) if line.part == "resistor 4.7 kΩ")
    assert pulls.needed == 3
    together = climates(wire="shared")
    assert len({(row.board, row.pin) for row in together.assignments}) == 1


def test_two_climate_parts_put_on_one_pin_by_hand_are_found():
    plan = climates()
    pin = next(row.pin for row in plan.assignments if row.signal == "probe:rh0.data")
    rows = tuple(
        row.model_copy(update={"pin": pin, "by": "hand"}) if row.signal == "probe:rh1.data" else row
        for row in plan.assignments
    )
    plan = plan.model_copy(update={"assignments": rows})
    assert [f.weight for f in findings(plan) if f.key == f"twice-b0-{pin}"] == ["severe"]


def test_one_code_for_two_thermometers_is_found_and_one_of_them_is_blanked():
    plan = climates(code="28ff641e8d3c0a5b")
    found = next(f for f in findings(plan) if f.key == "code-28ff641e8d3c0a5b")
    assert found.weight == "severe"
    two = plan.model_copy(update={"probes": plan.probes[2:]})
    assert pressed(seated(two), found.key).probes[1].sensor == OneWireSensor()


def test_a_single_wire_of_150_m_is_warned_of():
    plan = climates()
    long = tuple(p.model_copy(update={"cable_m": 75.0}) for p in plan.probes[2:])
    found = findings(seated(plan.model_copy(update={"probes": long})))
    assert any(f.key.startswith("long-wire-") and "150 m" in f.head for f in found)
    assert not [f for f in findings(plan) if f.key.startswith("long-wire-")]


def test_a_coil_of_twelve_volts_beside_a_board_of_five_is_fed_by_its_own_supply():
    plan = hood_fan(None)
    relay = plan.relays[0].model_copy(update={"coil_v": 12.0})
    wrong = plan.model_copy(update={"relays": (relay,)})
    assert [f.weight for f in findings(wrong) if f.key == "coil-k1"] == ["severe"]
    right = plan.model_copy(update={"relays": (relay.model_copy(update={"coil_fed_by": "s12"}),)})
    assert not [f for f in findings(right) if f.key == "coil-k1"]
    wires = [(w.start, w.end) for w in conductors(right) if w.owner == "relay:k1"]
    assert ("PSU twelve:+", "K1:+") in wires
    assert joined(right, "K1:−", "Board 0:0 V"), "its input is held against the board's 0 V"
    draws = {d.name for d in supply_budget(right, TWELVE).draws}
    assert "coils of Hood fan" in draws
    assert "coils of Hood fan" not in {d.name for d in supply_budget(right, FIVE).draws}
    gone = remove_part(right, "supply", "s12")
    assert gone.relays[0].coil_fed_by is None


def test_alternating_current_has_its_own_colour():
    plan = hood_fan(None)
    fan = plan.loads[0].model_copy(update={"runs_on": "ac", "volts": 24.0, "supply": "ac"})
    ac = Supply(id="ac", name="Bell", place="room", volts=24.0, gives="ac")
    plan = plan.model_copy(update={"loads": (fan,), "supplies": (FIVE, ac)})
    own = [w for w in conductors(plan) if w.owner == "load:fan"]
    assert {w.colour for w in own} == {"violet"}
    assert len(own) == 3
