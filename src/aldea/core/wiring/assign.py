"""All signals to pins at once, by a constraint solver; or the wishes that exclude each other.

Google's CP-SAT (ortools) decides. Pins that are alike are one slot with a capacity, which keeps
twelve boards and three hundred signals small. One worker and a fixed seed: the same plan gives the
same pins.
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations
from typing import TYPE_CHECKING, Any

from aldea.core.base.addresses import address_words
from aldea.core.base.errors import InputError
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment
from aldea.core.wiring.candidates import (
    Slot,
    cost_of,
    distance_cost,
    rail_cost,
    slots,
    standing,
    unfit,
    usable,
)
from aldea.core.wiring.reasons import reason_for
from aldea.core.wiring.seating import seated_quickly
from aldea.core.wiring.signals import signals

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

MOST_EFFORT = 1.0  # deterministic time of the solver: the same on every machine
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
    def mend(self) -> str:
        """What helps where wishes exclude each other."""
        if self.room_if_dealt_again:
            return "It fits when all that no hand has chosen is dealt again."
        addresses = [wish.address for wish in self.conflict if wish.address is not None]
        if len(addresses) > len(set(addresses)):
            return (
                "Two with one address cannot be told apart on one bus: set another address on one, "
                "put it on another board’s bus, or put a bus switch between."
            )
        return "Take one of them away, or put in a board or an expander that has such pins."


@dataclass(slots=True)
class _Model:
    """The solver's model with the names of what is in it."""

    cp: "cp_model.CpModel"
    wishes: dict[str, Any] = field(default_factory=dict)
    own: dict[tuple[str, str], Any] = field(default_factory=dict)
    sits: dict[tuple[str, int], Any] = field(default_factory=dict)
    costs: list[Any] = field(default_factory=list)


def assign_pins(plan: Plan, *, redeal: bool = False) -> Assigned:
    """Give every signal a pin; what is placed stays. A plan without boards gets none.

    With `redeal` only what a hand has chosen stays. Where what is placed leaves no room,
    `room_if_dealt_again` tells whether dealing all again would make some.
    """
    wanted = signals(plan)
    by_id = {signal.id: signal for signal in wanted}
    hand = tuple(a for a in plan.assignments if a.by == "hand" and a.signal in by_id)
    if not redeal:
        kept = tuple(_placed(plan, by_id))
        if len(kept) > len(hand):
            done = _dealt(plan, wanted, kept)
            return done if not done.conflict else _with_room(plan, done)
    return _dealt(plan, wanted, hand)


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


def _with_room(plan: Plan, done: Assigned) -> Assigned:
    again = assign_pins(plan, redeal=True)
    if again.conflict:
        return again
    return replace(done, room_if_dealt_again=True)


def _dealt(plan: Plan, wanted: Sequence[Signal], hand: tuple[Assignment, ...]) -> Assigned:
    by_id = {signal.id: signal for signal in wanted}
    if not plan.boards:
        return Assigned(assignments=hand)
    free = slots(plan, _taken(hand, by_id))
    placed = {row.signal for row in hand}
    open_signals = [s for s in wanted if s.id not in placed]
    if len(open_signals) > MOST_SOLVED:
        quick = seated_quickly(
            plan.model_copy(update={"assignments": hand}), {s.id for s in open_signals}
        )
        if quick is not None:
            return Assigned(assignments=quick.assignments)
    wishes = _wishes(wanted, hand)
    chosen = None
    for nearest in NEAREST_BOARDS:
        chosen = _solve(_build(plan, wanted, open_signals, hand, free, None, nearest))
        if chosen is not None or nearest >= len(plan.boards):
            break
    if chosen is None:
        return Assigned(
            assignments=plan.assignments,
            conflict=_smallest(plan, wanted, hand, wishes)
            if all(row.by == "hand" for row in hand)
            else tuple(wishes[key] for key in dict.fromkeys(s.group for s in open_signals)),
        )
    return Assigned(assignments=_named(plan, open_signals, hand, free, chosen))


def _taken(hand: Sequence[Assignment], by_id: Mapping[str, Signal]) -> dict[tuple[str, str], str]:
    """Pins that a hand has given, with the bus line that each of them is."""
    return {(row.board, row.pin): by_id[row.signal].share for row in hand}


