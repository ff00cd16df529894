"""The special circuits of a plan, computed: what each state closes, what flows, what it reads."""

from aldea.core.engine.lines import states_of
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.wiring import Control, RelayLine
from aldea.core.sensing.sound import ping_interval_s, uncompensated_error_m
from aldea.core.wire.circuit import Circuit, driver_of, reader_of
from aldea.core.wire.conductors import ohms
from aldea.core.wire.dropper import bleed, step_running
from aldea.core.wire.power import coil_power_w
from aldea.core.wire.probe_circuits import probe_circuits

DEAD_WORK = "Work dead, prove dead; local code and a licensed electrician decide the mains side."


def circuits(plan: Plan) -> tuple[Circuit, ...]:
    """Every special circuit of a plan, loads first."""
    found: list[Circuit] = []
    for load in plan.loads:
        if load.kind == "two_way":
            found.append(_two_way(load, plan))
        elif load.kind == "stepped" and load.stepped is not None:
            found.append(_stepped(load, plan))
        elif load.kind == "pulse_drive" and load.drive is not None:
            found.append(_drive(load, plan))
    for probe in plan.probes:
        found.extend(probe_circuits(probe, plan))
    found.extend(
        _button(control, plan)
        for control in plan.controls
        if control.kind in ("push_button", "wall_switch", "selector")
    )
    found.extend(_driver(relay, plan) for relay in plan.relays if relay.driver == "transistor")
    return tuple(found)


def _two_way(load: Load, plan: Plan) -> Circuit:
    relays = plan.relays_of(load.id)
    name = relays[0].id.upper() if relays else "K"
    sense = plan.probe(load.two_way.sense or "") if load.two_way else None
    return Circuit(
        owner=f"load:{load.id}",
        title=f"{load.name}: two-way with its wall switch",
        draws="two_way",
        facts=(
            ("Either one toggles", "the relay and the wall switch each pass the lamp on"),
            ("Sensed by", sense.name if sense else "nobody: relay off does not mean lamp off"),
            ("Without supply", "the wall switch alone goes on working"),
        ),
        head=("Relay", "Wall switch", "Lamp"),
        rows=(
            ("at rest (12)", "at L1", "on"),
            ("at rest (12)", "at L2", "off"),
            ("pulled in (14)", "at L2", "on"),
            ("pulled in (14)", "at L1", "off"),
        ),
        caution=f"Both travellers can be live with {name} at rest. {DEAD_WORK}",
        values={"relay": name, "load": load.name},
    )


def _stepped(load: Load, plan: Plan) -> Circuit:
    fan = load.stepped
    if fan is None:
        raise KeyError(load.id)
    caps = {c.role: c.capacitance_uf for c in fan.capacitors}
    names = {r.role: r.id.upper() for r in plan.relays_of(load.id)}
    rows = []
    for step in fan.steps:
        closed = " + ".join(names.get(role, role) for role in step.closed) or "none"
        state = step_running(fan, step, mains_v=plan.house.mains_v, mains_hz=plan.house.mains_hz)
        if state is None:
            rows.append((step.name, closed, "–", "–", "unreachable" if step.closed else "off"))
            continue
        rows.append(
            (
                step.name,
                closed,
                f"{state.capacitive_ohm:.0f} Ω" if state.capacitive_ohm else "none",
                f"{state.current_a:.2f} A",
                f"{state.motor_v:.0f} / {state.capacitor_v:.0f} V",
            )
        )
    facts = [
        ("Mains", f"{plan.house.mains_v:g} V, {plan.house.mains_hz:g} Hz"),
        ("Never together", "; ".join(" with ".join(pair) for pair in fan.never_together) or "–"),
        ("Dead time between steps", f"{fan.dead_time_s:g} s, break before make"),
    ]
    if fan.bleed_ohm and caps:
        largest = max(caps.values())
        charge = bleed(
            capacitance_uf=largest,
            bleed_ohm=fan.bleed_ohm,
            rms_v=plan.house.mains_v,
            safe_v=fan.safe_v,
        )
        facts.append(
            (
                f"Charge under {fan.safe_v:g} V",
                f"after {charge.to_safe_s:.1f} s through {ohms(fan.bleed_ohm)}",
            )
        )
    return Circuit(
        owner=f"load:{load.id}",
        title=f"{load.name}: {len(states_of(load)) - 1} steps by combination",
        draws="stepped",
        facts=tuple(facts),
        head=("Step", "Closed", "Reactance", "Current", "Motor / capacitor"),
        rows=tuple(rows),
        caution="Capacitors hold charge after switching off: wait, discharge, prove dead. More "
        "capacitance is not always more speed.",
        values={"load": load.name, **{role: f"{uf:g} µF" for role, uf in caps.items()}},
    )


