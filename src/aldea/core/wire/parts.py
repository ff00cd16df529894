"""What must be bought: every part of the plan counted, less the drawer, in whole packs."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import SENSOR_KINDS, ContactSensor, Thermistor
from aldea.core.plan.wiring import RelayLine, Stock
from aldea.core.wire.circuit import driver_of
from aldea.core.wire.conductors import BUS_PULL_OHM, conductors, ohms
from aldea.core.wire.contacts import has_contactor
from aldea.core.wire.mains import terminals
from aldea.core.wire.signals import signals

TOOLS = (
    "two-pole voltage tester, to prove dead",
    "multimeter with a resistance range to 2 MΩ",
    "crimping tool for ferrules, and a wire stripper",
    "screwdrivers, insulated to 1000 V",
    "numbered wire markers",
    "a 230 V test lamp in a guard, for the bench test",
)
GROUPS = ("Boards", "Supplies", "Relays", "Sensors", "Controls", "Small parts", "Wire")
CONTROL_WORDS = {
    "push_button": "push-button",
    "wall_switch": "wall switch, two-way",
    "selector": "selector switch",
    "remote": "remote receiver module",
    "lamp": "panel lamp with its resistor",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class PartLine:
    """One part: how many the plan needs, what the drawer has, how many packs to buy, the price."""

    part: str
    group: str
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


Add = Callable[..., None]


def part_lines(plan: Plan) -> tuple[PartLine, ...]:
    """Every part of the plan by group, in the order of the work."""
    counted: dict[tuple[str, str, str], float] = {}

    def add(group: str, part: str, count: float = 1, unit: str = "") -> None:
        key = (group, part, unit)
        counted[key] = counted.get(key, 0) + count

    types = board_types(plan)
    for board in plan.boards:
        add("Boards", types[board.board_type].name)
    for supply in plan.supplies:
        add("Supplies", f"supply {supply.volts:g} V, {supply.rating_ma / 1000:g} A")
    for relay in plan.relays:
        _relay_parts(relay, plan, add)
    for probe in plan.probes:
        _probe_parts(probe, add)
    for control in plan.controls:
        add("Controls", CONTROL_WORDS[control.kind])
        if (
            control.kind in ("push_button", "wall_switch", "selector")
            and control.pull == "resistor"
        ):
            add("Small parts", f"resistor {ohms(control.pull_ohm)}", control.contacts)
    # one pull-up a bus line, however many sensors share it
    shared = {signal.id for signal in signals(plan) if signal.share}
    lines = {(row.board, row.pin) for row in plan.assignments if row.signal in shared}
    if lines:
        add("Small parts", f"resistor {ohms(BUS_PULL_OHM)}", len(lines))
    for load in plan.loads:
        for cap in load.stepped.capacitors if load.stepped else ():
            add("Small parts", f"motor-run capacitor {cap.capacitance_uf:g} µF, 450 V")
            if load.stepped and load.stepped.bleed_ohm:
                add("Small parts", f"resistor {ohms(load.stepped.bleed_ohm)}, mains-rated")
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


def _relay_parts(relay: RelayLine, plan: Plan, add: Add) -> None:
    rating = f"{relay.coil_v:g} V, {relay.rated_a:g} A"
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
        add("Relays", f"contactor, {plan.house.mains_v:g} V coil")
    if relay.pull_ohm:
        add("Small parts", f"resistor {ohms(relay.pull_ohm)}")


def _probe_parts(probe: Probe, add: Add) -> None:
    sensor = probe.sensor
    if sensor is None:
        return
    name = SENSOR_KINDS[sensor.kind][1]
    if isinstance(sensor, Thermistor):
        name = f"{ohms(sensor.r25_ohm)} thermistor"
    add("Sensors", name)
    if isinstance(sensor, ContactSensor) and sensor.pull == "resistor":
        add("Small parts", f"resistor {ohms(sensor.pull_ohm)}")
    for key in ("fixed_ohm", "end_of_line_ohm", "upper_ohm", "lower_ohm"):
        value = getattr(sensor, key, None)
        if value:
            add("Small parts", f"resistor {ohms(value)}")


def _wire_parts(plan: Plan, add: Add) -> None:
    wires = conductors(plan)
    runs = {f"probe:{p.id}": p.cable_m for p in plan.probes}
    low = [wire for wire in wires if wire.feed == "ELV"]
    for section in sorted({wire.section for wire in low}):
        length_m = sum(0.5 + runs.get(w.owner, 0.0) for w in low if w.section == section)
        add("Wire", f"wire {section}", math.ceil(length_m), "m")
    if wires:
        add("Wire", "ferrules, mixed", 2 * len(low))
        add("Wire", "numbered markers", 2 * len(wires))
    strip = terminals(plan)
    if strip:
        add("Wire", "mains terminal", len(strip))


def total_price(lines: tuple[PartLine, ...]) -> float:
    """What all of it costs."""
    return sum(line.price for line in lines)
