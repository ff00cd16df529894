"""Every conductor of the panel, numbered: the wiring schedule that drawing and lists are made of.

Extra-low voltage has numbers from 101, mains those of its terminals on X1. A conductor joins two
terminals; terminals of one name are one piece of metal.
"""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace

from aldea.core.base.figures import ohms
from aldea.core.base.memo import per_plan
from aldea.core.devices.conductor import Conductor
from aldea.core.devices.loads.mains import MainsWires
from aldea.core.devices.loads.ratings import has_contactor, load_current_a
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.panel import Assignment, Board, Control, RelayOutput
from aldea.core.plan.seats import home_of, seat_of
from aldea.core.wiring.terminals import terminals_by_load

SIGNAL_MM2, RELAY_MM2 = 0.5, 0.75  # a probe's cable has a section of its own
FIRST_ELV = 101


def pin_node(board: Board, pin: str) -> str:
    """A pin as a terminal: `Board A:A21`."""
    return f"{board.name}:{pin}"


@per_plan
def conductors(plan: Plan) -> tuple[Conductor, ...]:
    """All conductors, in the order of their numbers: by board, then by what they serve."""
    low: list[Conductor] = []
    for board in plan.boards:
        low.extend(_board_feed(board, plan))
    for probe in plan.probes:
        low.extend(_probe_wires(probe, plan))
    for control in plan.controls:
        low.extend(_control_wires(control, plan))
    for relay in plan.relays:
        low.extend(_coil_wires(relay, plan))
    for load in plan.loads:
        low.extend(_load_wires(load, plan))
    numbered = [replace(wire, number=str(FIRST_ELV + i)) for i, wire in enumerate(low)]
    high: list[Conductor] = []
    for load in plan.loads:
        high.extend(_mains_wires(load, plan))
    return (*numbered, *high)


@per_plan
def _rows_by_owner(plan: Plan) -> dict[str, list[Assignment]]:
    """Assignments of each owner, so that a large house is gone through once."""
    found: dict[str, list[Assignment]] = defaultdict(list)
    for row in plan.assignments:
        found[row.signal.split(".", 1)[0]].append(row)
    return found


@dataclass(frozen=True, slots=True)
class _LowWires:
    """How the conductors of one thing below mains are written."""

    plan: Plan
    owner: str
    place: str
    mm2: float = SIGNAL_MM2

    def wire(
        self, start: str, end: str, colour: str, *, signal: str = "", note: str = ""
    ) -> Conductor:
        """A conductor; its number comes when all are known."""
        return Conductor(
            number="",
            start=start,
            end=end,
            net="ELV",
            colour=getattr(self.plan.house.colours, colour),
            section=f"{self.mm2} mm²",
            owner=self.owner,
            place=self.place,
            signal=signal,
            note=note,
        )

    def seated(self) -> Iterator[tuple[str, str, Board, str]]:
        """Each line that has a pin: its name, its signal, its board and the pin."""
        for row in _rows_by_owner(self.plan)[self.owner]:
            board = self.plan.board(row.board)
            if board is not None:
                yield row.signal.rsplit(".", 1)[1], row.signal, board, row.pin


def _board_feed(board: Board, plan: Plan) -> Iterator[Conductor]:
    own = board_types(plan)[board.board_type]
    supply = None if own.role != "controller" else plan.supply(board.supply)
    host = plan.board(board.host) if board.host else None
    low = _LowWires(plan, f"board:{board.id}", board.place)
    thick = replace(low, mm2=RELAY_MM2)
    if supply is not None:
        plus, zero = f"{supply.name}:+", f"{supply.name}:−"
    elif host is not None:
        kind = board_types(plan)[host.board_type]
        fits = own.supply_v in kind.rails_v
        plus = f"{host.name}:+{own.supply_v if fits else kind.logic_v:g} V"
        zero = f"{host.name}:0 V"
    else:
        return
    yield thick.wire(plus, f"{board.name}:+{own.supply_v:g} V", "plus")
    yield thick.wire(zero, f"{board.name}:0 V", "zero")
    for line, signal, at, pin in low.seated():
        colour = "clock" if "clock" in signal else "signal"
        yield low.wire(pin_node(at, pin), f"{board.name}:{line}", colour, signal=signal)


