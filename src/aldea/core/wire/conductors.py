"""Every conductor of the panel, numbered: the wiring schedule that drawing and lists are made of.

Extra-low voltage has numbers from 101, mains those of its terminals on X1. A conductor joins two
terminals; terminals of one name are one piece of metal.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any, Literal

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.memo import per_plan
from aldea.core.plan.sensors import (
    AnalogSensor,
    BusSensor,
    ContactSensor,
    EchoSensor,
    LeakTape,
    LightResistor,
    MotionSensor,
    OneWireSensor,
    SerialSensor,
    Thermistor,
)
from aldea.core.plan.wiring import Assignment, Board, Control, RelayLine
from aldea.core.wire.contacts import load_current_a

Feed = Literal["ELV", "mains"]
SIGNAL_MM2, RELAY_MM2 = 0.5, 0.75
FIRST_ELV = 101


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """One wire: its number, its two ends, what it is, and what to know of it.

    `signal` names the signal that it carries, `owner` the thing that it serves. `current_a` is the
    load's for mains; section and fuse of mains are the electrician's to decide.
    """

    number: str
    start: str
    end: str
    feed: Feed
    colour: str
    section: str
    owner: str
    place: str
    signal: str = ""
    fuse: str = ""
    current_a: float = 0.0
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Terminal:
    """A mains terminal of the strip X1 with the load that hangs on it."""

    label: str
    load: str
    relay: str


def pin_node(board: Board, pin: str) -> str:
    """A pin as a terminal: `Board A:A21`."""
    return f"{board.name}:{pin}"


@per_plan
def conductors(plan: Plan) -> tuple[Conductor, ...]:
    """All conductors, in the order of their numbers: by board, then by what they serve."""
    low: list[Conductor] = []
    rows = {row.signal: row for row in plan.assignments}
    for board in plan.boards:
        low.extend(_board_feed(board, plan))
    for probe in plan.probes:
        low.extend(_probe_wires(probe, plan, rows))
    for control in plan.controls:
        low.extend(_control_wires(control, plan, rows))
    for relay in plan.relays:
        low.extend(_coil_wires(relay, plan, rows))
    for load in plan.loads:
        low.extend(_drive_wires(load, plan, rows))
    numbered = [replace(wire, number=str(FIRST_ELV + i)) for i, wire in enumerate(low)]
    high: list[Conductor] = []
    for load in plan.loads:
        high.extend(_mains_wires(load, plan))
    return (*numbered, *high)


@per_plan
def terminals(plan: Plan) -> tuple[Terminal, ...]:
    """The mains strip X1: one terminal a switched conductor, in the order of the plan."""
    made: list[Terminal] = []
    number = 0
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        if not relays or load.kind == "pulse_drive":
            continue
        if load.kind == "two_way":
            number += 1
            made += [
                Terminal(label=f"{number}{side}", load=load.id, relay=relays[0].id) for side in "ab"
            ]
            continue
        for relay in [relays[-1]] if load.kind == "valve" else relays:
            number += 1
            made.append(Terminal(label=str(number), load=load.id, relay=relay.id))
    return tuple(made)


@per_plan
def _strips(plan: Plan) -> dict[str, list[Terminal]]:
    found: dict[str, list[Terminal]] = defaultdict(list)
    for terminal in terminals(plan):
        found[terminal.load].append(terminal)
    return found


@per_plan
def _lines_by_owner(plan: Plan) -> dict[str, list[Assignment]]:
    """Assignments of each owner, so that a large house is gone through once."""
    found: dict[str, list[Assignment]] = defaultdict(list)
    for row in plan.assignments:
        found[row.signal.split(".", 1)[0]].append(row)
    return found


def outlet(relay: RelayLine) -> str:
    """The contact's outgoing terminal: 14 of a normally open contact, 12 of a closed one."""
    return f"{relay.id.upper()}:{'14' if relay.contact == 'no' else '12'}"


def _wire(
    start: str, end: str, plan: Plan, *, colour: str, owner: str, place: str, **facts: object
) -> Conductor:
    return Conductor(
        number="",
        start=start,
        end=end,
        feed="ELV",
        colour=getattr(plan.house.colours, colour),
        section=f"{facts.pop('mm2', SIGNAL_MM2)} mm²",
        owner=owner,
        place=place,
        **facts,  # type: ignore[arg-type]
    )


