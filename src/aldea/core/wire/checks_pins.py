"""Checks of pins: what sits where it cannot work, twice, or where it upsets the board's start."""

from collections import defaultdict
from collections.abc import Iterator

from aldea.core.engine.lines import boot_coil
from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import part_of
from aldea.core.plan.document import Plan
from aldea.core.plan.memo import per_plan
from aldea.core.plan.sensors import EchoSensor, Thermistor, VoltageSensor
from aldea.core.plan.wiring import Assignment, Board, BoardType, Pin
from aldea.core.wire.assign import assign_pins
from aldea.core.wire.candidates import usable
from aldea.core.wire.conductors import ohms
from aldea.core.wire.findings import Check, Finding, Mend, putting
from aldea.core.wire.level import best_lower_ohm, level
from aldea.core.wire.signals import Signal, signals

IDLE_PULL_OHM = 4700.0
LEVEL_UPPER_OHM = 10_000.0
RESERVED_BELOW, RESERVED_FROM = 8, 120


Seat = tuple[Signal, Assignment, Board, BoardType, Pin]


@per_plan
def _seated(plan: Plan) -> tuple[Seat, ...]:
    """Every signal that has a pin, with row, board, type and pin."""
    found: list[Seat] = []
    types = board_types(plan)
    known = {signal.id: signal for signal in signals(plan)}
    for row in plan.assignments:
        board = plan.board(row.board)
        signal = known.get(row.signal)
        if board is None or signal is None:
            continue
        kind = types[board.board_type]
        pin = kind.pin(row.pin)
        if pin is not None:
            found.append((signal, row, board, kind, pin))
    return tuple(found)


def anew(plan: Plan, *names: str) -> Plan:
    """The plan with some signals given pins anew by the solver; all else stays where it is."""
    kept = tuple(
        row.model_copy(update={"by": "hand"}) for row in plan.assignments if row.signal not in names
    )
    hands = {row.signal for row in plan.assignments if row.by == "hand"}
    done = assign_pins(plan.model_copy(update={"assignments": kept}), explain=False)
    if done.conflict:
        done = assign_pins(
            plan.model_copy(
                update={
                    "assignments": tuple(
                        r for r in plan.assignments if r.by == "hand" and r.signal not in names
                    )
                }
            )
        )
    rows = tuple(
        row if row.by == "solver" or row.signal in hands else _as_before(plan, row)
        for row in done.assignments
    )
    return plan.model_copy(update={"assignments": rows or plan.assignments})


def moving(*names: str) -> Mend:
    """A mend that gives signals pins anew."""
    return lambda plan: anew(plan, *names)


def _as_before(plan: Plan, row: Assignment) -> Assignment:
    return next((old for old in plan.assignments if old.signal == row.signal), row)


def without_pin(plan: Plan) -> Iterator[Finding]:
    """What is laid out and has no pin yet."""
    seated = {row.signal for row in plan.assignments}
    left: dict[str, list[Signal]] = defaultdict(list)
    for signal in signals(plan):
        if signal.id not in seated:
            left[signal.owner].append(signal)
    for owner, lines in left.items():
        first = lines[0]
        count = len(lines)
        yield Finding(
            key=f"no-pin-{owner}",
            weight="open",
            head=f"{first.name} has no pin.",
            why=f"{count} line{'' if count == 1 else 's'} to connect.",
            mend="Assign pins, or choose one by hand."
            if plan.boards
            else "Put a board in a place first.",
            at=owner,
            press="Assign its pins" if plan.boards else "",
            apply=moving(*(s.id for s in lines)) if plan.boards else None,
        )


