"""Every conductor of the panel, numbered: the wiring schedule that drawing and lists are made of.

Extra-low voltage has numbers from 101, mains those of its terminals on X1. A conductor joins two
terminals; terminals of one name are one piece of metal.
"""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from aldea.core.base.figures import ohms
from aldea.core.base.memo import per_plan
from aldea.core.devices.conductor import IDLE_PULL_OHM, Conductor
from aldea.core.devices.loads.mains import MainsWires, outlet
from aldea.core.devices.loads.ratings import has_coil, has_contactor, load_current_a
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.board_types import board_types
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.panel import Assignment, Board, RelayOutput
from aldea.core.plan.seats import coil_supply, home_of, seat_of
from aldea.core.wiring.board_terminals import (
    ZERO,
    feed_terminal,
    rail_terminal,
    reference_terminal,
)
from aldea.core.wiring.common_zero import zero_links
from aldea.core.wiring.drivers import GATE_OHM, switched_by
from aldea.core.wiring.given import FIRST_ELV, numbered
from aldea.core.wiring.signals import signals
from aldea.core.wiring.terminals import terminals_by_load

SIGNAL_MM2, FEED_MM2 = 0.5, 0.75  # a probe's and a relay's cable have sections of their own
LOW_SECTIONS = ((3.0, 0.75), (6.0, 1.0), (10.0, 1.5), (16.0, 2.5))  # up to A, mm²


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
    low.extend(_joined_zeros(plan))
    numbers = numbered(plan, conductor_keys(low), first=FIRST_ELV, terminals=False)
    done = [replace(wire, number=str(n)) for wire, n in zip(low, numbers, strict=True)]
    high: list[Conductor] = []
    for load in plan.loads:
        high.extend(_mains_wires(load, plan))
    return (*done, *high)


def conductor_keys(wires: Iterable[Conductor]) -> list[str]:
    """What tells conductors apart through edits: whose each is, and the terminal that it ends on.

    Names may change, and pins; the thing served and its own terminal stay.
    """
    seen: Counter[str] = Counter()
    keys: list[str] = []
    for wire in wires:
        low = wire.signal or f"{wire.owner}/{wire.end.rsplit(':', 1)[-1]}"
        key = low if wire.net == "ELV" else f"{wire.owner}/{wire.number}"
        seen[key] += 1
        keys.append(key if seen[key] == 1 else f"{key}/{seen[key]}")
    return keys


@per_plan
def _rows_by_owner(plan: Plan) -> dict[str, list[Assignment]]:
    """Assignments of each owner, so that a large house is gone through once."""
    rows: dict[str, list[Assignment]] = defaultdict(list)
    for row in plan.assignments:
        rows[row.signal.split(".", 1)[0]].append(row)
    return rows


@dataclass(frozen=True, slots=True)
class _LowWires:
    """How the conductors of one thing below mains are written."""

    plan: Plan
    owner: str
    place: str
    mm2: float = SIGNAL_MM2
    current_a: float = 0.0

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
            current_a=self.current_a,
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
    thick = replace(low, mm2=FEED_MM2)
    if supply is not None:
        plus, zero = f"{supply.name}:+", f"{supply.name}:−"
    elif host is not None:
        rail = rail_terminal(board_types(plan)[host.board_type], own.supply_v)
        plus = f"{host.name}:{rail}" if rail else ""  # no conductor to what is not there
        zero = f"{host.name}:{ZERO}"
    else:
        return
    if plus:
        yield thick.wire(plus, f"{board.name}:{feed_terminal(own)}", "plus")
    yield thick.wire(zero, f"{board.name}:0 V", "zero")
    for line, signal, at, pin in low.seated():
        colour = "clock" if "clock" in signal else "signal"
        note = _spare(board, plan) if line == "common" else ""
        end = f"{board.name}:{line}"
        yield low.wire(pin_node(at, pin), end, colour, signal=signal, note=note)
    if own.role == "multiplexer" and host is not None:
        note = "tied: no channel in use needs it high"
        wanted = {signal.id for signal in signals(plan)}
        for n in range(own.address_lines):
            if f"board:{board.id}.s{n}" not in wanted:
                yield low.wire(f"{host.name}:{ZERO}", f"{board.name}:s{n}", "zero", note=note)
    if own.role == "multiplexer" and board.enable == "tied" and host is not None:
        note = "tied: it is always on"
        yield low.wire(f"{host.name}:{ZERO}", f"{board.name}:enable", "zero", note=note)


