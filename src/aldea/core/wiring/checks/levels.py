"""Checks of volts: at pins, on rails, between boards; and of pull-ups."""

from collections.abc import Iterator

from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.finding import Check, Finding, Fix, put_changed
from aldea.core.devices.sensors.divided import INPUT_FARAD
from aldea.core.devices.sensors.registry import sensor_device, supply_v
from aldea.core.devices.signal import Signal
from aldea.core.physics.level import best_lower_ohm, level
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edits import part_of
from aldea.core.plan.panel import Board, Pin
from aldea.core.plan.seats import home_of, reader_of
from aldea.core.wiring.board_terminals import rail_terminal
from aldea.core.wiring.seated import seated

LEVEL_UPPER_OHM = 10_000.0
OVER_1 = 1.1  # so much above its own supply an input bears


def volts_at_pins(plan: Plan) -> Iterator[Finding]:
    """More volts than a pin bears."""
    known: set[str] = set()
    for signal, row, board, _kind, pin in seated(plan):
        if signal.volts <= pin.tolerates_v * 1.001 or signal.owner in known:
            continue
        kind, _, part_id = signal.owner.partition(":")
        if kind == "control":
            known.add(signal.owner)
            yield _pad_volts(plan, signal, board, pin)
        probe = plan.probe(part_id) if kind == "probe" else None
        if probe is None or probe.level_converter:
            continue
        known.add(signal.owner)
        fix = "Add a level converter its lines, or use a sensor of lower voltage."
        press = "Add a level converter"
        converted = probe.model_copy(update={"level_converter": True})
        apply: Fix | None = put_changed("probe", converted)
        fitted = _divider_for(probe, _bears_v(plan, signal, pin))
        if fitted is not None:
            level, pair, worst_v = fitted
            fix = f"Divider of {pair}, 1 %: {figure(worst_v, 2)} V at the worst."
            press = f"Fit {pair}"
            apply = put_changed("probe", level)
        yield Finding(
            key=f"volts-{signal.id}",
            weight="severe",
            head=f"{signal.volts:.3g} V on {pin.name}, which bears {short(pin.tolerates_v)} V.",
            why=f"{probe.name} puts it there; the pin, or the board, would die.",
            fix=fix,
            at=signal.owner,
            pins=((row.board, row.pin),),
            press=press,
            apply=apply,
        )


def _pad_volts(plan: Plan, signal: Signal, board: Board, pin: Pin) -> Finding:
    """A touch pad that drives its output to more volts than the pin bears."""
    control = part_of(plan, "control", signal.owner.partition(":")[2])
    logic_v = board_types(plan)[home_of(plan, board).board_type].logic_v
    lower = control.model_copy(update={"supply_v": logic_v})
    return Finding(
        key=f"volts-{signal.id}",
        weight="severe",
        head=f"{signal.volts:.3g} V on {pin.name}, which bears {short(pin.tolerates_v)} V.",
        why=f"{control.name} drives its output up to its own supply; the pin, or the board, "
        "would die.",
        fix=f"Feed it with {short(logic_v)} V where its sheet allows that, or use one with an "
        "open-collector output.",
        at=signal.owner,
        pins=((board.id, pin.name),),
        press=f"Feed it with {short(logic_v)} V",
        apply=put_changed("control", lower),
    )


def boards_over_sensors(plan: Plan) -> Iterator[Finding]:
    """A board that drives, or pulls up, a sensor's line to more volts than the sensor runs on."""
    known: set[str] = set()
    for signal, row, board, _kind, pin in seated(plan):
        probe = plan.probe(signal.owner.removeprefix("probe:"))
        wanted = supply_v(probe) if probe is not None else None
        if probe is None or wanted is None or probe.level_converter or probe.id in known:
            continue
        own_v = board_types(plan)[home_of(plan, board).board_type].logic_v
        logic_v = min(own_v, pin.tolerates_v)  # a port may have volts below its board's outputs
        speaks = bool(signal.share) or bool(signal.needs & {"digital_out", "serial_tx"})
        if not speaks or logic_v <= OVER_1 * wanted:
            continue
        known.add(probe.id)
        converted = probe.model_copy(update={"level_converter": True})
        yield Finding(
            key=f"over-{probe.id}",
            weight="severe",
            head=f"{short(logic_v)} V on {probe.name}, which runs on {short(wanted)} V.",
            why=f"{home_of(plan, board).name} brings its lines to {short(logic_v)} V; the sensor "
            "would die.",
            fix="Add a level converter its lines, or read it from a board of its volts.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="Add a level converter",
            apply=put_changed("probe", converted),
        )


def missing_pulls(plan: Plan) -> Iterator[Finding]:
    """A contact that counts on a pull-up that its pin does not have."""
    for signal, row, _board, _kind, pin in seated(plan):
        if not signal.wants_pull or "pull_up" in pin.can or not signal.bare_contact:
            continue
        kind, part_id = signal.owner.split(":")
        part = part_of(plan, kind, part_id)
        if kind == "probe":
            device = sensor_device(part)
            pull = device.pulled(part.sensor) if device is not None else None
            fixed = part.model_copy(update={"sensor": pull})
        else:
            fixed = part.model_copy(update={"pull": "resistor"})
        yield Finding(
            key=f"pull-{signal.id}",
            weight="warning",
            head=f"{pin.name} has no pull-up of its own.",
            why=f"{signal.name} would float while its contact is open.",
            fix=f"Fit 10 kΩ from {pin.name} to the logic supply.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="Mark 10 kΩ as fitted",
            apply=put_changed(kind, fixed),
        )