def shared_pins(plan: Plan) -> Iterator[Finding]:
    """Two signals on one pin that are no bus."""
    at: dict[tuple[str, str], list[Signal]] = defaultdict(list)
    for signal, row, *_ in _seated(plan):
        at[row.board, row.pin].append(signal)
    for (board, pin), here in at.items():
        shares = {s.share for s in here}
        if len(here) < 2 or (len(shares) == 1 and "" not in shares):
            continue
        names = " and ".join(s.name for s in here[:3])
        later = here[1]
        yield Finding(
            key=f"twice-{board}-{pin}",
            weight="severe",
            head=f"{pin} is taken twice.",
            why=f"{names} would speak over each other.",
            mend=f"Give {later.name} another pin.",
            at=later.owner,
            pins=((board, pin),),
            press=f"Move {later.name}",
            apply=moving(later.id),
        )


def impossible_pins(plan: Plan) -> Iterator[Finding]:
    """A hand chose a pin that cannot do what is asked of it."""
    for signal, row, board, kind, pin in _seated(plan):
        why = usable(board, kind, pin, signal)
        if not why or (pin.programming and not signal.needs - set(pin.can)):
            continue
        yield Finding(
            key=f"cannot-{signal.id}",
            weight="severe",
            head=f"{signal.name} cannot work on {pin.name}.",
            why=f"{why[:1].upper()}{why[1:]}.",
            mend="Give it a pin that can.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="Give it another pin",
            apply=moving(signal.id),
        )


def programming_pins(plan: Plan) -> Iterator[Finding]:
    """A pin that brings the program in is used by something else."""
    for signal, row, _board, _kind, pin in _seated(plan):
        if pin.programming and not signal.needs - set(pin.can):
            yield Finding(
                key=f"programming-{signal.id}",
                weight="warning",
                head=f"{signal.name} sits on {pin.name}, which brings the program in.",
                why="While it is connected, no new program can be brought in.",
                mend="Give it another pin, or fit a plug that can be pulled.",
                at=signal.owner,
                pins=((row.board, row.pin),),
                press="Give it another pin",
                apply=moving(signal.id),
            )


def boot_pins(plan: Plan) -> Iterator[Finding]:
    """A contact that may hold a pin which decides the boot mode at the wrong level."""
    for signal, row, _board, _kind, pin in _seated(plan):
        if not pin.decides_boot or signal.share:
            continue
        contact = signal.bare_contact or "digital_in" in signal.needs
        yield Finding(
            key=f"boot-{signal.id}",
            weight="severe" if contact else "warning",
            head=f"{pin.name} decides the boot mode and must be {pin.boot_needs} at start.",
            why=f"{signal.name} may hold it the other way: the board would not start.",
            mend="Give it another pin.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="Give it another pin",
            apply=moving(signal.id),
        )


def twitching_relays(plan: Plan) -> Iterator[Finding]:
    """A relay that pulls in while the board starts, and for how long."""
    for signal, row, _board, _kind, pin in _seated(plan):
        if not signal.owner.startswith("relay:"):
            continue
        relay = part_of(plan, "relay", signal.owner.split(":")[1])
        load = plan.load(relay.load)
        coil = boot_coil(relay, plan)
        if coil is False or load is None:
            continue
        to = "0 V" if relay.active == "high" else "the logic supply"
        fitted = f"Fit {ohms(IDLE_PULL_OHM)} from {pin.name} to {to}, or move it to a quiet pin."
        grave = load.load_class in ("heat", "water", "motion")
        if coil is None:
            head = f"{relay.id.upper()} floats until the program starts."
            why = f"Nothing holds {pin.name} idle: {load.name} may twitch."
        else:
            span = f"{pin.boot_ms:g} ms" if pin.boot_ms else "until the program starts"
            head = f"{pin.name} is {_level_words(pin)} before the start."
            why = f"{relay.id.upper()} pulls in for {span}: {load.name} twitches."
        fixed = relay.model_copy(update={"pull_ohm": IDLE_PULL_OHM})
        yield Finding(
            key=f"twitch-{relay.id}",
            weight="severe" if grave else "warning",
            head=head,
            why=why,
            mend=fitted,
            at=signal.owner,
            pins=((row.board, row.pin),),
            press=f"{ohms(IDLE_PULL_OHM)} is fitted",
            apply=putting("relay", fixed),
        )


