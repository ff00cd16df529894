"""What wants a pin: every probe, control, relay, expander and multiplexer as named signals."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace

from aldea.core.base.memo import per_plan
from aldea.core.devices.loads.registry import load_device
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Board, Capability
from aldea.core.plan.seats import assignment_of


@per_plan
def signals(plan: Plan) -> tuple[Signal, ...]:
    """Every signal of a plan, in the order of the plan."""
    listed: list[Signal] = []
    gives = _quantities(plan)
    for probe in plan.probes:
        device = sensor_device(probe)
        if device is not None:
            alone = device.alone(probe.sensor, gives[probe.id])
            for signal in device.signals(probe, probe.sensor):
                share = f"{signal.share}:{probe.id}" if alone and signal.share else signal.share
                listed.append(signal if share == signal.share else replace(signal, share=share))
    for control in plan.controls:
        listed.extend(_control_signals(control))
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        listed.extend(
            Signal(
                id=f"relay:{relay.id}.coil",
                owner=f"relay:{relay.id}",
                group=f"load:{load.id}",
                needs=frozenset({"digital_out"}),
                name=f"{relay.id.upper()}, {load.name}",
                place=load.place,
                drives=True,
            )
            for relay in relays
        )
        listed.extend(load_device(load).signals(load, relays))
    rows = assignment_of(plan)
    more = any("analog_in" in signal.needs and signal.id not in rows for signal in listed)
    for board in plan.boards:
        listed.extend(_board_signals(board, plan, more=more))
    return tuple(listed)


def _quantities(plan: Plan) -> dict[str, frozenset[str]]:
    """What the part of each probe gives: its own quantity and those of the other probes in it."""
    gives: dict[str, set[str]] = defaultdict(set)
    for probe in plan.probes:
        gives[probe.part_with or probe.id].add(probe.quantity)
    return {probe.id: frozenset(gives[probe.part_with or probe.id]) for probe in plan.probes}


def _control_signals(control: Control) -> Iterator[Signal]:
    owner = f"control:{control.id}"
    if control.kind == "remote":
        rows: list[tuple[str, tuple[Capability, ...]]] = [("data", ("pulse_in",))]
    elif control.kind == "lamp":
        rows = [("lamp", ("digital_out",))]
    elif control.kind == "touch_pad":
        rows = [("out", ("digital_in",))]
    else:
        rows = [(f"contact{n + 1}", ("digital_in",)) for n in range(control.contacts)]
    contact = control.kind not in ("remote", "lamp", "touch_pad")
    open_collector = control.kind == "touch_pad" and control.output == "open_collector"
    for line, needs in rows:
        yield Signal(
            id=f"{owner}.{line}",
            owner=owner,
            group=owner,
            needs=frozenset(needs),
            name=control.name,
            place=control.place,
            wants_pull=(contact or open_collector) and control.pull == "board",
            volts=control.supply_v if control.kind == "touch_pad" and not open_collector else 0.0,
            bare_contact=contact,
            drives=control.kind == "lamp",
        )


def _address_lines(plan: Plan, board: Board, *, more: bool) -> Iterator[int]:
    """The address lines of a multiplexer that want a pin.

    A line that stays low for every channel in use is tied to 0 V. All are wanted while nothing sits
    on it, or while something is left that may (`more`); one that has a pin keeps it.
    """
    kind = board_types(plan)[board.board_type]
    names = [pin.name for pin in kind.pins]
    used = [names.index(r.pin) for r in plan.assignments if r.board == board.id and r.pin in names]
    for line in range(kind.address_lines):
        has_pin = f"board:{board.id}.s{line}" in assignment_of(plan)
        if has_pin or more or not used or any(channel >> line & 1 for channel in used):
            yield line


def _board_signals(board: Board, plan: Plan, *, more: bool) -> Iterator[Signal]:
    kind = board_types(plan).get(board.board_type)
    if kind is None or kind.role == "controller" or board.host is None:
        return
    owner = f"board:{board.id}"

    def signal(line: str, need: Capability, **facts: object) -> Signal:
        return Signal(
            id=f"{owner}.{line}",
            owner=owner,
            group=owner,
            needs=frozenset({need}),
            name=board.name,
            place=board.place,
            only_board=str(board.host),
            **facts,  # type: ignore[arg-type]
        )

    if kind.role == "expander":
        yield signal("data", "bus_data", share="bus_data", address=board.address)
        yield signal("clock", "bus_clock", share="bus_clock")
        return
    yield signal("common", "analog_in")
    for line in _address_lines(plan, board, more=more):
        yield signal(f"s{line}", "digital_out", drives=True)
    if board.enable == "driven":
        yield signal("enable", "digital_out", drives=True)