def _bears_v(plan: Plan, signal: Signal, pin: Pin) -> float:
    """What may arrive at a pin: what it bears, and no more than its converter reads."""
    kind = reader_of(plan, signal.id)
    if "analog_in" not in signal.needs or kind is None or not kind.converter_bits:
        return pin.tolerates_v
    return min(pin.tolerates_v, kind.converter_v)


def _divider_for(probe: Probe, limit_v: float) -> tuple[Probe, str, float] | None:
    """The probe behind a divider that keeps under a limit; the pair in words, the worst case, V."""
    device = sensor_device(probe)
    if device is None or device.divided(probe.sensor, 1.0, 1.0) is None:
        return None
    top_v = device.highest_v(probe.sensor)
    lower = best_lower_ohm(
        upper_ohm=LEVEL_UPPER_OHM,
        tolerance_1=0.01,
        input_v=top_v,
        input_tolerance_1=0.05,
        limit_v=limit_v,
    )
    worst = level(
        upper_ohm=LEVEL_UPPER_OHM,
        lower_ohm=lower,
        tolerance_1=0.01,
        input_v=top_v,
        input_tolerance_1=0.05,
        input_farad=INPUT_FARAD,
    )
    divider = device.divided(probe.sensor, LEVEL_UPPER_OHM, lower)
    pair = f"{ohms(LEVEL_UPPER_OHM)} and {ohms(lower)}"
    return probe.model_copy(update={"sensor": divider}), pair, worst.highest_v


def rails_there(plan: Plan) -> Iterator[Finding]:
    """A sensor wants volts that its board does not give."""
    types, seen = board_types(plan), set()
    for signal, row, board, _kind, _pin in seated(plan):
        probe = plan.probe(signal.owner.removeprefix("probe:"))
        wanted = supply_v(probe) if probe is not None else None
        host = plan.board(board.host) if board.host else board
        if probe is None or wanted is None or host is None or probe.id in seen:
            continue
        seen.add(probe.id)
        supply, feeder = plan.supply(probe.fed_by), plan.board(probe.fed_by or "") or host
        if (
            supply is not None
            and supply.gives == "dc"
            and abs(supply.volts - wanted) <= 0.05 * wanted
        ):
            continue
        if supply is None and rail_terminal(types[feeder.board_type], wanted):
            continue
        rails = (supply.volts,) if supply is not None else types[feeder.board_type].rails_v
        given = ", ".join(f"{short(rail)} V" for rail in rails) or "none"
        host_name = supply.name if supply is not None else feeder.name
        fitting = next(
            (
                s
                for s in plan.supplies
                if s.gives == "dc" and abs(s.volts - wanted) <= 0.05 * wanted
            ),
            None,
        )
        fed = probe.model_copy(update={"fed_by": fitting.id}) if fitting else None
        yield Finding(
            key=f"rail-{probe.id}",
            weight="severe",
            head=f"{probe.name} needs {short(wanted)} V, {host_name} gives {given}.",
            why="It would not work, or die.",
            fix="Feed it from a supply of its volts, or use a sensor for those that are there.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press=f"Feed it from {fitting.name}" if fitting else "",
            apply=put_changed("probe", fed) if fed is not None else None,
        )


def hung_boards(plan: Plan) -> Iterator[Finding]:
    """An expander or a multiplexer on a board of other volts: it gets none, or too much."""
    types = board_types(plan)
    for board in plan.boards:
        host = plan.board(board.host) if board.host else None
        if host is None:
            continue
        own, above = types[board.board_type], types[host.board_type]
        wants = own.supply_v
        if not rail_terminal(above, wants):
            given = ", ".join(f"{short(rail)} V" for rail in above.rails_v) or "none"
            head = f"{board.name} needs {short(wants)} V, {host.name} gives {given}."
            why = "It would not work, or die."
        elif above.logic_v > 1.1 * own.logic_v:
            head = f"{host.name} drives {board.name} at {short(above.logic_v)} V."
            why = f"Its lines bear {short(own.logic_v)} V."
        else:
            continue
        yield Finding(
            key=f"hung-{board.id}",
            weight="severe",
            head=head,
            why=why,
            fix=f"Hang it on a board of {short(own.logic_v)} V, or describe "
            f"one of {short(above.logic_v)} V as a board of your own.",
            at=f"board:{board.id}",
            pins=tuple(
                (row.board, row.pin)
                for row in plan.assignments
                if row.signal.startswith(f"board:{board.id}.")
            ),
        )


LEVEL_CHECKS: tuple[Check, ...] = (
    volts_at_pins,
    boards_over_sensors,
    rails_there,
    hung_boards,
    missing_pulls,
)