def _level_words(pin: Pin) -> str:
    return "pulsing" if pin.at_boot == "pulses" else pin.at_boot


def volts_at_pins(plan: Plan) -> Iterator[Finding]:
    """More volts than a pin bears."""
    for signal, row, _board, _kind, pin in _seated(plan):
        probe = plan.probe(signal.owner.split(":")[1]) if signal.volts else None
        if probe is None or signal.volts <= pin.tolerates_v * 1.001:
            continue
        sensor = probe.sensor
        mend, press = "Fit a level shifter, or a sensor of lower voltage.", ""
        apply: Mend | None = None
        if isinstance(sensor, VoltageSensor | EchoSensor):
            top = sensor.highest_v if isinstance(sensor, VoltageSensor) else sensor.output_v
            lower = best_lower_ohm(
                upper_ohm=LEVEL_UPPER_OHM,
                tolerance_1=0.01,
                input_v=top,
                input_tolerance_1=0.05,
                limit_v=pin.tolerates_v,
            )
            worst = level(
                upper_ohm=LEVEL_UPPER_OHM,
                lower_ohm=lower,
                tolerance_1=0.01,
                input_v=top,
                input_tolerance_1=0.05,
                input_farad=20e-12,
            )
            pair = f"{ohms(LEVEL_UPPER_OHM)} and {ohms(lower)}"
            mend = f"Divider of {pair}, 1 %: {worst.highest_v:.2f} V at the worst."
            press = f"Fit {pair}"
            changed = sensor.model_copy(update={"upper_ohm": LEVEL_UPPER_OHM, "lower_ohm": lower})
            fixed = probe.model_copy(update={"sensor": changed})

            apply = putting("probe", fixed)
        yield Finding(
            key=f"volts-{signal.id}",
            weight="severe",
            head=f"{signal.volts:.3g} V on {pin.name}, which bears {pin.tolerates_v:g} V.",
            why=f"{probe.name} puts it there; the pin, or the board, would die.",
            mend=mend,
            at=signal.owner,
            pins=((row.board, row.pin),),
            press=press,
            apply=apply,
        )


def missing_pulls(plan: Plan) -> Iterator[Finding]:
    """A contact that counts on a pull-up that its pin does not have."""
    for signal, row, _board, _kind, pin in _seated(plan):
        if not signal.wants_pull or "pull_up" in pin.can or not signal.bare_contact:
            continue
        kind, part_id = signal.owner.split(":")
        part = part_of(plan, kind, part_id)
        if kind == "probe":
            fixed = part.model_copy(
                update={"sensor": part.sensor.model_copy(update={"pull": "resistor"})}
            )
        else:
            fixed = part.model_copy(update={"pull": "resistor"})
        yield Finding(
            key=f"pull-{signal.id}",
            weight="warning",
            head=f"{pin.name} has no pull-up of its own.",
            why=f"{signal.name} would float while its contact is open.",
            mend=f"Fit 10 kΩ from {pin.name} to the logic supply.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="10 kΩ is fitted",
            apply=putting(kind, fixed),
        )


def bus_addresses(plan: Plan) -> Iterator[Finding]:
    """Addresses that two devices of a board share, or that are reserved."""
    at: dict[tuple[str, int], list[tuple[Signal, str]]] = defaultdict(list)
    for signal, row, *_ in _seated(plan):
        if signal.address is None:
            continue
        at[row.board, signal.address].append((signal, row.pin))
        if not RESERVED_BELOW <= signal.address < RESERVED_FROM:
            yield Finding(
                key=f"reserved-{signal.id}",
                weight="severe",
                head=f"{signal.name} has the reserved address 0x{signal.address:02x}.",
                why="Addresses below 0x08 and from 0x78 belong to the bus itself.",
                mend="Set the address that stands on the part.",
                at=signal.owner,
                pins=((row.board, row.pin),),
            )
    for (board, address), here in at.items():
        if len(here) > 1:
            names = " and ".join(signal.name for signal, _ in here)
            yield Finding(
                key=f"address-{board}-{address}",
                weight="severe",
                head=f"Two devices answer at 0x{address:02x}.",
                why=f"{names} sit on one bus.",
                mend="Set another address on one of them, or move one to another board.",
                at=here[1][0].owner,
                pins=((board, here[1][1]),),
            )