def _wishes(wanted: Sequence[Signal], hand: Sequence[Assignment]) -> dict[str, Wish]:
    wishes = {}
    for signal in wanted:
        needs = sorted({n for s in wanted if s.group == signal.group for n in s.needs})
        count = sum(s.group == signal.group for s in wanted)
        text = ", ".join(n.replace("_", " ") for n in needs)
        pins = f"{count} pins" if count > 1 else "a pin"
        wishes[signal.group] = Wish(
            key=signal.group, words=f"{signal.name} is connected ({pins}: {text})"
        )
    for signal in wanted:
        if signal.address is not None:
            old = wishes[signal.group]
            at = f"{old.words}, at address {address_words(signal.address)}"
            wishes[signal.group] = replace(old, words=at, address=signal.address)
    for row in hand:
        name = next(s.name for s in wanted if s.id == row.signal)
        wishes[row.signal] = Wish(
            key=row.signal, words=f"{name} stays on {row.board}, {row.pin}, as a hand chose"
        )
    return wishes


def _build(
    plan: Plan,
    wanted: Sequence[Signal],
    open_signals: Sequence[Signal],
    hand: Sequence[Assignment],
    free: Sequence[Slot],
    assumed: set[str] | None,
    nearest: int = 1000,
) -> _Model:
    """The model; with `assumed`, only those wishes hold, and there is nothing to minimise."""
    from ortools.sat.python import cp_model  # noqa: PLC0415

    model = _Model(cp=cp_model.CpModel())
    types = board_types(plan)
    boards = {board.id: board for board in plan.boards}
    roots = sorted({slot.root for slot in free} | {b.host or b.id for b in plan.boards})
    groups: dict[str, list[Signal]] = defaultdict(list)
    for signal in wanted:
        groups[signal.group].append(signal)
    for group, members in groups.items():
        place = standing(plan, members[0].place)
        far = {root: distance_cost(place, standing(plan, boards[root].place)) for root in roots}
        fixed = {boards[a.board].host or a.board for a in hand for s in members if s.id == a.signal}
        near = {*sorted(roots, key=lambda root: far[root])[:nearest], *fixed}
        near |= {s.only_board for s in members if s.only_board}
        for root in sorted(near):
            model.own[group, root] = model.cp.new_bool_var("")
            worse = far[root] + rail_cost(plan, members[0].owner, boards[root])
            model.costs.append(worse * model.own[group, root])
        holds = assumed is None or group in assumed
        here = sum(model.own[group, root] for root in sorted(near))
        model.cp.add(here == 1 if holds else here <= 1)
    for row in hand:
        if assumed is None or row.signal in assumed:
            board = boards[row.board]
            group = next(s.group for s in wanted if s.id == row.signal)
            model.cp.add(model.own[group, board.host or board.id] == 1)
    _seat(model, open_signals, free, roots, boards, types)
    _buses(model, open_signals, hand, wanted, free, boards)
    _ports(model, open_signals, free)
    if assumed is None:
        model.cp.minimize(sum(model.costs))
    return model


def _seat(
    model: _Model,
    open_signals: Sequence[Signal],
    free: Sequence[Slot],
    roots: Sequence[str],
    boards: dict[str, Any],
    types: dict[str, Any],
) -> None:
    """Each signal sits in one slot of the root its group is on; slots hold what they have."""
    load: dict[int, list[Any]] = defaultdict(list)
    for signal in open_signals:
        at: dict[str, list[Any]] = defaultdict(list)
        for index, slot in enumerate(free):
            board = boards[slot.board]
            if (signal.group, slot.root) not in model.own or unfit(slot, board, types, signal):
                continue
            seat = model.cp.new_bool_var("")
            model.sits[signal.id, index] = seat
            at[slot.root].append(seat)
            if not signal.share:
                load[index].append(seat)
                model.costs.append(cost_of(slot.sample, signal) * seat)
        for root in roots:
            if (signal.group, root) in model.own:
                model.cp.add(sum(at[root]) == model.own[signal.group, root])
    for share in sorted({s.share for s in open_signals if s.share}):
        for index, slot in enumerate(free):
            seats = [
                model.sits[s.id, index]
                for s in open_signals
                if s.share == share and (s.id, index) in model.sits
            ]
            if not seats:
                continue
            used = model.cp.new_bool_var("")
            model.cp.add_max_equality(used, seats)
            load[index].append(used)
            model.costs.append(cost_of(slot.sample, _first(open_signals, share)) * used)
    for index, seats in load.items():
        if len(seats) > len(free[index].pins):
            model.cp.add(sum(seats) <= len(free[index].pins))


