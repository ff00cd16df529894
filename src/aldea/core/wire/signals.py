"""What wants a pin: every probe, control, relay, expander and multiplexer as named signals."""

from collections.abc import Iterator
from dataclasses import dataclass

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.memo import per_plan
from aldea.core.plan.sensors import (
    BusSensor,
    ContactSensor,
    EchoSensor,
    LeakTape,
    MotionSensor,
    OneWireSensor,
    PulseSensor,
    SerialSensor,
    VoltageSensor,
)
from aldea.core.plan.wiring import Board, Capability, Control


@dataclass(frozen=True, slots=True, kw_only=True)
class Signal:
    """One line to a pin.

    Signals of one `group` sit on one controller (or on what hangs on it). Signals with the same
    `share` may sit on one pin of a board: they are a bus. `volts` is what arrives at the pin.
    """

    id: str
    owner: str  # probe:…, control:…, relay:…, board:…, load:…
    group: str
    needs: frozenset[Capability]
    name: str
    place: str
    share: str = ""
    wants_pull: bool = False
    drives: bool = False
    bare_contact: bool = False
    volts: float = 0.0
    address: int | None = None
    only_board: str = ""


@per_plan
def signals(plan: Plan) -> tuple[Signal, ...]:
    """Every signal of a plan, in the order of the plan."""
    found: list[Signal] = []
    for probe in plan.probes:
        found.extend(_probe_signals(probe))
    for control in plan.controls:
        found.extend(_control_signals(control))
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        found.extend(
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
        if not relays and load.kind in ("indicator", "sounder"):
            found.append(
                Signal(
                    id=f"load:{load.id}.drive",
                    owner=f"load:{load.id}",
                    group=f"load:{load.id}",
                    needs=frozenset({"digital_out"}),
                    name=load.name,
                    place=load.place,
                    drives=True,
                )
            )
    for board in plan.boards:
        found.extend(_board_signals(board, plan))
    return tuple(found)


def arriving_v(probe: Probe) -> float:
    """The highest voltage that a probe puts on its pin, V; 0 where it puts none of its own."""
    sensor = probe.sensor
    if isinstance(sensor, VoltageSensor):
        top, upper, lower = sensor.highest_v, sensor.upper_ohm, sensor.lower_ohm
    elif isinstance(sensor, EchoSensor):
        top, upper, lower = sensor.output_v, sensor.upper_ohm, sensor.lower_ohm
    elif isinstance(sensor, SerialSensor | MotionSensor | PulseSensor):
        return sensor.output_v
    else:
        return 0.0
    return top * lower / (upper + lower) if upper and lower else top


def _probe_signals(probe: Probe) -> Iterator[Signal]:
    owner = f"probe:{probe.id}"
    sensor = probe.sensor
    volts = arriving_v(probe)

    def made(line: str, *needs: Capability, **facts: object) -> Signal:
        return Signal(
            id=f"{owner}.{line}",
            owner=owner,
            group=owner,
            needs=frozenset(needs),
            name=probe.name,
            place=probe.place,
            **facts,  # type: ignore[arg-type]
        )

    if sensor is None:
        return
    if isinstance(sensor, BusSensor):
        yield made("data", "bus_data", share="bus_data", address=sensor.address)
        yield made("clock", "bus_clock", share="bus_clock")
    elif isinstance(sensor, OneWireSensor):
        yield made("data", "digital_in", "digital_out", share="one_wire")
    elif isinstance(sensor, SerialSensor):
        yield made("rx", "serial_rx", volts=volts)
        yield made("tx", "serial_tx")
    elif isinstance(sensor, EchoSensor):
        yield made("trigger", "digital_out", drives=True)
        yield made("echo", "pulse_in", volts=volts)
    elif isinstance(sensor, ContactSensor):
        yield made("contact", "digital_in", wants_pull=sensor.pull == "board", bare_contact=True)
    elif sensor.kind in ("motion", "mains_sense"):
        yield made("out", "digital_in", volts=volts, wants_pull=sensor.kind == "mains_sense")
    elif isinstance(sensor, PulseSensor):
        yield made("out", "pulse_in", volts=volts)
    else:
        yield made("sense", "analog_in", volts=volts)
        if isinstance(sensor, LeakTape) and sensor.excitation != "constant":
            yield made("excite", "digital_out", drives=True)


def _control_signals(control: Control) -> Iterator[Signal]:
    owner = f"control:{control.id}"
    if control.kind == "remote":
        rows: list[tuple[str, tuple[Capability, ...]]] = [("data", ("pulse_in",))]
    elif control.kind == "lamp":
        rows = [("lamp", ("digital_out",))]
    else:
        rows = [(f"contact{n + 1}", ("digital_in",)) for n in range(control.contacts)]
    contact = control.kind not in ("remote", "lamp")
    for line, needs in rows:
        yield Signal(
            id=f"{owner}.{line}",
            owner=owner,
            group=owner,
            needs=frozenset(needs),
            name=control.name,
            place=control.place,
            wants_pull=contact and control.pull == "board",
            bare_contact=contact,
            drives=control.kind == "lamp",
        )


def _board_signals(board: Board, plan: Plan) -> Iterator[Signal]:
    kind = board_types(plan).get(board.board_type)
    if kind is None or kind.role == "controller" or board.host is None:
        return
    owner = f"board:{board.id}"

    def made(line: str, need: Capability, **facts: object) -> Signal:
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
        yield made("data", "bus_data", share="bus_data", address=board.address)
        yield made("clock", "bus_clock", share="bus_clock")
        return
    yield made("common", "analog_in")
    for line in range(kind.address_lines):
        yield made(f"s{line}", "digital_out", drives=True)
