"""All signals to pins at once, by a constraint solver; or the wishes that exclude each other."""

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from aldea.core.base.addresses import address_words
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment
from aldea.core.wiring.candidates import Slot, slots, usable
from aldea.core.wiring.pin_count import refuse_too_few_pins
from aldea.core.wiring.pin_model import Tell, build_model, quiet, solved
from aldea.core.wiring.reasons import reason_for
from aldea.core.wiring.seating import seated_quickly
from aldea.core.wiring.signals import signals

FEW_HANDS = 24
MOST_SOLVED = 700  # above that the nearest clean pins are taken, one thing after the other
NEAREST_BOARDS = (3, 6, 1000)  # a thing looks for a board nearby first, which is far quicker


@dataclass(frozen=True, slots=True, kw_only=True)
class Wish:
    """Something that the plan asks for: a group to be connected, or a hand's choice to stay."""

    key: str
    words: str
    address: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Assigned:
    """Pins for everything, or (when it cannot be done) the wishes that exclude each other."""

    assignments: tuple[Assignment, ...]
    conflict: tuple[Wish, ...] = ()
    room_if_dealt_again: bool = False

    @property
    def fix(self) -> str:
        """What helps where wishes exclude each other."""
        if self.room_if_dealt_again:
            return "An assignment fits when all pins that nobody chose by hand are reassigned."
        addresses = [wish.address for wish in self.conflict if wish.address is not None]
        if len(addresses) > len(set(addresses)):
            return (
                "Two with one address cannot be told apart on one bus: set another address on one, "
                "or put it on another board’s bus."
            )
        return "Remove one of them, or put in a board or an expander that has such pins."


def assign_pins(plan: Plan, *, redeal: bool = False, tell: Tell = quiet) -> Assigned:
    """Give every signal a pin; what is placed stays. A plan without boards gets none.

    With `redeal` only what a hand has chosen stays. Where what is placed leaves no room,
    `room_if_dealt_again` tells whether dealing all again would make some. Long work tells `tell`
    how far it is, a few times a second; what that raises ends the work. Raises `InputError` where
    there are far too few pins, or the solver could tell neither in its time.
    """
    wanted = signals(plan)
    by_id = {signal.id: signal for signal in wanted}
    hand = tuple(a for a in plan.assignments if a.by == "hand" and a.signal in by_id)
    if not redeal:
        kept = tuple(_placed(plan, by_id))
        if len(kept) > len(hand):
            done = _dealt(plan, wanted, kept, tell)
            return done if not done.conflict else _with_room(plan, done, tell)
    return _dealt(plan, wanted, hand, tell)


def _placed(plan: Plan, by_id: Mapping[str, Signal]) -> Iterator[Assignment]:
    """What sits where it can stay: what a hand chose, and what serves and has its pin to itself."""
    known = [row for row in plan.assignments if row.signal in by_id]
    taken = {(r.board, r.pin): by_id[r.signal].share for r in known if r.by == "hand"}
    for row in known:
        seat, share = (row.board, row.pin), by_id[row.signal].share
        if row.by == "hand":
            yield row
        elif _serves(plan, row, by_id) and (seat not in taken or (share and taken[seat] == share)):
            taken[seat] = share
            yield row


def _serves(plan: Plan, row: Assignment, by_id: Mapping[str, Signal]) -> bool:
    """Whether a pin that the solver gave before can still serve its signal."""
    board, signal = plan.board(row.board), by_id.get(row.signal)
    kind = board_types(plan).get(board.board_type) if board else None
    pin = kind.pin(row.pin) if kind else None
    if board is None or kind is None or pin is None or signal is None:
        return False
    return not usable(board, kind, pin, signal)


def _with_room(plan: Plan, done: Assigned, tell: Tell) -> Assigned:
    again = assign_pins(plan, redeal=True, tell=tell)
    if again.conflict:
        return again
    return replace(done, room_if_dealt_again=True)


def _dealt(
    plan: Plan, wanted: Sequence[Signal], hand: tuple[Assignment, ...], tell: Tell
) -> Assigned:
    by_id = {signal.id: signal for signal in wanted}
    if not plan.boards:
        return Assigned(assignments=hand)
    free = slots(plan, _taken_slots(hand, by_id))
    placed = {row.signal for row in hand}
    open_signals = [s for s in wanted if s.id not in placed]
    if all(row.by == "hand" for row in hand):  # else dealing all again may make room
        refuse_too_few_pins(plan, open_signals, free)
    if len(open_signals) > MOST_SOLVED:
        quick = seated_quickly(
            plan.model_copy(update={"assignments": hand}), {s.id for s in open_signals}, tell
        )
        if quick is not None:
            return Assigned(assignments=quick.assignments)
    wishes = _wishes(wanted, hand)
    chosen = None
    for nearest in NEAREST_BOARDS:
        model = build_model(plan, wanted, open_signals, hand, free, None, nearest, tell=tell)
        chosen = solved(model, tell)
        if chosen is not None or nearest >= len(plan.boards):
            break
    if chosen is None:
        return Assigned(
            assignments=plan.assignments,
            conflict=_smallest(plan, wanted, hand, wishes, tell)
            if all(row.by == "hand" for row in hand)
            else tuple(wishes[key] for key in dict.fromkeys(s.group for s in open_signals)),
        )
    return Assigned(assignments=_named(plan, open_signals, hand, free, chosen))


