"""Checks of pins: what sits where it cannot work, twice, or where it upsets the board's start."""

from collections import defaultdict
from collections.abc import Iterator

from aldea.core.base.figures import ohms, short
from aldea.core.devices.conductor import IDLE_PULL_OHM
from aldea.core.devices.finding import Check, Finding, put_changed
from aldea.core.devices.loads.classes import must_rest
from aldea.core.devices.signal import Signal
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of
from aldea.core.plan.panel import Pin
from aldea.core.plan.seats import boot_coil
from aldea.core.wiring.candidates import usable
from aldea.core.wiring.reassign import give_new_pins
from aldea.core.wiring.seated import seated
from aldea.core.wiring.signals import signals
from aldea.core.wiring.starting import idle_level, upsets_start


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
            fix="Assign pins, or choose one by hand."
            if plan.boards
            else "Put a board in a place first.",
            at=owner,
            press="Assign its pins" if plan.boards else "",
            apply=give_new_pins(*(s.id for s in lines)) if plan.boards else None,
        )


def shared_pins(plan: Plan) -> Iterator[Finding]:
    """Two signals on one pin that are no bus."""
    at: dict[tuple[str, str], list[Signal]] = defaultdict(list)
    for signal, row, *_ in seated(plan):
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
            head=f"{pin} is given twice.",
            why=f"{names} would answer at the same time.",
            fix=f"Give {later.name} another pin.",
            at=later.owner,
            pins=((board, pin),),
            press=f"Move {later.name}",
            apply=give_new_pins(later.id),
        )


def impossible_pins(plan: Plan) -> Iterator[Finding]:
    """A hand chose a pin that cannot do what is asked of it."""
    for signal, row, board, kind, pin in seated(plan):
        why = usable(board, kind, pin, signal)
        if not why:
            continue
        yield Finding(
            key=f"cannot-{signal.id}",
            weight="severe",
            head=f"{signal.name} cannot work on {pin.name}.",
            why=f"{why[:1].upper()}{why[1:]}.",
            fix="Use a pin that can.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="Use another pin",
            apply=give_new_pins(signal.id),
        )


def programming_pins(plan: Plan) -> Iterator[Finding]:
    """A pin that brings the program in is used by something else."""
    for signal, row, _board, _kind, pin in seated(plan):
        if pin.programming and not signal.needs - set(pin.can):
            yield Finding(
                key=f"programming-{signal.id}",
                weight="warning",
                head=f"{signal.name} sits on {pin.name}, which loads the program.",
                why="While it is connected, no new program can be loaded.",
                fix="Use another pin, or fit a plug that can be pulled.",
                at=signal.owner,
                pins=((row.board, row.pin),),
                press="Use another pin",
                apply=give_new_pins(signal.id),
            )


def boot_pins(plan: Plan) -> Iterator[Finding]:
    """A part that may hold a pin which decides the boot mode at the wrong level."""
    known: set[tuple[str, str]] = set()
    for signal, row, _board, _kind, pin in seated(plan):
        if not upsets_start(plan, signal, pin) or (row.board, row.pin) in known:
            continue
        known.add((row.board, row.pin))
        wrong = "high" if pin.boot_needs == "low" else "low"
        drives = signal.share or signal.owner.startswith("relay:")
        yield Finding(
            key=f"boot-{signal.id}",
            weight="severe",
            head=f"{pin.name} decides the boot mode and must be {pin.boot_needs} at start.",
            why=f"{signal.name} {'holds' if drives else 'may hold'} it {wrong}: the board would "
            "not start.",
            fix="Use another pin.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press="Use another pin",
            apply=give_new_pins(signal.id),
        )


def twitching_relays(plan: Plan) -> Iterator[Finding]:
    """A relay that pulls in while the board starts, and for how long."""
    for signal, row, _board, _kind, pin in seated(plan):
        if not signal.owner.startswith("relay:"):
            continue
        relay = part_of(plan, "relay", signal.owner.split(":")[1])
        load = plan.load(relay.load)
        coil = boot_coil(relay, plan)
        if coil is False or load is None:
            continue
        grave = must_rest(load.load_class)
        if coil is None:
            head = f"{relay.id.upper()} floats until the program starts."
            why = f"Nothing holds {pin.name} idle: {load.name} may twitch."
        else:
            span = f"{short(pin.boot_ms)} ms" if pin.boot_ms else "until the program starts"
            head = f"{pin.name} is {_level_words(pin)} before the start."
            why = f"{relay.id.upper()} pulls in for {span}: {load.name} twitches."
        fits = coil is None and pin.boot_needs in ("any", idle_level(relay))
        to = "0 V" if relay.pulls_in == "high" else "the logic supply"
        fixed = relay.model_copy(update={"pull_ohm": IDLE_PULL_OHM})
        yield Finding(
            key=f"twitch-{relay.id}",
            weight="severe" if grave else "warning",
            head=head,
            why=why,
            fix=f"Fit {ohms(IDLE_PULL_OHM)} from {pin.name} to {to}, or move it to a pin that "
            f"stays low during boot."
            if fits
            else "A resistor cannot hold a pin that is driven, or that needs another level "
            "during boot. Use a pin that stays low during boot.",
            at=signal.owner,
            pins=((row.board, row.pin),),
            press=f"Mark {ohms(IDLE_PULL_OHM)} as fitted"
            if fits
            else "Move to a pin that stays low",
            apply=put_changed("relay", fixed) if fits else give_new_pins(signal.id),
        )


def _level_words(pin: Pin) -> str:
    return "pulsing" if pin.at_boot == "pulses" else pin.at_boot


PIN_CHECKS: tuple[Check, ...] = (
    shared_pins,
    impossible_pins,
    boot_pins,
    twitching_relays,
    programming_pins,
    without_pin,
)
