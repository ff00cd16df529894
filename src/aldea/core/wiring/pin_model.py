"""The constraint solver's model of a panel: who may sit where, what a seat costs.

Google's CP-SAT (ortools) decides. Pins that are alike are one slot with a capacity, which keeps
twelve boards and three hundred signals small. One worker and a fixed seed: the same plan gives the
same pins.
"""

from collections import defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from itertools import combinations
from typing import TYPE_CHECKING, Any

from aldea.core.base.errors import InputError
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment
from aldea.core.wiring.candidates import Slot, cost_of, distance_cost, rail_cost, standing, unfit

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

MOST_EFFORT = 1.0  # deterministic time of the solver: the same on every machine
LOOK_S = 0.1  # how long the solver goes on before it is told whether it still may

Tell = Callable[[str, float], None]
"""Hears what is being done and how much of it is done (0 to 1); ends the work by raising."""


def quiet(_doing: str, _share: float) -> None:
    """Nobody listens."""


@dataclass(slots=True)
class PinModel:
    """The solver's model with the names of what is in it."""

    cp: "cp_model.CpModel"
    wishes: dict[str, Any] = field(default_factory=dict)
    own: dict[tuple[str, str], Any] = field(default_factory=dict)
    sits: dict[tuple[str, int], Any] = field(default_factory=dict)
    costs: list[Any] = field(default_factory=list)


def build_model(
    plan: Plan,
    wanted: Sequence[Signal],
    open_signals: Sequence[Signal],
    hand: Sequence[Assignment],
    free: Sequence[Slot],
    assumed: set[str] | None,
    nearest: int = 1000,
    *,
    tell: Tell,
) -> PinModel:
    """The model; with `assumed`, only those wishes hold, and there is nothing to minimise."""
    from ortools.sat.python import cp_model  # noqa: PLC0415

    model = PinModel(cp=cp_model.CpModel())
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
    _seat(model, open_signals, free, roots, boards, types, tell)
    _buses(model, open_signals, hand, wanted, free, boards)
    _ports(model, open_signals, free)
    if assumed is None:
        model.cp.minimize(sum(model.costs))
    return model


def _seat(
    model: PinModel,
    open_signals: Sequence[Signal],
    free: Sequence[Slot],
    roots: Sequence[str],
    boards: dict[str, Any],
    types: dict[str, Any],
    tell: Tell,
) -> None:
    """Each signal sits in one slot of the root its group is on; slots hold what they have."""
    load: dict[int, list[Any]] = defaultdict(list)
    fitting: dict[object, list[tuple[int, Slot]]] = {}
    for number, signal in enumerate(open_signals):
        tell("Looking where each line could sit", number / len(open_signals))
        at: dict[str, list[Any]] = defaultdict(list)
        for index, slot in _fitting(signal, free, boards, types, fitting):
            if (signal.group, slot.root) not in model.own:
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


def _fitting(
    signal: Signal,
    free: Sequence[Slot],
    boards: dict[str, Any],
    types: dict[str, Any],
    known: dict[object, list[tuple[int, Slot]]],
) -> list[tuple[int, Slot]]:
    """The slots whose pins can serve a signal; what is alike fits alike, and is looked up once."""
    alike = (signal.needs, signal.share, signal.only_board, "excite" in signal.id)
    if alike not in known:
        known[alike] = [
            (index, slot)
            for index, slot in enumerate(free)
            if not unfit(slot, boards[slot.board], types, signal)
        ]
    return known[alike]


def _first(open_signals: Sequence[Signal], share: str) -> Signal:
    return next(s for s in open_signals if s.share == share)


def _buses(
    model: PinModel,
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


def _ports(model: PinModel, open_signals: Sequence[Signal], free: Sequence[Slot]) -> None:
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


def solved(model: PinModel, tell: Tell) -> dict[str, int] | None:
    """Slot of each signal; None where the wishes exclude each other.

    Raises `InputError` where the solver could tell neither in its time, and what `tell` raises.
    """
    from ortools.sat.python import cp_model  # noqa: PLC0415

    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = 7
    solver.parameters.max_deterministic_time = MOST_EFFORT
    solver.parameters.relative_gap_limit = 0.05
    solver.parameters.linearization_level = 2
    with ThreadPoolExecutor(1) as beside:
        solving = beside.submit(solver.solve, model.cp)
        while not wait((solving,), timeout=LOOK_S).done:
            try:
                tell(f"Weighing {len(model.sits)} possible seats", 1.0)
            except BaseException:
                solver.stop_search()
                raise
        status = solving.result()
    if status == cp_model.INFEASIBLE:
        return None
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        raise InputError(
            "pins",
            got=f"{len(model.sits)} possible seats, too many to try in time",
            allowed="a house of about twelve boards and three hundred signals",
            fix="Set the pins of one board by hand, then assign the rest.",
        )
    return {
        signal: index for (signal, index), seat in model.sits.items() if solver.boolean_value(seat)
    }