def _taken_slots(
    hand: Sequence[Assignment], by_id: Mapping[str, Signal]
) -> dict[tuple[str, str], str]:
    """Pins that a hand has given, with the bus line that each of them is."""
    return {(row.board, row.pin): by_id[row.signal].share for row in hand}


def _wishes(wanted: Sequence[Signal], hand: Sequence[Assignment]) -> dict[str, Wish]:
    wishes: dict[str, Wish] = {}
    needs: dict[str, set[str]] = defaultdict(set)
    count = Counter(signal.group for signal in wanted)
    for signal in wanted:
        needs[signal.group] |= signal.needs
    for signal in wanted:
        text = ", ".join(n.replace("_", " ") for n in sorted(needs[signal.group]))
        pins = f"{count[signal.group]} pins" if count[signal.group] > 1 else "a pin"
        wishes[signal.group] = Wish(
            key=signal.group, words=f"{signal.name} is connected ({pins}: {text})"
        )
    for signal in wanted:
        if signal.address is not None:
            old = wishes[signal.group]
            at = f"{old.words}, at address {address_words(signal.address)}"
            wishes[signal.group] = replace(old, words=at, address=signal.address)
    names = {signal.id: signal.name for signal in wanted}
    for row in hand:
        wishes[row.signal] = Wish(
            key=row.signal,
            words=f"{names[row.signal]} stays on {row.board}, {row.pin}, as chosen by hand",
        )
    return wishes


def _smallest(
    plan: Plan,
    wanted: Sequence[Signal],
    hand: Sequence[Assignment],
    wishes: dict[str, Wish],
    report: Tell,
) -> tuple[Wish, ...]:
    """A set of wishes that cannot hold together, but can without any one of them."""
    core = set(wishes)

    def tell(_doing: str = "", _share: float = 0.0) -> None:
        left = f"No assignment fits. Narrowing down: {len(core)} of {len(wishes)} wishes"
        report(left, 1.0 - len(core) / len(wishes))

    def possible(kept: set[str]) -> bool:
        tell()
        stays = [row for row in hand if row.signal in kept]
        held = {row.signal for row in stays}
        others = [signal for signal in wanted if signal.id not in held]
        free = slots(plan, _taken_slots(stays, {signal.id: signal for signal in wanted}))
        model = build_model(plan, wanted, others, stays, free, kept, tell=tell)
        return solved(model, tell) is not None

    chosen = {row.signal for row in hand}
    if len(chosen) <= FEW_HANDS:
        # A hand's choice is dropped first where it is not needed: it is named only if it hurts.
        for key in sorted(chosen):
            if not possible(core - {key}):
                core.discard(key)
    # Halves first: a large plan mostly has a small quarrel.
    step = len(core) // 2
    while step:
        names = sorted(core)
        for start in range(0, len(names), step):
            fewer = core - set(names[start : start + step])
            if fewer and not possible(fewer):
                core = fewer
        step //= 2
    return tuple(wishes[key] for key in wishes if key in core)


def _named(
    plan: Plan,
    open_signals: Sequence[Signal],
    hand: Sequence[Assignment],
    free: Sequence[Slot],
    chosen: dict[str, int],
) -> tuple[Assignment, ...]:
    """From slots to pins: a signal keeps the pin that it had where that is in its slot."""
    before = {a.signal: a.pin for a in plan.assignments}
    rows: dict[str, Assignment] = {a.signal: a for a in hand}
    used: dict[int, list[str]] = defaultdict(list)
    shared: dict[tuple[str, int], str] = {}
    had = sorted(
        open_signals,
        key=lambda s: before.get(s.id) not in {p.name for p in free[chosen[s.id]].pins},
    )
    for signal in had:
        index = chosen[signal.id]
        slot = free[index]
        names = [p.name for p in slot.pins]
        pin = shared.get((signal.share, index), "") if signal.share else ""
        if not pin:
            left = [name for name in names if name not in used[index]]
            pin = before[signal.id] if before.get(signal.id) in left else left[0]
            used[index].append(pin)
            if signal.share:
                shared[signal.share, index] = pin
        reason = reason_for(plan, signal, slot)
        rows[signal.id] = Assignment(signal=signal.id, board=slot.board, pin=pin, reason=reason)
    order = [s.id for s in signals(plan)]
    return tuple(rows[name] for name in order if name in rows)
