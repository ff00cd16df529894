"""Every conductor of the panel, numbered: the wiring schedule that drawing and lists are made of.

Extra-low voltage has numbers from 101, mains those of its terminals on X1. A conductor joins two
terminals; terminals of one name are one piece of metal.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.memo import per_plan
from aldea.core.plan.sensors import (
    BusSensor,
    ContactSensor,
    EchoSensor,
    LeakTape,
    LightResistor,
    MotionSensor,
    OneWireSensor,
    SerialSensor,
    Thermistor,
    VoltageSensor,
)
from aldea.core.plan.wiring import Assignment, Board, Control, RelayLine
from aldea.core.wire.mains import Conductor, mains_wires, outlet

SIGNAL_MM2, RELAY_MM2 = 0.5, 0.75  # a probe's cable has a section of its own
FIRST_ELV = 101
BUS_PULL_OHM = 4700.0  # once a line of a bus


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
        high.extend(mains_wires(load, plan))
    return (*numbered, *high)


@per_plan
def _lines_by_owner(plan: Plan) -> dict[str, list[Assignment]]:
    """Assignments of each owner, so that a large house is gone through once."""
    found: dict[str, list[Assignment]] = defaultdict(list)
    for row in plan.assignments:
        found[row.signal.split(".", 1)[0]].append(row)
    return found


@per_plan
def _sections(plan: Plan) -> dict[str, float]:
    """Section of the cable of each probe, mm²."""
    return {f"probe:{probe.id}": probe.cable_mm2 for probe in plan.probes}


def _wire(
    start: str, end: str, plan: Plan, *, colour: str, owner: str, place: str, **facts: object
) -> Conductor:
    return Conductor(
        number="",
        start=start,
        end=end,
        feed="ELV",
        colour=getattr(plan.house.colours, colour),
        section=f"{facts.pop('mm2', _sections(plan).get(owner, SIGNAL_MM2))} mm²",
        owner=owner,
        place=place,
        **facts,  # type: ignore[arg-type]
    )


def _board_feed(board: Board, plan: Plan) -> Iterator[Conductor]:
    hung = board_types(plan)[board.board_type].role != "controller"
    supply = None if hung else plan.supply(board.supply)
    host = plan.board(board.host) if board.host else None
    owner = f"board:{board.id}"
    own = board_types(plan)[board.board_type]
    if supply is not None:
        plus, zero = f"{supply.name}:+", f"{supply.name}:−"
    elif host is not None:
        kind = board_types(plan)[host.board_type]
        fits = own.supply_v in kind.rails_v
        plus = f"{host.name}:+{own.supply_v if fits else kind.logic_v:g} V"
        zero = f"{host.name}:0 V"
    else:
        return
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
        VoltageSensor | BusSensor | OneWireSensor | SerialSensor | EchoSensor | MotionSensor,
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
    elif isinstance(sensor, VoltageSensor | EchoSensor) and line in ("sense", "echo"):
        if sensor.upper_ohm and sensor.lower_ohm:
            upper, lower = ohms(sensor.upper_ohm), ohms(sensor.lower_ohm)
            note = f"divider at the board: {upper} in line, {lower} from {pin} to 0 V"
    elif isinstance(sensor, SerialSensor):
        note = "crossed: TX to RX"
    elif isinstance(sensor, BusSensor) and line == "data":
        note = f"address 0x{sensor.address:02x}; {ohms(BUS_PULL_OHM)} pull-ups once a bus"
    elif isinstance(sensor, OneWireSensor):
        note = f"{ohms(BUS_PULL_OHM)} pull-up once a wire"
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