def rails_there(plan: Plan) -> Iterator[Finding]:
    """A sensor wants volts that its board does not give."""
    types, seen = board_types(plan), set()
    for signal, row, board, _kind, _pin in _seated(plan):
        probe = plan.probe(signal.owner.removeprefix("probe:"))
        measured = probe is not None and isinstance(probe.sensor, Thermistor)  # not a wish
        wanted = getattr(probe.sensor, "supply_v", None) if probe and not measured else None
        host = plan.board(board.host) if board.host else board
        if probe is None or wanted is None or host is None or probe.id in seen:
            continue
        seen.add(probe.id)
        rails = types[host.board_type].rails_v
        if any(abs(rail - wanted) < 0.05 * wanted for rail in rails):
            continue
        given = ", ".join(f"{rail:g} V" for rail in rails) or "none"
        yield Finding(
            key=f"rail-{probe.id}",
            weight="severe",
            head=f"{probe.name} wants {wanted:g} V, {host.name} gives {given}.",
            why="It would not work, or die.",
            mend="Take a sensor for the volts that are there, a converter, or another board.",
            at=signal.owner,
            pins=((row.board, row.pin),),
        )


def split_lines(plan: Plan) -> Iterator[Finding]:
    """The lines of one sensor on two boards, or on two serial ports of one."""
    by_owner: dict[str, list[Seat]] = defaultdict(list)
    for seat in _seated(plan):
        if seat[0].owner.startswith("probe:"):
            by_owner[seat[0].owner].append(seat)
    for owner, seats in by_owner.items():
        serial = any(s.needs & {"serial_rx", "serial_tx"} for s, *_ in seats)
        homes = {board.host or board.id for _, _, board, *_ in seats}  # an expander is its host's
        ports = {(row.board, pin.port) for _, row, _, _, pin in seats}
        if len(homes) < 2 and not (serial and len(ports) > 1):
            continue
        name = seats[0][0].name
        where = "boards" if len(homes) > 1 else "serial ports"
        yield Finding(
            key=f"split-{owner}",
            weight="severe",
            head=f"The lines of {name} sit on two {where}.",
            why="What one sends, the other does not hear.",
            mend="Give them one port." if serial else "Give them one board.",
            at=owner,
            pins=tuple((row.board, row.pin) for _, row, *_ in seats),
            press="Give them one port" if serial else "Give them one board",
            apply=moving(*(s.id for s, *_ in seats)),
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
        if not any(abs(rail - wants) < 0.05 * wants for rail in above.rails_v):
            given = ", ".join(f"{rail:g} V" for rail in above.rails_v) or "none"
            head = f"{board.name} wants {wants:g} V, {host.name} gives {given}."
            why = "It would not work, or die."
        elif above.logic_v > 1.1 * own.logic_v:
            head = f"{host.name} drives {board.name} at {above.logic_v:g} V."
            why = f"Its lines bear {own.logic_v:g} V."
        else:
            continue
        yield Finding(
            key=f"hung-{board.id}",
            weight="severe",
            head=head,
            why=why,
            mend=f"Hang it on a board of {own.logic_v:g} V, or take one for "
            f"{above.logic_v:g} V as a board of your own.",
            at=f"board:{board.id}",
            pins=tuple(
                (row.board, row.pin)
                for row in plan.assignments
                if row.signal.startswith(f"board:{board.id}.")
            ),
        )


PIN_CHECKS: tuple[Check, ...] = (
    shared_pins,
    impossible_pins,
    volts_at_pins,
    rails_there,
    split_lines,
    hung_boards,
    boot_pins,
    twitching_relays,
    programming_pins,
    bus_addresses,
    missing_pulls,
    without_pin,
)