def _spare(board: Board, plan: Plan) -> str:
    """The channels of a multiplexer that nothing sits on, so that they can be tied to 0 V."""
    taken = {row.pin for row in plan.assignments if row.board == board.id}
    left = [pin.name for pin in board_types(plan)[board.board_type].pins if pin.name not in taken]
    return f"spare, to 0 V: {', '.join(left)}" if left else ""


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
            f"{probe.name}:{device.end(sensor, line)}",
            "clock" if line == "clock" else "signal",
            signal=signal,
            note=_probe_note(probe, device.note(sensor, line, pin)),
        )
    if home is None or board_types(plan)[home.board_type].role != "controller":
        return  # what hangs on no board can feed nothing
    supply, feeder = plan.supply(probe.fed_by), plan.board(probe.fed_by or "") or home
    kind = board_types(plan)[feeder.board_type]
    for wanted in device.supplied(sensor):
        if supply is not None and wanted.terminal in ("rail", "zero"):
            plus = wanted.terminal == "rail"
            start = f"{supply.name}:{'+' if plus else '−'}"
            yield low.wire(start, f"{probe.name}:{wanted.end}", "plus" if plus else "zero")
            continue
        terminal: str | None = ZERO
        if wanted.terminal == "rail":
            terminal = rail_terminal(kind, wanted.volts)
        elif wanted.terminal == "reference":
            terminal = reference_terminal(kind)
        if terminal is not None:
            colour = "zero" if terminal == ZERO else "plus"
            yield low.wire(f"{feeder.name}:{terminal}", f"{probe.name}:{wanted.end}", colour)


def _probe_note(probe: Probe, own: str) -> str:
    """What to know of a probe's line: its own, a level converter in it, its cable."""
    words = [own, "level converter" if probe.level_converter else "", probe.cable.words]
    return "; ".join(word for word in words if word)


def _control_wires(control: Control, plan: Plan) -> Iterator[Conductor]:
    low = _LowWires(plan, f"control:{control.id}", control.place)
    note = ""
    if control.kind == "lamp":
        note = "series resistor at the lamp"
    elif control.kind not in ("remote", "touch_pad") and control.pull == "resistor":
        note = f"{ohms(control.pull_ohm)} pull-up at the board"
    home: Board | None = None
    for line, signal, board, pin in low.seated():
        home = home_of(plan, board)
        end = f"{control.name}:{line}"
        yield low.wire(pin_node(board, pin), end, "signal", signal=signal, note=note)
    if home is None:
        return
    if control.kind == "touch_pad":
        rail = rail_terminal(board_types(plan)[home.board_type], control.supply_v)
        if rail:
            yield low.wire(f"{home.name}:{rail}", f"{control.name}:+", "plus")
    if control.kind == "remote":
        rails = board_types(plan)[home.board_type].rails_v
        if rails:
            yield low.wire(f"{home.name}:+{min(rails):g} V", f"{control.name}:+", "plus")
    yield low.wire(f"{home.name}:0 V", f"{control.name}:back", "zero")


