"""The special circuits of a plan, computed: what each state closes, what flows, what it reads."""

from collections.abc import Iterator

from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.conductor import IDLE_PULL_OHM
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.physics.driver import coil_power_w
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import RelayOutput
from aldea.core.plan.seats import reader_of
from aldea.core.wiring.drivers import GATE_OHM, driver_of, switched_by

PRESSED = ("push_button", "wall_switch", "selector")


def circuits(plan: Plan) -> tuple[Circuit, ...]:
    """Every special circuit of a plan, loads first."""
    return tuple(_circuits(plan))


def _circuits(plan: Plan) -> Iterator[Circuit]:
    for load in plan.loads:
        drawn = load_device(load).circuit(load, plan)
        if drawn is not None:
            yield drawn
    for probe in plan.probes:
        device = sensor_device(probe)
        if device is not None:
            yield from device.circuits(probe, probe.sensor, plan)
    for control in plan.controls:
        if control.kind in PRESSED:
            yield _button(control, plan)
    for relay in plan.relays:
        if relay.transistor is not None:
            yield _transistor(relay, plan)
        elif relay.driver == "transistor":
            yield _driver(relay, plan)


def _button(control: Control, plan: Plan) -> Circuit:
    kind = reader_of(plan, f"control:{control.id}.contact1")
    logic_v = kind.logic_v if kind else 3.3
    own = control.pull == "board"
    pull = "the board’s own pull-up" if own else ohms(control.pull_ohm)
    facts = [
        ("Contacts", f"{control.contacts}, each from its pin to 0 V"),
        ("Pull-up", pull),
        ("Closed reads low, and means", control.closed_means),
        ("Debounce", f"{short(control.debounce_ms)} ms: shorter touches are not seen"),
    ]
    if not own:
        facts.append(
            ("Through a closed contact", f"{figure(1000 * logic_v / control.pull_ohm, 2)} mA")
        )
    return Circuit(
        owner=f"control:{control.id}",
        title=f"{control.name}: {control.kind.replace('_', ' ')}",
        draws="button",
        facts=tuple(facts),
        values={"pull": "pull-up" if own else ohms(control.pull_ohm)},
    )


def _driver(relay: RelayOutput, plan: Plan) -> Circuit:
    driver = driver_of(plan, relay)
    name = relay.id.upper()
    coil_a = relay.coil_ma / 1000
    coil_w = coil_power_w(relay.coil_v, relay.coil_v / coil_a) if coil_a else 0.0
    facts = [("Coil", f"{short(relay.coil_ma)} mA, {figure(coil_w, 2)} W")]
    if driver is None:
        seated = reader_of(plan, f"relay:{relay.id}.coil") is not None
        why = "none carries this coil" if seated else "after the relay has a pin"
        facts.append(("Base resistor", why))
    else:
        flows = f"{figure(1000 * driver.base_a)} mA"
        facts += [
            (
                "Base resistor",
                f"{ohms(driver.chosen_ohm)} ({figure(driver.wanted_ohm, 0)} Ω computed)",
            ),
            ("From the pin", flows if driver.drive_ok else f"{flows}, more than it gives"),
        ]
    return Circuit(
        owner=f"relay:{relay.id}",
        title=f"{name}: coil by a transistor",
        draws="driver",
        facts=(*facts, ("Across the coil", "flyback diode, cathode to plus")),
        values={"base": ohms(driver.chosen_ohm) if driver else "", "relay": name},
    )


def _transistor(relay: RelayOutput, plan: Plan) -> Circuit:
    """A load between plus and a transistor to 0 V: what flows, what it loses, its resistors."""
    switch, part, load = switched_by(plan, relay), relay.transistor, plan.load(relay.load)
    name = relay.id.upper()
    facts: list[tuple[str, str]] = []
    gate = GATE_OHM
    if switch is not None and part is not None and load is not None:
        gate = switch.base.chosen_ohm if switch.base is not None else GATE_OHM
        lost = f"{figure(switch.lost_w, 2)} W, {figure(switch.rise_k, 0)} K over the air around it"
        facts = [
            ("Load", f"{figure(switch.current_a, 2)} A at {short(load.volts or 0)} V"),
            (
                "Fully on at",
                f"{short(part.full_at_v)} V; the pin gives {short(switch.gate_v or 0)} V",
            ),
            ("Loses", lost),
            ("In line", f"{ohms(gate)}; {ohms(relay.pull_ohm or IDLE_PULL_OHM)} to 0 V"),
        ]
    return Circuit(
        owner=f"relay:{relay.id}",
        title=f"{name}: a transistor switches {load.name if load else relay.load}",
        draws="driver",
        facts=(*facts, ("Across the load", "flyback diode where it is a motor or a coil")),
        values={"base": ohms(gate), "relay": load.name if load else name},
    )