def _first(open_signals: Sequence[Signal], share: str) -> Signal:
    return next(s for s in open_signals if s.share == share)


def _buses(
    model: _Model,
    open_signals: Sequence[Signal],
    hand: Sequence[Assignment],
    wanted: Sequence[Signal],
    free: Sequence[Slot],
    boards: dict[str, Any],
) -> None:
    """One bus a board; no two devices of one address on it."""
    for share in sorted({s.share for s in open_signals if s.share}):
        for root in sorted({slot.root for slot in free}):
            columns = [i for i, slot in enumerate(free) if slot.root == root and not slot.held_for]
            uses = []
            for index in columns:
                seats = [
                    model.sits[s.id, index]
                    for s in open_signals
                    if s.share == share and (s.id, index) in model.sits
                ]
                if seats:
                    used = model.cp.new_bool_var("")
                    model.cp.add_max_equality(used, seats)
                    uses.append(used)
            fixed = any(
                s.share == share and boards[a.board].id == root
                for a in hand
                for s in wanted
                if s.id == a.signal
            )
            if len(uses) > 1 or fixed:
                model.cp.add(sum(uses) <= (0 if fixed else 1))
    addressed: dict[int, list[str]] = defaultdict(list)
    for signal in wanted:
        if signal.address is not None:
            addressed[signal.address].append(signal.group)
    for groups in addressed.values():
        for first, second in combinations(sorted(set(groups)), 2):
            for root in sorted({key[1] for key in model.own}):
                both = [model.own[g, root] for g in (first, second) if (g, root) in model.own]
                if len(both) == 2:
                    model.cp.add(sum(both) <= 1)


def _ports(model: _Model, open_signals: Sequence[Signal], free: Sequence[Slot]) -> None:
    """The two lines of a serial sensor sit on one port."""
    pairs: dict[str, dict[str, Signal]] = defaultdict(dict)
    for signal in open_signals:
        if signal.needs in (frozenset({"serial_rx"}), frozenset({"serial_tx"})):
            pairs[signal.owner][next(iter(signal.needs))] = signal
    for pair in pairs.values():
        if len(pair) < 2:
            continue
        by_port: dict[tuple[str, str], list[list[Any]]] = defaultdict(lambda: [[], []])
        for side, need in enumerate(("serial_rx", "serial_tx")):
            for index, slot in enumerate(free):
                seat = model.sits.get((pair[need].id, index))
                if seat is not None:
                    by_port[slot.board, slot.sample.port][side].append(seat)
        for received, sent in by_port.values():
            model.cp.add(sum(received) == sum(sent))


def _solve(model: _Model) -> dict[str, int] | None:
    """Slot of each signal; None where the wishes exclude each other.

    Raises `InputError` where the solver could tell neither in its time.
    """
    from ortools.sat.python import cp_model  # noqa: PLC0415

    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 7
    solver.parameters.max_deterministic_time = MOST_EFFORT
    solver.parameters.relative_gap_limit = 0.05
    solver.parameters.linearization_level = 2
    status = solver.solve(model.cp)
    if status == cp_model.INFEASIBLE:
        return None
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        raise InputError(
            "pins",
            got=f"{len(model.sits)} possible seats, too many to try in time",
            allowed="a house of about twelve boards and three hundred signals",
            mend="Set the pins of one board by hand, then assign the rest.",
        )
    return {
        signal: index for (signal, index), seat in model.sits.items() if solver.boolean_value(seat)
    }


def _smallest(
    plan: Plan,
    wanted: Sequence[Signal],
    hand: Sequence[Assignment],
    wishes: dict[str, Wish],
) -> tuple[Wish, ...]:
    """A set of wishes that cannot hold together, but can without any one of them."""

    def possible(kept: set[str]) -> bool:
        stays = [row for row in hand if row.signal in kept]
        held = {row.signal for row in stays}
        others = [signal for signal in wanted if signal.id not in held]
        free = slots(plan, _taken(stays, {signal.id: signal for signal in wanted}))
        return _solve(_build(plan, wanted, others, stays, free, kept)) is not None

    core = set(wishes)
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