def _coil_wires(relay: RelayOutput, plan: Plan) -> Iterator[Conductor]:
    signal = f"relay:{relay.id}.coil"
    seat = seat_of(plan, signal)
    if seat is None or plan.load(relay.load) is None:
        return
    board, pin = seat
    low = _LowWires(plan, f"relay:{relay.id}", relay.place or board.place, relay.cable_mm2)
    label = relay.id.upper()
    note = {
        "module": f"module, active {relay.active}",
        "transistor": "base resistor, driver transistor, flyback diode across the coil",
        "board": "driven by the board’s own output",
    }[relay.driver]
    if relay.pull_ohm:
        to = "0 V" if relay.pulls_in == "high" else "the logic supply"
        note = f"{note}; {ohms(relay.pull_ohm)} from {pin} to {to}"
    note = "; ".join(word for word in (note, relay.cable.words) if word)
    home = home_of(plan, board)
    if relay.transistor is not None:
        yield from _gate_wire(relay, plan, low)
        return
    inlet = f"{label}:{'A1' if relay.driver == 'board' else 'IN'}"
    yield low.wire(pin_node(board, pin), inlet, "signal", signal=signal, note=note)
    supply = coil_supply(plan, relay)
    rail = rail_terminal(board_types(plan)[home.board_type], relay.coil_v)
    plus = f"{home.name}:{rail}" if rail else ""
    if supply is not None:
        plus = f"{supply.name}:+"
    zero = f"{supply.name}:−" if supply else f"{home.name}:{ZERO}"
    ends = {"module": ("+", "−"), "transistor": ("A1", "driver 0 V"), "board": ("", "A2")}
    plus_end, zero_end = ends[relay.driver]
    if plus_end and plus:
        yield low.wire(plus, f"{label}:{plus_end}", "plus")
    yield low.wire(zero, f"{label}:{zero_end}", "zero")


def _gate_wire(relay: RelayOutput, plan: Plan, low: _LowWires) -> Iterator[Conductor]:
    """From the pin to a switching transistor; its 0 V comes with the load's way back."""
    signal = f"relay:{relay.id}.coil"
    seat, switch = seat_of(plan, signal), switched_by(plan, relay)
    if seat is None or switch is None:
        return
    gate = switch.base.chosen_ohm if switch.base is not None else GATE_OHM
    pull = ohms(relay.pull_ohm or IDLE_PULL_OHM)
    words = (f"{ohms(gate)} in line; {pull} from it to 0 V", relay.cable.words)
    note = "; ".join(word for word in words if word)
    end = f"{relay.id.upper()}:in"
    yield low.wire(pin_node(*seat), end, "signal", signal=signal, note=note)


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
    if not load.on_mains:
        yield from _supplied_wires(load, plan)


def _supplied_wires(load: Load, plan: Plan) -> Iterator[Conductor]:
    """From its supply through a contact to the load and back; or through a transistor to 0 V."""
    supply, relays = plan.supply(load.supply), plan.relays_of(load.id)
    if supply is None or not relays:
        return
    current = load_current_a(load, plan)
    low = _LowWires(plan, f"load:{load.id}", load.place, section_mm2(current), current)
    plus, zero = (f"{supply.name}:+", f"{supply.name}:−")
    if supply.gives == "ac":
        plus, zero = f"{supply.name}:~1", f"{supply.name}:~2"
    there, back = ("plus", "zero") if supply.gives == "dc" else ("ac", "ac")
    ends = ("+", "−") if load.runs_on == "dc" else ("1", "2")
    diode = "flyback diode across the load, cathode to plus" if has_coil(load) else ""
    if relays[0].transistor is not None:
        label = relays[0].id.upper()
        yield low.wire(plus, f"{load.name}:{ends[0]}", "plus", note=diode)
        yield low.wire(f"{load.name}:{ends[1]}", f"{label}:load", "signal")
        yield low.wire(f"{label}:0 V", zero, "zero")
        return
    start = plus
    for relay in relays:
        yield low.wire(start, f"{relay.id.upper()}:11", there)
        start = outlet(relay)
    yield low.wire(start, f"{load.name}:{ends[0]}", there, note=diode)
    yield low.wire(f"{load.name}:{ends[1]}", zero, back)


def _joined_zeros(plan: Plan) -> Iterator[Conductor]:
    """What joins the 0 V of two supplies whose things speak with each other."""
    for link in zero_links(plan):
        low = _LowWires(plan, f"supply:{link.supply.id}", link.supply.place, FEED_MM2)
        others = len(link.needed_by) - 2
        names = " and ".join(link.needed_by[:2]) + (f" and {others} more" if others > 0 else "")
        yield low.wire(link.start, link.end, "zero", note=f"joins the two 0 V, for {names}")


def section_mm2(current_a: float) -> float:
    """The thinnest usual conductor for a current on extra-low voltage; its drop is checked."""
    return next((mm2 for most_a, mm2 in LOW_SECTIONS if current_a <= most_a), 4.0)


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
