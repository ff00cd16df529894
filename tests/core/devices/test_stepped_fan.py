"""A fan behind capacitors: what each relay carries, how long a charge stays, what closes onto it.

230 V, 50 Hz; 300 Ω and 0.6 H, so XL = 188.5 Ω; 2.2 µF are 1446.9 Ω, 3.3 µF 964.6 Ω, both 578.7 Ω.
"""

import math

import pytest
from tests.core.houses import pressed
from tests.core.plans import one_band

from aldea.core.devices.loads.ratings import contact_of
from aldea.core.devices.loads.stepped_fan.capacitors import (
    closes_onto_charge,
    role_loads,
    slowest_bleed,
)
from aldea.core.devices.loads.stepped_fan.model import FanStep, SteppedFan
from aldea.core.plan.defaults import new_load
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput
from aldea.core.wiring.circuits import circuits
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings, offered
from aldea.core.wiring.parts import part_lines

BOTH_A = 230 / math.hypot(300, 188.496 - 578.745)


def test_each_relay_carries_its_own_share_and_not_the_whole():
    loads = role_loads(SteppedFan(), mains_v=230.0, mains_hz=50.0)
    assert loads["c1"].current_a == pytest.approx(BOTH_A * 2.2 / 5.5, rel=1e-4)
    assert loads["c2"].current_a == pytest.approx(BOTH_A * 3.3 / 5.5, rel=1e-4)
    assert loads["direct"].current_a == pytest.approx(230 / math.hypot(300, 188.496), rel=1e-4)
    assert loads["c1"].capacitor_v == pytest.approx(BOTH_A * 578.745, rel=1e-4)
    assert loads["direct"].capacitor_v == 0.0


def test_a_charge_is_counted_from_its_own_peak_which_is_above_the_mains():
    """3.3 µF through 470 kΩ from √2 · 270 V to 60 V: 2.87 s; from the mains' peak only 2.62 s."""
    charge = slowest_bleed(SteppedFan(), mains_v=230.0, mains_hz=50.0)
    assert charge is not None
    peak = math.sqrt(2) * BOTH_A * 578.745
    assert charge.from_v == pytest.approx(peak, rel=1e-4)
    assert charge.to_safe_s == pytest.approx(470e3 * 3.3e-6 * math.log(peak / 60), rel=1e-4)
    assert charge.to_safe_s > 1.09 * 470e3 * 3.3e-6 * math.log(230 * math.sqrt(2) / 60)
    assert slowest_bleed(SteppedFan(bleed_ohm=None), mains_v=230.0, mains_hz=50.0) is None


def house(fan: SteppedFan) -> Plan:
    load = new_load(load_id="fan", name="Fan", place="room", kind="stepped").model_copy(
        update={"stepped": fan, "feed": "F1", "power_w": 10.0}
    )
    relays = tuple(RelayOutput(id=f"k{i}", load="fan", role=r) for i, r in enumerate(fan.roles))
    return one_band().model_copy(update={"loads": (load,), "rules": (), "relays": relays})


def test_the_schedule_names_the_current_of_each_conductor():
    plan = house(SteppedFan())
    flows = {w.start: w.current_a for w in conductors(plan) if w.start.startswith("K")}
    assert flows["K0:14"] == pytest.approx(BOTH_A * 2.2 / 5.5, rel=1e-4)
    assert flows["K1:14"] == pytest.approx(BOTH_A * 3.3 / 5.5, rel=1e-4)
    assert flows["K2:14"] == pytest.approx(0.6492, rel=1e-3)
    neutral = next(w for w in conductors(plan) if w.start == "N bar:N")
    assert neutral.current_a == max(flows.values())


def test_capacitors_that_may_be_charged_unequally_are_parted_by_a_resistor_or_by_waiting():
    fan = SteppedFan()
    assert [step.name for step in closes_onto_charge(fan)] == ["3"]
    after = pressed(house(fan), "charge-fan-3").load("fan")
    assert after is not None
    assert after.stepped is not None
    assert after.stepped.surge_ohm == 10.0
    assert "resistor 10 Ω, 5 W" in {line.part for line in part_lines(house(after.stepped))}
    slow = house(fan.model_copy(update={"dead_time_s": 3.0}))
    assert not [f for f in findings(slow) if f.key.startswith("charge-")]


def test_figures_that_nobody_measured_are_open_and_say_what_to_measure():
    assert "motor-fan" in {f.key for f in findings(house(SteppedFan()))}
    told = next(f for f in findings(house(SteppedFan())) if f.key == "motor-fan")
    assert "√((V/A)² − Ω²)" in told.fix
    measured = house(SteppedFan(basis="measured"))
    assert "motor-fan" not in {f.key for f in findings(measured)}


def test_circuit_schedule_and_contact_have_one_current_whatever_the_plate_says():
    """180 W on the plate are 0.98 A; the motor's figures make 0.65 A, and they go before."""
    plan = house(SteppedFan())
    plate = plan.loads[0].model_copy(update={"power_w": 180.0})
    rated = plan.model_copy(update={"loads": (plate,)})
    circuit = next(c for c in circuits(rated) if c.owner == "load:fan")
    shown = {row[0].split(" ")[0]: row[3] for row in circuit.rows}
    flows = {w.start: w.current_a for w in conductors(rated) if w.start.startswith("K")}
    assert shown["4"] == f"{flows['K2:14']:.2f} A" == "0.65 A"
    assert flows == {w.start: w.current_a for w in conductors(plan) if w.start.startswith("K")}
    assert contact_of(rated.relays[2], plate, rated).current_a == flows["K2:14"]
    found = next(f for f in findings(rated) if f.key == "plate-fan")
    assert "0.98 A" in found.head
    assert "0.65 A" in found.head
    assert not [f for f in findings(plan) if f.key == "plate-fan"]


def test_figures_that_nobody_touched_cannot_be_called_measured():
    untouched = next(f for f in offered(house(SteppedFan())) if f.key == "motor-fan")
    touched = next(f for f in offered(house(SteppedFan(motor_ohm=281.0))) if f.key == "motor-fan")
    assert untouched.apply is None
    assert touched.press == "Mark as measured"


def test_a_step_that_stands_twice_and_a_relay_without_a_capacitor_are_found():
    steps = (FanStep(name="1", closed=("c1",)), FanStep(name="1", closed=("c9",)))
    found = {f.key: f.weight for f in findings(house(SteppedFan(steps=steps)))}
    assert found["step-twice-fan-1"] == "severe"
    assert found["role-fan-c9"] == "warning"