def _board_feed(board: Board, plan: Plan) -> Iterator[Conductor]:
    supply = plan.supply(board.supply)
    host = plan.board(board.host) if board.host else None
    owner = f"board:{board.id}"
    if supply is not None:
        plus, zero = f"{supply.name}:+", f"{supply.name}:−"
    elif host is not None:
        plus, zero = (
            f"{host.name}:+{board_types(plan)[host.board_type].logic_v:g} V",
            (f"{host.name}:0 V"),
        )
    else:
        return
    own = board_types(plan)[board.board_type]
    inlet = f"{board.name}:+{own.supply_v:g} V"
    yield _wire(plus, inlet, plan, colour="plus", owner=owner, place=board.place, mm2=RELAY_MM2)
    yield _wire(
        zero,
        f"{board.name}:0 V",
        plan,
        colour="zero",
        owner=owner,
        place=board.place,
        mm2=RELAY_MM2,
    )
    for row in _lines_by_owner(plan)[owner]:
        at = plan.board(row.board)
        if at is not None:
            yield _wire(
                pin_node(at, row.pin),
                f"{board.name}:{_own_line(row.signal)}",
                plan,
                colour="clock" if "clock" in row.signal else "signal",
                owner=owner,
                place=board.place,
                signal=row.signal,
            )


def _own_line(signal: str) -> str:
    return signal.rsplit(".", 1)[1]


def _at(plan: Plan, rows: dict[str, Assignment], signal: str) -> tuple[Board, str] | None:
    row = rows.get(signal)
    board = plan.board(row.board) if row else None
    return (board, row.pin) if row and board else None


def _home(plan: Plan, board: Board) -> Board:
    """The board whose supply terminals serve what sits on a board: for a multiplexer its host."""
    host = plan.board(board.host) if board.host else None
    return host or board


def _probe_wires(probe: Probe, plan: Plan, rows: dict[str, Assignment]) -> Iterator[Conductor]:
    owner = f"probe:{probe.id}"
    sensor = probe.sensor
    mine = [row.signal for row in _lines_by_owner(plan)[owner]]
    if sensor is None or not mine:
        return
    home: Board | None = None
    for name in mine:
        found = _at(plan, rows, name)
        if found is None:
            continue
        board, pin = found
        home = _home(plan, board)
        line = _own_line(name)
        # Serial lines cross: what the sensor sends goes to the pin that receives.
        end = {"rx": "TX", "tx": "RX"}.get(line, line)
        yield _wire(
            pin_node(board, pin),
            f"{probe.name}:{end}",
            plan,
            colour="clock" if line == "clock" else "signal",
            owner=owner,
            place=probe.place,
            signal=name,
            note=_probe_note(probe, line, pin),
        )
    if home is None:
        return
    kind = board_types(plan)[home.board_type]
    facts: dict[str, Any] = {"owner": owner, "place": probe.place}
    if isinstance(sensor, Thermistor | LightResistor | LeakTape):
        high = not isinstance(sensor, LeakTape) and sensor.side == "sensor_high"
        back = f"{home.name}:+{kind.converter_v:g} V ref" if high else f"{home.name}:0 V"
        if isinstance(sensor, LeakTape) and sensor.excitation != "constant":
            return  # its second wire is the excitation
        yield _wire(back, f"{probe.name}:back", plan, colour="plus" if high else "zero", **facts)
    elif isinstance(
        sensor,
        AnalogSensor | BusSensor | OneWireSensor | SerialSensor | EchoSensor | MotionSensor,
    ):
        yield _wire(
            f"{home.name}:+{sensor.supply_v:g} V", f"{probe.name}:+", plan, colour="plus", **facts
        )
        yield _wire(f"{home.name}:0 V", f"{probe.name}:0 V", plan, colour="zero", **facts)
    else:
        yield _wire(f"{home.name}:0 V", f"{probe.name}:back", plan, colour="zero", **facts)


def ohms(value: float) -> str:
    """`470 kΩ`, `4.7 kΩ`, `680 Ω`."""
    for unit, size in (("MΩ", 1e6), ("kΩ", 1e3)):
        if value >= size:
            return f"{value / size:g} {unit}"
    return f"{value:g} Ω"


