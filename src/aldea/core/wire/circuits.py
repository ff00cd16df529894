"""The special circuits of a plan, computed: what each state closes, what flows, what it reads."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from aldea.core.engine.lines import states_of
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.sensors import (
    AnalogSensor,
    EchoSensor,
    LeakTape,
    LightResistor,
    SerialSensor,
    Thermistor,
)
from aldea.core.plan.wiring import BoardType, Control, RelayLine
from aldea.core.sensing.divider import Divider
from aldea.core.sensing.light import lux_factor, photoresistor_lux, photoresistor_ohm
from aldea.core.sensing.sound import ping_interval_s, uncompensated_error_m
from aldea.core.sensing.thermistor import kelvin_per_count, mismatch_degc, thermistor_ohm
from aldea.core.wire.conductors import ohms
from aldea.core.wire.dropper import bleed, running
from aldea.core.wire.leak import expected_dry_ohm, leak_states
from aldea.core.wire.level import best_for_slope_ohm, best_for_span_ohm, level
from aldea.core.wire.power import base_resistor, coil_power_w

DEAD_WORK = "Work dead, prove dead; local code and a licensed electrician decide the mains side."


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """A special circuit: facts as label and value, a table of its states, and its caution.

    `draws` names the drawing: two_way, stepped, drive, leak, divider, level, serial, button or
    driver.
    """

    owner: str
    title: str
    draws: str
    facts: tuple[tuple[str, str], ...]
    head: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    caution: str = ""
    values: dict[str, str] = field(default_factory=dict)


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
        found.extend(_of_probe(probe, plan))
    found.extend(
        _button(control, plan)
        for control in plan.controls
        if control.kind in ("push_button", "wall_switch", "selector")
    )
    found.extend(_driver(relay, plan) for relay in plan.relays if relay.driver == "transistor")
    return tuple(found)


def reader_of(plan: Plan, signal: str) -> BoardType | None:
    """The controller that reads a signal; for one behind a multiplexer, its host."""
    row = next((a for a in plan.assignments if a.signal == signal), None)
    board = plan.board(row.board) if row else None
    if board is not None and board.host:
        board = plan.board(board.host)
    return board_types(plan)[board.board_type] if board else None


def divider_of(probe: Probe, kind: BoardType) -> Divider | None:
    """The divider that a probe makes on a board, ratiometric; None for other sensors."""
    sensor = probe.sensor
    if not isinstance(sensor, Thermistor | LightResistor | LeakTape) or not kind.converter_bits:
        return None
    return Divider(
        side="sensor_high" if isinstance(sensor, LeakTape) else sensor.side,
        fixed_ohm=sensor.fixed_ohm,
        supply_v=kind.converter_v,
        reference_v=kind.converter_v,
        full_scale_counts=2**kind.converter_bits - 1,
    )


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
        closed = " + ".join(names.get(role, role) for role in step.closed)
        if not fan.reachable(step):
            rows.append((step.name, closed, "–", "–", "unreachable"))
            continue
        direct = any(role not in caps for role in step.closed)
        used = [] if direct else [caps[role] for role in step.closed]
        state = running(
            mains_v=plan.house.mains_v,
            mains_hz=plan.house.mains_hz,
            motor_ohm=fan.motor_ohm,
            motor_henry=fan.motor_henry,
            capacitors_uf=used,
        )
        rows.append(
            (
                step.name,
                closed,
                f"{state.capacitive_ohm:.0f} Ω" if used else "none",
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


def _of_probe(probe: Probe, plan: Plan) -> Iterator[Circuit]:
    sensor = probe.sensor
    line = "echo" if isinstance(sensor, EchoSensor) else "sense"
    kind = reader_of(plan, f"probe:{probe.id}.{line}")
    divider = divider_of(probe, kind) if kind else None
    if isinstance(sensor, Thermistor):
        yield _thermistor(probe, sensor, divider)
    elif isinstance(sensor, LightResistor):
        yield _light(probe, sensor, divider)
    elif isinstance(sensor, LeakTape):
        yield _leak(probe, sensor, divider)
    elif isinstance(sensor, AnalogSensor | EchoSensor) and sensor.upper_ohm and sensor.lower_ohm:
        yield _level(probe, sensor, sensor.upper_ohm, sensor.lower_ohm)
    elif isinstance(sensor, SerialSensor):
        yield Circuit(
            owner=f"probe:{probe.id}",
            title=f"{probe.name}: serial, crossed",
            draws="serial",
            facts=(
                ("Its TX", "goes to the pin that receives"),
                ("Its RX", "goes to the pin that sends"),
                ("Level", f"{sensor.output_v:g} V"),
            ),
        )


def _both(best: Callable[..., float], *figures: float) -> str:
    """The best resistor of both usual series: `13 kΩ (E24), 12.4 kΩ (E96)`."""
    return ", ".join(f"{ohms(best(*figures, series))} ({series})" for series in ("E24", "E96"))


def _thermistor(probe: Probe, sensor: Thermistor, divider: Divider | None) -> Circuit:
    figures = {"r25_ohm": sensor.r25_ohm, "beta_k": sensor.beta_k}
    at20 = thermistor_ohm(20.0, **figures)
    cold, warm = thermistor_ohm(0.0, **figures), thermistor_ohm(40.0, **figures)
    facts = [
        ("At 20 °C", ohms(round(at20))),
        ("Steepest at 20 °C with", _both(best_for_slope_ohm, at20)),
        ("Widest from 0 to 40 °C with", _both(best_for_span_ohm, cold, warm)),
    ]
    if divider is not None:
        facts.append(("One count there", f"{kelvin_per_count(divider, 20.0, **figures):.3f} K"))
        facts.append(("Reads at 20 °C", f"{divider.counts(at20):.0f} counts"))
        high = divider.full_scale_counts if sensor.side == "sensor_low" else 0
        facts.append(("Unplugged", f"{high} counts: {divider.end_state(high)}"))
        fixed = Divider(
            side=divider.side,
            fixed_ohm=divider.fixed_ohm,
            supply_v=divider.supply_v * 1.1,
            reference_v=divider.reference_v,
            full_scale_counts=divider.full_scale_counts,
        )
        error = mismatch_degc(fixed, divider.supply_v, 20.0, **figures)
        facts.append(
            (
                "Its supply 10 % off",
                "impossible reading" if error is None else f"{error:+.1f} K".replace("-", "−"),
            )
        )
    return Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: thermistor with {ohms(sensor.fixed_ohm)}",
        draws="divider",
        facts=tuple(facts),
        values={
            "sensor": ohms(sensor.r25_ohm),
            "fixed": ohms(sensor.fixed_ohm),
            "side": sensor.side,
        },
    )


def _light(probe: Probe, sensor: LightResistor, divider: Divider | None) -> Circuit:
    figures = {"r10_ohm": sensor.r10_ohm, "gamma_1": sensor.gamma_1}
    wanted = photoresistor_ohm(sensor.threshold_lux, **figures)
    facts = [
        ("Threshold", f"{sensor.threshold_lux:g} lx, there {ohms(round(wanted))}"),
        ("Steepest there with", _both(best_for_slope_ohm, wanted)),
        (
            "R10 half as high again",
            f"reads {lux_factor(1.5, sensor.gamma_1):.2f} times the light",
        ),
    ]
    if divider is not None:
        counts = divider.counts(wanted)
        step = divider.sensor_ohm(counts + 1)
        facts.append(("Reads there", f"{counts:.0f} counts"))
        if step:
            one = abs(photoresistor_lux(step, **figures) - sensor.threshold_lux)
            facts.append(("One count there", f"{one:.2f} lx"))
    return Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: photoresistor with {ohms(sensor.fixed_ohm)}",
        draws="divider",
        facts=tuple(facts),
        values={
            "sensor": ohms(sensor.r10_ohm),
            "fixed": ohms(sensor.fixed_ohm),
            "side": sensor.side,
        },
    )


def _leak(probe: Probe, tape: LeakTape, divider: Divider | None) -> Circuit:
    low, high = expected_dry_ohm(tape)
    rows: list[tuple[str, ...]] = []
    if divider is not None:
        for state in leak_states(tape, divider):
            top = "no end" if state.high_ohm == float("inf") else ohms(round(state.high_ohm))
            counts = f"{min(state.low_counts, divider.full_scale_counts):.0f} to "
            counts += f"{state.high_counts:.0f}"
            rows.append((state.name, f"{ohms(round(state.low_ohm))} to {top}", counts))
    dry = (
        f"{low / 1000:.0f} to {high / 1000:.0f} kΩ"
        if tape.end_of_line_ohm
        else "over 1 MΩ, the same as unplugged"
    )
    return Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: leak tape",
        draws="leak",
        facts=(
            (
                "Across the far end",
                ohms(tape.end_of_line_ohm) if tape.end_of_line_ohm else "nothing",
            ),
            ("An ohmmeter shows, dry", dry),
            (
                "Excitation",
                tape.excitation + (", it corrodes" if tape.excitation == "constant" else ""),
            ),
        ),
        head=("State", "Resistance", "Counts") if rows else (),
        rows=tuple(rows),
        values={
            "end": ohms(tape.end_of_line_ohm) if tape.end_of_line_ohm else "open",
            "fixed": ohms(tape.fixed_ohm),
        },
    )


def _level(
    probe: Probe, sensor: AnalogSensor | EchoSensor, upper_ohm: float, lower_ohm: float
) -> Circuit:
    top = sensor.highest_v if isinstance(sensor, AnalogSensor) else sensor.output_v
    made = level(
        upper_ohm=upper_ohm,
        lower_ohm=lower_ohm,
        tolerance_1=0.01,
        input_v=top,
        input_tolerance_1=0.05,
        input_farad=20e-12,
    )
    return Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: {top:g} V brought down",
        draws="level",
        facts=(
            ("Divider", f"{ohms(upper_ohm)} in line, {ohms(lower_ohm)} to 0 V, 1 %"),
            ("At the pin", f"{made.lowest_v:.2f} to {made.highest_v:.2f} V"),
            ("Rises in", f"{1e6 * made.rise_s:.2f} µs"),
            ("Takes", f"{1000 * made.current_a:.2f} mA"),
        ),
        values={"upper": ohms(upper_ohm), "lower": ohms(lower_ohm)},
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
    kind = reader_of(plan, f"relay:{relay.id}.coil")
    drive_v = kind.logic_v if kind else 3.3
    made = base_resistor(coil_a=relay.coil_ma / 1000, drive_v=drive_v, pin_limit_a=0.012)
    coil_ohm = relay.coil_v / (relay.coil_ma / 1000)
    return Circuit(
        owner=f"relay:{relay.id}",
        title=f"{relay.id.upper()}: coil by a transistor",
        draws="driver",
        facts=(
            ("Coil", f"{relay.coil_ma:g} mA, {coil_power_w(relay.coil_v, coil_ohm):.2f} W"),
            ("Base resistor", f"{ohms(made.chosen_ohm)} ({made.wanted_ohm:.0f} Ω computed)"),
            (
                "From the pin",
                f"{1000 * made.base_a:.1f} mA" + ("" if made.drive_ok else ", more than it gives"),
            ),
            ("Across the coil", "flyback diode, cathode to plus"),
        ),
        values={"base": ohms(made.chosen_ohm), "relay": relay.id.upper()},
    )
