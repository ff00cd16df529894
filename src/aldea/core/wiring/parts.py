"""What must be bought: every part of the plan counted, less the drawer, in whole packs."""

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any, get_args

from aldea.core.base.figures import ohms, short
from aldea.core.base.quantities import QUANTITIES
from aldea.core.devices.conductor import BUS_PULL_OHM, IDLE_PULL_OHM, Conductor
from aldea.core.devices.loads.ratings import has_coil, has_contactor, load_current_a
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.part_count import PartCount, PartGroup
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.board_types import board_types
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.one_part import others_of_part
from aldea.core.plan.panel import RelayOutput, Stock, TransistorSwitch
from aldea.core.wiring.circuits import PRESSED
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.drivers import GATE_OHM, driver_of, switched_by
from aldea.core.wiring.signals import signals
from aldea.core.wiring.terminals import terminals

GROUPS: tuple[PartGroup, ...] = get_args(PartGroup)
CONTROL_WORDS = {
    "push_button": "push-button",
    "wall_switch": "wall switch, two-way",
    "selector": "selector switch",
    "touch_pad": "touch pad, powered",
    "remote": "remote receiver module",
    "lamp": "panel lamp with its resistor",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class PartLine:
    """One part: how many the plan needs, what the drawer has, how many packs to buy, the price."""

    part: str
    group: PartGroup
    needed: float
    unit: str
    stock: Stock

    @property
    def missing(self) -> float:
        """What is left to get, spares included, after the drawer."""
        return max(0.0, self.needed + self.stock.spares - self.stock.in_drawer)

    @property
    def packs(self) -> int:
        """Whole packs to buy."""
        return math.ceil(self.missing / self.stock.pack - 1e-9)

    @property
    def price(self) -> float:
        """What they cost."""
        return self.packs * self.stock.pack_price


def part_lines(plan: Plan) -> tuple[PartLine, ...]:
    """Every part of the plan by group, in the order of the work."""
    counted: dict[tuple[PartGroup, str, str], float] = {}

    def add(group: PartGroup, part: str, count: float = 1, unit: str = "") -> None:
        key = (group, part, unit)
        counted[key] = counted.get(key, 0) + count

    def add_all(parts: Iterable[PartCount]) -> None:
        for row in parts:
            add(row.group, row.part, row.count, row.unit)

    types = board_types(plan)
    for board in plan.boards:
        add("Boards", types[board.board_type].name)
    for supply in plan.supplies:
        add("Supplies", f"supply {short(supply.volts)} V, {short(supply.rating_ma / 1000)} A")
    for relay in plan.relays:
        _relay_parts(relay, plan, add)
    for probe in plan.probes:
        device = sensor_device(probe)
        if device is not None:
            add_all(_sensor_parts(device, probe, plan))
    for control in plan.controls:
        add_all(_control_parts(control))
    # one pull-up a bus line, however many sensors share it
    shared = {signal.id for signal in signals(plan) if signal.share}
    lines = {(row.board, row.pin) for row in plan.assignments if row.signal in shared}
    if lines:
        add("Small parts", f"resistor {ohms(BUS_PULL_OHM)}", len(lines))
    for load in plan.loads:
        add_all(_load_parts(load, plan))
    _wire_parts(plan, add)
    known = {stock.part: stock for stock in plan.stock}
    return tuple(
        PartLine(
            part=part,
            group=group,
            needed=count,
            unit=unit,
            stock=known.get(part, Stock(part=part)),
        )
        for (group, part, unit), count in sorted(
            counted.items(), key=lambda row: GROUPS.index(row[0][0])
        )
    )


def _load_parts(load: Load, plan: Plan) -> Iterator[PartCount]:
    """What a load needs beyond its relays, and the diode across a coil on direct current."""
    yield from load_device(load).parts(load)
    if has_coil(load) and plan.relays_of(load.id):
        amperes = max(1, math.ceil(load_current_a(load, plan)))
        yield PartCount(group="Small parts", part=f"flyback diode, {amperes} A")


def _sensor_parts(device: SensorDevice[Any], probe: Probe, plan: Plan) -> Iterator[PartCount]:
    """A probe's sensor by its type: where a kind measures several things, with what this one does.

    A part of several quantities is one part.
    """
    gives = (probe, *others_of_part(plan, probe))
    names = dict.fromkeys(QUANTITIES[one.quantity].name for one in gives)
    if probe.level_converter:
        yield PartCount(group="Small parts", part="level converter, 2 lines or more")
    for row in device.parts(probe.sensor):
        if row.group == "Sensors" and len(device.facts.measures) > 1:
            row = replace(row, part=f"{row.part}: {' + '.join(names)}")  # noqa: PLW2901
        yield row


def _relay_parts(relay: RelayOutput, plan: Plan, add: Callable[..., None]) -> None:
    if relay.transistor is not None:
        _transistor_parts(relay, relay.transistor, plan, add)
        return
    rating = f"{short(relay.coil_v)} V, {short(relay.rated_a)} A"
    if relay.driver == "module":
        add("Relays", f"relay module, {rating}, active {relay.active}")
    else:
        add("Relays", f"relay, {rating}")
    if relay.driver == "transistor":
        add("Small parts", "NPN transistor, 500 mA")
        base = driver_of(plan, relay)
        if base is not None:
            add("Small parts", f"resistor {ohms(base.chosen_ohm)}")
        add("Small parts", "flyback diode, 1 A")
    load = plan.load(relay.load)
    if load is not None and has_contactor(relay, load):
        add("Relays", f"contactor, {short(plan.house.mains_v)} V coil")
    if relay.pull_ohm:
        add("Small parts", f"resistor {ohms(relay.pull_ohm)}")


def _transistor_parts(
    relay: RelayOutput, transistor: TransistorSwitch, plan: Plan, add: Callable[..., None]
) -> None:
    switch = switched_by(plan, relay)
    kind = "N-channel field-effect" if transistor.kind == "field_effect" else "NPN"
    add(
        "Relays",
        f"{kind} transistor, {short(transistor.limit_a)} A, "
        f"fully on at {short(transistor.full_at_v)} V",
    )
    gate = switch.base.chosen_ohm if switch is not None and switch.base is not None else GATE_OHM
    add("Small parts", f"resistor {ohms(gate)}")
    add("Small parts", f"resistor {ohms(relay.pull_ohm or IDLE_PULL_OHM)}")


def _control_parts(control: Control) -> Iterator[PartCount]:
    yield PartCount(group="Controls", part=CONTROL_WORDS[control.kind])
    if control.kind in PRESSED and control.pull == "resistor":
        resistor = f"resistor {ohms(control.pull_ohm)}"
        yield PartCount(group="Small parts", part=resistor, count=control.contacts)


def _wire_parts(plan: Plan, add: Callable[..., None]) -> None:
    wires = conductors(plan)
    runs = {f"probe:{p.id}": p.cable_m for p in plan.probes}
    runs |= {f"relay:{r.id}": r.cable_m for r in plan.relays}
    names = {f"load:{load.id}": load.name for load in plan.loads}
    reach = {f"load:{load.id}": load.cable_m for load in plan.loads}

    def run_m(wire: Conductor) -> float:
        """How far a conductor goes outside its box: a load's where it ends on the load itself."""
        if wire.owner not in reach:
            return runs.get(wire.owner, 0.0)
        own = f"{names[wire.owner]}:"
        return reach[wire.owner] if wire.start.startswith(own) or wire.end.startswith(own) else 0.0

    low = [wire for wire in wires if wire.net == "ELV"]
    for section in sorted({wire.section for wire in low}):
        length_m = sum(0.5 + run_m(w) for w in low if w.section == section)
        add("Wire", f"wire {section}", math.ceil(length_m), "m")
    if wires:
        add("Wire", "ferrules, mixed", 2 * len(low))
        add("Wire", "numbered markers", 2 * len(wires))
    strip = terminals(plan)
    if strip:
        add("Wire", "mains terminal", len(strip))
    leaving = {
        wire.owner for wire in wires if wire.owner.startswith(("probe:", "control:", "load:"))
    }
    leaving |= {f"relay:{relay.id}" for relay in plan.relays if relay.cable_m}
    if leaving:
        add("Wire", "cable gland", len(leaving))
    for _ in _boxes(plan):
        add("Wire", "enclosure for a panel")


def _boxes(plan: Plan) -> set[str]:
    """The places where a panel stands: those of boards, and of supplies with no board beside them.

    A supply in a place whose room has a board in a box, or the other way round, sits in that box.
    """
    rooms = {place.id: place.within or place.id for place in plan.places}
    boards = {board.place for board in plan.boards}
    has_board = {rooms.get(place, place) for place in boards}
    alone = {s.place for s in plan.supplies if rooms.get(s.place, s.place) not in has_board}
    return boards | alone


def tools(plan: Plan) -> tuple[str, ...]:
    """The tools that this plan asks for, and no others."""
    wires = conductors(plan)
    low, mains = ([w for w in wires if w.net == net] for net in ("ELV", "mains"))
    sections = sorted({wire.section for wire in low})
    small = any(line.group == "Small parts" for line in part_lines(plan))
    rows = [
        ("two-pole voltage tester, to prove dead", bool(mains)),
        ("multimeter with a resistance range to 2 MΩ", bool(wires)),
        (f"crimping tool for ferrules of {', '.join(sections)}, and a wire stripper", bool(low)),
        ("soldering iron, for resistors at sensors and boards", small),
        ("screwdrivers, insulated to 1000 V", bool(mains)),
        ("numbered wire markers", bool(wires)),
        ("a programming adapter and a computer, to load the program", bool(plan.boards)),
        (f"a {short(plan.house.mains_v)} V test lamp in a guard, for the bench test", bool(mains)),
    ]
    return tuple(name for name, wanted in rows if wanted)


def total_price(lines: tuple[PartLine, ...]) -> float:
    """What all of it costs."""
    return sum(line.price for line in lines)