def _drive(load: Load, plan: Plan) -> Circuit:
    drive = load.drive
    if drive is None:
        raise KeyError(load.id)

    def named(key: str | None) -> str:
        probe = plan.probe(key or "")
        return probe.name if probe else "nobody"

    facts = [
        ("Pulse", f"{drive.pulse_s:g} s, volt-free, parallel to the drive’s own button"),
        ("Full travel", f"{drive.travel_s:g} s; not there by then is a fault"),
    ]
    rows: tuple[tuple[str, ...], ...] = ()
    head: tuple[str, ...] = ()
    if drive.position == "contacts":
        facts.append(("End contacts", f"{named(drive.open_contact)}; {named(drive.shut_contact)}"))
        head = ("Open contact", "Shut contact", "It is")
        rows = (
            ("on", "off", "open"),
            ("off", "on", "shut"),
            ("off", "off", "moving, or stopped between"),
            ("on", "on", "fault: both cannot be"),
        )
    else:
        error = uncompensated_error_m(1.5, air_degc=5.0, assumed_degc=20.0)
        facts += [
            ("Distance by", named(drive.distance_probe)),
            ("Air at 5 °C taken for 20 °C", f"{100 * error:.1f} cm too far at 1.5 m"),
            (
                "Pings apart",
                f"{1000 * ping_interval_s(reach_m=4.0, temp_degc=20.0):.0f} ms or more",
            ),
        ]
    return Circuit(
        owner=f"load:{load.id}",
        title=f"{load.name}: one pulse opens, stops or shuts",
        draws="drive",
        facts=tuple(facts),
        head=head,
        rows=rows,
        caution="A drive that moves needs its own obstruction protection. Keep hands out while "
        "it is wired.",
        values={"load": load.name},
    )


def _button(control: Control, plan: Plan) -> Circuit:
    kind = reader_of(plan, f"control:{control.id}.contact1")
    logic_v = kind.logic_v if kind else 3.3
    own = control.pull == "board"
    pull = "the board’s own pull-up" if own else ohms(control.pull_ohm)
    facts = [
        ("Contacts", f"{control.contacts}, each from its pin to 0 V"),
        ("Pull-up", pull),
        ("Closed reads low, and means", control.closed_means),
        ("Debounce", f"{control.debounce_ms:g} ms: shorter touches are not seen"),
    ]
    if not own:
        facts.append(("Through a closed contact", f"{1000 * logic_v / control.pull_ohm:.2f} mA"))
    return Circuit(
        owner=f"control:{control.id}",
        title=f"{control.name}: {control.kind.replace('_', ' ')}",
        draws="button",
        facts=tuple(facts),
        values={"pull": "pull-up" if own else ohms(control.pull_ohm)},
    )


def _driver(relay: RelayLine, plan: Plan) -> Circuit:
    made = driver_of(plan, relay)
    name = relay.id.upper()
    coil_a = relay.coil_ma / 1000
    coil_w = coil_power_w(relay.coil_v, relay.coil_v / coil_a) if coil_a else 0.0
    facts = [("Coil", f"{relay.coil_ma:g} mA, {coil_w:.2f} W")]
    if made is None:
        seated = reader_of(plan, f"relay:{relay.id}.coil") is not None
        why = "none carries this coil" if seated else "after the relay has a pin"
        facts.append(("Base resistor", why))
    else:
        flows = f"{1000 * made.base_a:.1f} mA"
        facts += [
            ("Base resistor", f"{ohms(made.chosen_ohm)} ({made.wanted_ohm:.0f} Ω computed)"),
            ("From the pin", flows if made.drive_ok else f"{flows}, more than it gives"),
        ]
    return Circuit(
        owner=f"relay:{relay.id}",
        title=f"{name}: coil by a transistor",
        draws="driver",
        facts=(*facts, ("Across the coil", "flyback diode, cathode to plus")),
        values={"base": ohms(made.chosen_ohm) if made else "", "relay": name},
    )