def _probe_note(probe: Probe, line: str, pin: str) -> str:
    sensor = probe.sensor
    note = ""
    if isinstance(sensor, Thermistor | LightResistor) and line == "sense":
        other = "0 V" if sensor.side == "sensor_high" else "the converter’s reference"
        note = f"{ohms(sensor.fixed_ohm)} from {pin} to {other}, at the board"
    elif isinstance(sensor, LeakTape) and line == "sense":
        end = sensor.end_of_line_ohm
        far = f"{ohms(end)} across the far end" if end else "no far-end resistor"
        note = f"{ohms(sensor.fixed_ohm)} from {pin} to 0 V, at the board; {far}"
    elif isinstance(sensor, AnalogSensor | EchoSensor) and line in ("sense", "echo"):
        if sensor.upper_ohm and sensor.lower_ohm:
            upper, lower = ohms(sensor.upper_ohm), ohms(sensor.lower_ohm)
            note = f"divider at the board: {upper} in line, {lower} from {pin} to 0 V"
    elif isinstance(sensor, SerialSensor):
        note = "crossed: TX to RX"
    elif isinstance(sensor, BusSensor) and line == "data":
        note = f"address 0x{sensor.address:02x}; 4.7 kΩ pull-ups once a bus"
    elif isinstance(sensor, OneWireSensor):
        note = "4.7 kΩ pull-up once a wire"
    elif isinstance(sensor, ContactSensor) and sensor.pull == "resistor":
        note = f"{ohms(sensor.pull_ohm)} pull-up at the board"
    return note


def _control_wires(
    control: Control, plan: Plan, rows: dict[str, Assignment]
) -> Iterator[Conductor]:
    owner = f"control:{control.id}"
    home: Board | None = None
    facts: dict[str, Any] = {"owner": owner, "place": control.place}
    for name in [row.signal for row in _lines_by_owner(plan)[owner]]:
        found = _at(plan, rows, name)
        if found is None:
            continue
        board, pin = found
        home = _home(plan, board)
        note = ""
        if control.kind == "lamp":
            note = "series resistor at the lamp"
        elif control.kind != "remote" and control.pull == "resistor":
            note = f"{ohms(control.pull_ohm)} pull-up at the board"
        yield _wire(
            pin_node(board, pin),
            f"{control.name}:{_own_line(name)}",
            plan,
            colour="signal",
            signal=name,
            note=note,
            **facts,
        )
    if home is None:
        return
    if control.kind == "remote":
        kind = board_types(plan)[home.board_type]
        volts = min(kind.rails_v, default=kind.logic_v)
        yield _wire(f"{home.name}:+{volts:g} V", f"{control.name}:+", plan, colour="plus", **facts)
    yield _wire(f"{home.name}:0 V", f"{control.name}:back", plan, colour="zero", **facts)


def _coil_wires(relay: RelayLine, plan: Plan, rows: dict[str, Assignment]) -> Iterator[Conductor]:
    name = f"relay:{relay.id}.coil"
    found = _at(plan, rows, name)
    load = plan.load(relay.load)
    if found is None or load is None:
        return
    board, pin = found
    facts: dict[str, Any] = {
        "owner": f"relay:{relay.id}",
        "place": board.place,
        "mm2": RELAY_MM2,
    }
    label = relay.id.upper()
    note = {
        "module": f"module, active {relay.active}",
        "transistor": "base resistor, driver transistor, flyback diode across the coil",
        "board": "driven by the board’s own output",
    }[relay.driver]
    if relay.pull_ohm:
        to = "0 V" if relay.active == "high" else "the logic supply"
        note = f"{note}; {ohms(relay.pull_ohm)} from {pin} to {to}"
    home = _home(plan, board)
    yield _wire(
        pin_node(board, pin),
        f"{label}:{'A1' if relay.driver == 'board' else 'IN'}",
        plan,
        colour="signal",
        signal=name,
        note=note,
        **facts,
    )
    supply = plan.supply(home.supply)
    plus = f"{supply.name}:+" if supply else f"{home.name}:+{relay.coil_v:g} V"
    zero = f"{supply.name}:−" if supply else f"{home.name}:0 V"
    ends = {"module": ("+", "−"), "transistor": ("A1", "driver 0 V"), "board": ("", "A2")}
    plus_end, zero_end = ends[relay.driver]
    if plus_end:
        yield _wire(plus, f"{label}:{plus_end}", plan, colour="plus", **facts)
    yield _wire(zero, f"{label}:{zero_end}", plan, colour="zero", **facts)


def _drive_wires(load: Load, plan: Plan, rows: dict[str, Assignment]) -> Iterator[Conductor]:
    found = _at(plan, rows, f"load:{load.id}.drive")
    facts: dict[str, Any] = {"owner": f"load:{load.id}", "place": load.place}
    if found is not None:
        board, pin = found
        yield _wire(
            pin_node(board, pin),
            f"{load.name}:+",
            plan,
            colour="signal",
            signal=f"load:{load.id}.drive",
            note="driver or series resistor as the part’s sheet asks",
            **facts,
        )
        yield _wire(
            f"{_home(plan, board).name}:0 V", f"{load.name}:0 V", plan, colour="zero", **facts
        )
    if load.kind == "pulse_drive":
        for relay in plan.relays_of(load.id):
            note = "volt-free, parallel to the drive’s own button"
            yield _wire(
                f"{relay.id.upper()}:11",
                f"{load.name}:button 1",
                plan,
                colour="signal",
                note=note,
                **facts,
            )
            yield _wire(
                outlet(relay), f"{load.name}:button 2", plan, colour="signal", note=note, **facts
            )