def _probe_wires(probe: Probe, plan: Plan) -> Iterator[Conductor]:
    device, sensor = sensor_device(probe), probe.sensor
    if device is None:
        return
    low = _LowWires(plan, f"probe:{probe.id}", probe.place, probe.cable_mm2)
    home: Board | None = None
    for line, signal, board, pin in low.seated():
        home = home_of(plan, board)
        yield low.wire(
            pin_node(board, pin),
            f"{probe.name}:{device.ends.get(line, line)}",
            "clock" if line == "clock" else "signal",
            signal=signal,
            note=device.note(sensor, line, pin),
        )
    if home is None:
        return
    for wanted in device.supplied(sensor):
        start, colour = f"{home.name}:0 V", "zero"
        if wanted.terminal == "rail":
            start, colour = f"{home.name}:+{wanted.volts:g} V", "plus"
        elif wanted.terminal == "reference":
            volts = board_types(plan)[home.board_type].converter_v
            start, colour = f"{home.name}:+{volts:g} V ref", "plus"
        yield low.wire(start, f"{probe.name}:{wanted.end}", colour)


def _control_wires(control: Control, plan: Plan) -> Iterator[Conductor]:
    low = _LowWires(plan, f"control:{control.id}", control.place)
    note = ""
    if control.kind == "lamp":
        note = "series resistor at the lamp"
    elif control.kind != "remote" and control.pull == "resistor":
        note = f"{ohms(control.pull_ohm)} pull-up at the board"
    home: Board | None = None
    for line, signal, board, pin in low.seated():
        home = home_of(plan, board)
        end = f"{control.name}:{line}"
        yield low.wire(pin_node(board, pin), end, "signal", signal=signal, note=note)
    if home is None:
        return
    if control.kind == "remote":
        kind = board_types(plan)[home.board_type]
        volts = min(kind.rails_v, default=kind.logic_v)
        yield low.wire(f"{home.name}:+{volts:g} V", f"{control.name}:+", "plus")
    yield low.wire(f"{home.name}:0 V", f"{control.name}:back", "zero")


def _coil_wires(relay: RelayOutput, plan: Plan) -> Iterator[Conductor]:
    signal = f"relay:{relay.id}.coil"
    seat = seat_of(plan, signal)
    if seat is None or plan.load(relay.load) is None:
        return
    board, pin = seat
    low = _LowWires(plan, f"relay:{relay.id}", board.place, RELAY_MM2)
    label = relay.id.upper()
    note = {
        "module": f"module, active {relay.active}",
        "transistor": "base resistor, driver transistor, flyback diode across the coil",
        "board": "driven by the board’s own output",
    }[relay.driver]
    if relay.pull_ohm:
        to = "0 V" if relay.active == "high" else "the logic supply"
        note = f"{note}; {ohms(relay.pull_ohm)} from {pin} to {to}"
    home = home_of(plan, board)
    inlet = f"{label}:{'A1' if relay.driver == 'board' else 'IN'}"
    yield low.wire(pin_node(board, pin), inlet, "signal", signal=signal, note=note)
    supply = plan.supply(home.supply)
    plus = f"{supply.name}:+" if supply else f"{home.name}:+{relay.coil_v:g} V"
    zero = f"{supply.name}:−" if supply else f"{home.name}:0 V"
    ends = {"module": ("+", "−"), "transistor": ("A1", "driver 0 V"), "board": ("", "A2")}
    plus_end, zero_end = ends[relay.driver]
    if plus_end:
        yield low.wire(plus, f"{label}:{plus_end}", "plus")
    yield low.wire(zero, f"{label}:{zero_end}", "zero")


def _load_wires(load: Load, plan: Plan) -> Iterator[Conductor]:
    """What a load has below mains: the line that drives it, a volt-free pair to its own button."""
    low = _LowWires(plan, f"load:{load.id}", load.place)
    signal = f"load:{load.id}.drive"
    seat = seat_of(plan, signal)
    if seat is not None:
        board, pin = seat
        note = "driver or series resistor as the part’s sheet asks"
        end = f"{load.name}:+"
        yield low.wire(pin_node(board, pin), end, "signal", signal=signal, note=note)
        yield low.wire(f"{home_of(plan, board).name}:0 V", f"{load.name}:0 V", "zero")
    for start, end, note in load_device(load).low_voltage(load, plan.relays_of(load.id)):
        yield low.wire(start, end, "signal", note=note)


def _mains_wires(load: Load, plan: Plan) -> Iterator[Conductor]:
    """Every mains conductor of a load; none where its relays switch no mains."""
    strip = terminals_by_load(plan)[load.id]
    if not strip:
        return
    wires = MainsWires(
        load_id=load.id,
        load_name=load.name,
        place=load.place,
        feed=load.feed or "feed to be named",
        labels=tuple(terminal.label for terminal in strip),
        current_a=load_current_a(load, plan),
        colours=plan.house.colours,
        has_contactor=lambda relay: has_contactor(relay, load),
    )
    yield from load_device(load).mains(load, plan, wires)
    yield from wires.neutral_and_earth()
