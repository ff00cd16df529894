"""Conductors: none is missing, mains meets no low voltage, devices join what is there."""

from functools import partial

import pytest
from tests.core.houses import built, fixed, of_kind, wired_up
from tests.core.wiring.continuity import circuit, crossings, is_live

from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.contact.model import ContactSensor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.plan.check import check_plan
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.panel import Board, RelayOutput
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.contacts import wired_contacts
from aldea.core.wiring.findings import findings
from aldea.core.wiring.signals import signals
from aldea.core.wiring.supply_budget import supply_budget
from aldea.core.wiring.terminals import terminals
from aldea.demo.mill import mill_plan


def with_one_contactor(kind: str, place: int) -> Plan:
    """A load of a kind of which one relay alone switches a contactor."""
    plan = of_kind(kind)
    relay = plan.relays[place].model_copy(update={"contactor": True})
    return put_part(plan, "relay", relay)


def two_in_series(*contactors: bool) -> Plan:
    plan = of_kind("valve")
    valve = plan.loads[0].valve
    assert valve is not None
    series = valve.model_copy(update={"in_series": 2})
    plan = fixed(put_part(plan, "load", plan.loads[0].model_copy(update={"valve": series})))
    for relay, contactor in zip(plan.relays, contactors, strict=True):
        plan = put_part(plan, "relay", relay.model_copy(update={"contactor": contactor}))
    return plan


def test_the_demo_house_is_wired_and_wrong_in_two_places():
    plan = mill_plan()
    check_plan(plan)
    assert {row.signal for row in plan.assignments} == {s.id for s in signals(plan)}
    assert [f.key for f in findings(plan)] == ["twitch-k11", "far-end-drain_tape"]
    whole = fixed(plan)
    assert findings(whole) == ()
    assert read_plan(plan_text(whole)) == whole


@pytest.mark.parametrize(
    "make",
    [
        mill_plan,
        *(partial(of_kind, kind) for kind in LOAD_FACTS),
        *(partial(of_kind, kind, 3000.0) for kind in LOAD_FACTS),
        *(partial(of_kind, kind, contact="nc") for kind in ("relay", "two_way")),
        *(partial(with_one_contactor, "stepped", place) for place in range(3)),
        *(partial(two_in_series, a, b) for a in (False, True) for b in (False, True)),
    ],
)
def test_no_conductor_is_missing_and_mains_meets_no_low_voltage(make):
    """Every signal is carried once, numbers are unique, each load is live when it should be."""
    plan = make()
    wires = conductors(plan)
    carried = [w.signal for w in wires if w.signal]
    assert sorted(carried) == sorted({row.signal for row in plan.assignments})
    numbers = [w.number for w in wires]
    assert len(set(numbers)) == len(numbers)
    assert crossings(plan) == []
    lines = wired_contacts(plan)
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        if not relays or load.kind == "pulse_drive" or not load.on_mains:
            continue
        for index, state in enumerate(load_device(load).states(load)):
            conducts = {r.id: r.role in state for r in relays}
            live = is_live(circuit(plan, wires, conducts), load)
            assert live == (index > 0), f"{load.name}, state {index}"
        for relay in relays:
            others = {r.id: False for r in plan.relays} | {relay.id: True}
            if load.kind == "valve" and len(relays) > 1:
                assert not is_live(circuit(plan, wires, others), load), "both contacts in series"
        ends = {w.end for w in wires}
        assert {f"{load.name}:N", f"{load.name}:PE"} <= ends
        mine = [w for w in wires if w.owner == f"load:{load.id}" and w.net == "mains"]
        idle = [w for w in mine if not w.current_a]
        assert {w.end for w in mine if w.end.endswith((":PE", ":A1", ":A2"))} <= {
            w.end for w in idle
        }, "no load current flows in earth or in a contactor's coil"
        assert sum(w.end == f"{load.name}:N" for w in mine if w.current_a) == bool(load.power_w)
    labels = [t.label for t in terminals(plan)]
    assert len(labels) == len(set(labels))
    for relay in plan.relays:
        name = relay.id.upper()
        assert any(w.end.startswith(f"{name}:") for w in wires), name
    assert len(lines.relays) == len(plan.relays)


def test_a_drives_contact_is_volt_free_and_parallel_to_its_button():
    plan = of_kind("pulse_drive")
    ends = {(w.start, w.end): w.net for w in conductors(plan) if "button" in w.end}
    assert ends == {("K1:11", "Thing:button 1"): "ELV", ("K1:14", "Thing:button 2"): "ELV"}


def test_a_contactor_whose_coil_is_not_wired_leaves_its_load_dead():
    """The walk itself can fail: without any one conductor of its path the load is dead."""
    plan = two_in_series(True, True)
    wires = conductors(plan)
    load, on = plan.loads[0], {r.id: True for r in plan.relays}
    assert is_live(circuit(plan, wires, on), load)
    path = [w for w in wires if w.net == "mains" and not w.number.startswith(("N", "PE"))]
    assert len(path) == 10
    for missing in path:
        rest = tuple(w for w in wires if w is not missing)
        assert not is_live(circuit(plan, rest, on), load), missing.number


def test_a_device_joins_the_bus_that_is_there_and_nothing_else_moves():
    plan = put_part(
        mill_plan(),
        "board",
        Board(
            id="more", name="More", place="drying_room", board_type="expander_16",
            host="board_b", address=0x20,
        ),
    )  # fmt: skip
    missing = next(f for f in findings(plan) if f.key == "no-pin-board:more")
    assert missing.apply is not None
    done = missing.apply(plan)
    before = {a.signal: (a.board, a.pin) for a in plan.assignments}
    after = {a.signal: (a.board, a.pin) for a in done.assignments}
    assert {k: v for k, v in after.items() if k in before} == before
    assert {k: v for k, v in after.items() if k not in before} == {
        "board:more.data": ("board_b", "IO21"),
        "board:more.clock": ("board_b", "IO22"),
    }


def test_a_board_with_the_right_rail_is_taken_before_a_nearer_one():
    plan = wired_up(mill_plan().model_copy(update={"assignments": ()}))
    assert not [f for f in findings(plan) if f.key.startswith("rail-")]


def test_a_supply_counts_exclusive_relays_once():
    plan = mill_plan()
    budget = supply_budget(plan, plan.supplies[1])
    fan = next(d for d in budget.draws if "extractor" in d.name)
    assert (fan.each_ma, fan.at_once) == (72.0, 2), "c1 and c2 together, never the third"


def test_buttons_and_buses_need_what_they_need():
    plan = built([ContactSensor(), BusSensor(address=0x20), Thermistor()], 0, ["wifi_38"])
    button = Control(id="b", name="B", place="room", kind="push_button", contacts=2)
    plan = plan.model_copy(
        update={"controls": (button,), "relays": (RelayOutput(id="k1", load="fan"),)}
    )
    needs = {s.id: s.needs for s in signals(plan)}
    assert needs["control:b.contact2"] == {"digital_in"}
    assert needs["probe:p1.clock"] == {"bus_clock"}
    assert needs["relay:k1.coil"] == {"digital_out"}