def _mains_wires(load: Load, plan: Plan) -> Iterator[Conductor]:
    relays = plan.relays_of(load.id)
    if not relays or load.kind == "pulse_drive":
        return
    colours = plan.house.colours
    current = load_current_a(load, plan)
    fuse = load.feed or "feed to be named"
    strip = _strips(plan)[load.id]

    def made(number: str, start: str, end: str, colour: str, note: str = "") -> Conductor:
        return Conductor(
            number=number,
            start=start,
            end=end,
            feed="mains",
            colour=colour,
            section="electrician decides",
            owner=f"load:{load.id}",
            place=load.place,
            fuse=fuse,
            current_a=current,
            note=note,
        )

    first = strip[0].label
    live = f"{fuse}:L"
    if load.kind == "two_way":
        switch = relays[0].id.upper()
        yield made(f"L{first}", live, f"{switch}:11", colours.line)
        for terminal, contact in zip(strip, ("12", "14"), strict=True):
            label = f"X1:{terminal.label}"
            yield made(terminal.label, f"{switch}:{contact}", label, colours.switched, "traveller")
            yield made(
                f"{terminal.label}′",
                label,
                f"{load.name} wall switch:{'L1' if contact == '12' else 'L2'}",
                colours.switched,
                "can be live with the relay at rest",
            )
        yield made(
            f"{first[:-1]}′", f"{load.name} wall switch:COM", f"{load.name}:L", colours.switched
        )
        sense = plan.probe(load.two_way.sense or "") if load.two_way else None
        if sense is not None:
            note = "isolated sensing across the lamp"
            yield made(
                f"{first[:-1]}s", f"{load.name}:L", f"{sense.name}:L", colours.switched, note
            )
            yield made(f"{first[:-1]}n", "N bar:N", f"{sense.name}:N", colours.neutral, note)
    elif load.kind == "valve":
        yield made(f"L{first}", live, f"{relays[0].id.upper()}:11", colours.line)
        for before, after in pairwise(relays):
            yield made(
                f"L{first}s",
                outlet(before),
                f"{after.id.upper()}:11",
                colours.switched,
                "two contacts in series: both must weld to fail",
            )
        yield from _to_load(made, load, outlet(relays[-1]), first, colours.switched, "L")
    else:
        caps = {c.role: c for c in load.stepped.capacitors} if load.stepped else {}
        for relay, terminal in zip(relays, strip, strict=True):
            name = relay.id.upper()
            yield made(f"L{terminal.label}", live, f"{name}:11", colours.line)
            end = "L"
            note = ""
            if relay.role in caps:
                end = f"{relay.role.upper()} in"
                note = f"series capacitor {caps[relay.role].capacitance_uf:g} µF; holds charge"
            start = outlet(relay)
            if relay.contactor:
                coil = f"KM {name}"
                yield made(f"{terminal.label}c", start, f"{coil}:A1", colours.switched, "coil")
                yield made(f"{terminal.label}n", "N bar:N", f"{coil}:A2", colours.neutral)
                yield made(f"{terminal.label}m", live, f"{coil}:1", colours.line)
                start = f"{coil}:2"
            yield from _to_load(made, load, start, terminal.label, colours.switched, end, note)
            if relay.role in caps:
                yield made(
                    f"{terminal.label}″",
                    f"{load.name}:{relay.role.upper()} out",
                    f"{load.name}:L",
                    colours.switched,
                    "capacitor to motor",
                )
    yield made(f"N{first}", "N bar:N", f"{load.name}:N", colours.neutral)
    yield made(f"PE{first}", "PE bar:PE", f"{load.name}:PE", colours.earth, "where it has one")


def _to_load(
    made: object, load: Load, start: str, label: str, colour: str, end: str, note: str = ""
) -> Iterator[Conductor]:
    strip = f"X1:{label}"
    yield made(label, start, strip, colour, note)  # type: ignore[operator]
    yield made(f"{label}′", strip, f"{load.name}:{end}", colour, note)  # type: ignore[operator]
