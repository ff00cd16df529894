"""Loads on extra-low voltage and outlets: wired from their supply, judged by what they draw."""

import pytest
from tests.core.houses import built, pressed

from aldea.core.devices.loads.outlet.model import Outlet
from aldea.core.devices.loads.ratings import contact_of, derating_1, load_current_a
from aldea.core.plan.defaults import new_load
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import put_part, remove_part
from aldea.core.plan.panel import RelayOutput, Supply, TransistorSwitch
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.circuits import circuits
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.drivers import switched_by
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines
from aldea.core.wiring.supply_budget import supply_budget
from aldea.core.wiring.terminals import terminals


def fan(
    *,
    volts: float | None = 12.0,
    power_w: float = 6.0,
    transistor: TransistorSwitch | None = None,
    supply_v: float = 12.0,
    **facts: object,
) -> Plan:
    """A 12 V fan beside a bare 3.3 V module, by a transistor or by a relay."""
    load = new_load(load_id="fan", name="Rack fan", place="room", kind="relay").model_copy(
        update={
            "volts": volts,
            "runs_on": "dc",
            "supply": "s12",
            "power_w": power_w,
            "nature": "motor",
            **facts,
        }
    )
    relay = RelayOutput(id="q1", load="fan", transistor=transistor)
    supplies = (
        Supply(id="s12", name="12 V supply", place="room", volts=supply_v),
        Supply(id="s5", name="5 V supply", place="room", volts=5.0),
    )
    plan = built([], 0, ["wifi_38"], rules=(), supplies=supplies)
    board = plan.boards[0].model_copy(update={"supply": "s5"})
    plan = plan.model_copy(update={"boards": (board,), "loads": (load,), "relays": (relay,)})
    return plan.model_copy(update={"assignments": assign_pins(plan).assignments})


def wires(plan: Plan, owner: str = "load:fan") -> list[tuple[str, str, str]]:
    return [(w.start, w.end, w.net) for w in conductors(plan) if w.owner == owner]


def test_a_fan_by_a_transistor_is_wired_from_its_supply_and_gets_no_mains():
    plan = fan(transistor=TransistorSwitch())
    assert wires(plan) == [
        ("12 V supply:+", "Rack fan:+", "ELV"),
        ("Rack fan:−", "Q1:load", "ELV"),
        ("Q1:0 V", "12 V supply:−", "ELV"),
    ]
    pin = plan.assignments[0].pin
    assert wires(plan, "relay:q1") == [(f"Board 0:{pin}", "Q1:in", "ELV")]
    assert not terminals(plan)
    assert not [w for w in conductors(plan) if w.net == "mains"]
    assert all(w.current_a == pytest.approx(0.5) for w in conductors(plan) if w.owner == "load:fan")
    parts = {line.part for line in part_lines(plan)}
    assert {"flyback diode, 1 A", "resistor 220 Ω", "resistor 4.7 kΩ"} <= parts
    assert not any("relay" in part for part in parts)
    budget = {d.name: d.total_ma for d in supply_budget(plan, plan.supplies[0]).draws}
    assert budget == {"Rack fan": pytest.approx(500.0)}
    assert not [f for f in findings(plan) if f.weight == "severe"]


def test_a_fan_by_a_relay_is_wired_through_the_contact():
    assert wires(fan()) == [
        ("12 V supply:+", "Q1:11", "ELV"),
        ("Q1:14", "Rack fan:+", "ELV"),
        ("Rack fan:−", "12 V supply:−", "ELV"),
    ]


def test_what_a_transistor_loses_is_what_ohms_law_says():
    """6 W at 12 V are 0.5 A: 0.5² · 0.03 Ω = 7.5 mW, 62 K a watt; bipolar 0.5 A · 0.3 V."""
    found = switched_by(plan := fan(transistor=TransistorSwitch()), plan.relays[0])
    assert found is not None
    assert (found.current_a, found.lost_w) == pytest.approx((0.5, 0.0075))
    assert found.rise_k == pytest.approx(0.465)
    plan = fan(transistor=TransistorSwitch(kind="bipolar", full_at_v=0.7))
    found = switched_by(plan, plan.relays[0])
    assert found is not None
    assert found.lost_w == pytest.approx(0.15)
    shown = next(c for c in circuits(plan) if c.owner == "relay:q1")
    assert ("Loses", "0.15 W, 9 K over the air around it") in shown.facts


@pytest.mark.parametrize(
    ("key", "broken"),
    [
        ("fed-fan", {"supply_v": 24.0, "transistor": TransistorSwitch()}),
        ("not-dc-q1", {"runs_on": "ac", "transistor": TransistorSwitch()}),
        ("limit-q1", {"power_w": 120.0, "transistor": TransistorSwitch()}),
        ("gate-q1", {"transistor": TransistorSwitch(full_at_v=4.5)}),
        ("heat-q1", {"power_w": 58.0, "transistor": TransistorSwitch(on_ohm=0.1)}),
        (
            "base-q1",
            {"power_w": 12.0, "transistor": TransistorSwitch(kind="bipolar", full_at_v=0.7)},
        ),
        ("contact-q1", {"power_w": 30.0, "volts": 48.0, "supply_v": 48.0}),
        ("load-drop-fan", {"power_w": 36.0, "cable_m": 20.0, "transistor": TransistorSwitch()}),
    ],
)
def test_what_a_supply_a_contact_or_a_transistor_does_not_bear_is_found(key, broken):
    assert key not in {f.key for f in findings(fan(transistor=TransistorSwitch()))}
    found = {f.key: f for f in findings(fan(**broken))}
    assert key in found
    assert found[key].fix


def test_a_supply_that_fits_is_offered_and_one_taken_away_leaves_the_load_open():
    plan = remove_part(fan(transistor=TransistorSwitch()), "supply", "s12")
    assert {f.key: f.weight for f in findings(plan)}["fed-fan"] == "open"
    again = put_part(plan, "supply", Supply(id="new", name="New", place="room", volts=12.0))
    load = pressed(again, "fed-fan").load("fan")
    assert load is not None
    assert load.supply == "new"


def _on(volts: float, nature: str = "coil") -> Load:
    plan = fan(volts=volts, supply_v=volts, nature=nature)
    return plan.loads[0]


def test_a_contact_bears_less_on_direct_current_and_a_fifth_of_that_over_thirty_volts():
    assert derating_1(_on(24.0)) == 0.2
    assert derating_1(_on(48.0)) == pytest.approx(0.04)
    assert derating_1(_on(24.0, "resistive")) == 0.8


def test_an_outlet_is_judged_by_the_worst_that_may_be_plugged_in():
    """A 10 A contact bears 1.5 A of electronic supplies, 8 A of heaters; the feed gives 10 A."""
    plan = built([], 0, ["wifi_38"])
    load = new_load(load_id="o", name="Bench outlet", place="room", kind="outlet")
    plan = plan.model_copy(
        update={"loads": (load,), "rules": (), "relays": (RelayOutput(id="k1", load="o"),)}
    )
    contact = contact_of(plan.relays[0], load, plan)
    assert (contact.current_a, contact.allowed_a, contact.fits) == (10.0, 1.5, False)
    heaters = load.model_copy(update={"outlet": Outlet(plugged="resistive", most_a=6.0)})
    assert load_current_a(heaters, plan) == 6.0
    assert contact_of(plan.relays[0], heaters, plan).fits
    fixed = pressed(plan, "contact-k1")
    assert fixed.relays[0].contactor
