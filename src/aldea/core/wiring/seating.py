"""Single parts put on the cleanest free pins at once, while all others stay where they are.

Greedy and quick, for a fix that is tried before it is offered; the solver deals whole houses.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment, Board, BoardType, Pin
from aldea.core.plan.seats import seat_of
from aldea.core.wiring.candidates import (
    Slot,
    cost_of,
    distance_cost,
    rail_cost,
    root_of,
    standing,
    usable,
)
from aldea.core.wiring.pin_model import Tell, quiet
from aldea.core.wiring.reasons import reason_for
from aldea.core.wiring.signals import signals

Seat = tuple[Board, BoardType, Pin]
NO_ROOM = 10**9
ELSEWHERE = 100  # a part stays at its board unless a pin there would be a bad one


@dataclass(frozen=True, slots=True)
class _Taken:
    """What sits where: rows by signal, and the bus line that a taken pin is, or an empty word."""

    rows: dict[str, Assignment]
    pins: dict[tuple[str, str], str]
    addresses: set[tuple[str, int]]


def seated_quickly(plan: Plan, names: Collection[str], tell: Tell = quiet) -> Plan | None:
    """The plan with some signals on the cleanest free pins; None where one of them finds none.

    Lines of one thing go to one controller, bus lines to its bus, serial lines to one port.
    """
    wanted = signals(plan)
    known = {signal.id: signal for signal in wanted}
    moving = [signal for signal in wanted if signal.id in names]
    taken = _Taken(rows={}, pins={}, addresses=set())
    for row in plan.assignments:
        if row.signal in known and row.signal not in names:
            _sit(taken, known[row.signal], row, plan)
    least: dict[tuple[str, object], int] = {}
    by_group: dict[str, list[Signal]] = {}
    for signal in wanted:
        by_group.setdefault(signal.group, []).append(signal)
    groups: dict[str, list[Signal]] = {}
    for signal in moving:
        groups.setdefault(signal.group, []).append(signal)
    for number, (group, members) in enumerate(groups.items()):
        tell("Giving each thing the cleanest pins nearby", number / len(groups))
        fixed = {
            root_of(seat[0])
            for signal in by_group[group]
            if signal.id in taken.rows and (seat := seat_of(plan, signal.id)) is not None
        }
        seats = [seat_of(plan, signal.id) for signal in members]
        before = {root_of(seat[0]) for seat in seats if seat is not None}
        rows = _best_rows(plan, members, taken, least, before=before, fixed=fixed)
        if rows is None:
            return None
        for signal, row in zip(members, rows, strict=True):
            _sit(taken, signal, row, plan)
    order = {signal.id: index for index, signal in enumerate(wanted)}
    left = sorted(taken.rows.values(), key=lambda row: order[row.signal])
    return plan.model_copy(update={"assignments": tuple(left)})


def _best_rows(
    plan: Plan,
    members: list[Signal],
    taken: _Taken,
    least: dict[tuple[str, object], int],
    *,
    before: set[str],
    fixed: set[str],
) -> list[Assignment] | None:
    """Seats for the lines of one thing: on the board where they cost least.

    `least` keeps what such a thing cost at a board when it was last looked at. Pins only get
    fewer, so that it costs no less now, and boards that cannot be better are not looked at again.
    """
    order = tuple((s.needs, s.share, s.address, s.only_board) for s in members)
    around = {
        root.id: far + (0 if root.id in before else ELSEWHERE)
        for root, far in _roots(plan, members[0], fixed)
    }

    def bound(root_id: str) -> int:
        return around[root_id] + least.get((root_id, order), 0)

    best: tuple[int, list[Assignment]] | None = None
    for root_id in sorted(around, key=bound):
        if best is not None and best[0] <= bound(root_id):
            break
        root = plan.board(root_id)
        rows = _on_root(plan, root, members, taken) if root is not None else None
        least[root_id, order] = NO_ROOM if rows is None else _pins_cost(plan, members, rows)
        if rows is not None and (best is None or bound(root_id) < best[0]):
            best = bound(root_id), rows
    return best[1] if best is not None else None


def _sit(taken: _Taken, signal: Signal, row: Assignment, plan: Plan) -> None:
    taken.rows[signal.id] = row
    taken.pins[row.board, row.pin] = signal.share
    board = plan.board(row.board)
    if signal.address is not None and board is not None:
        taken.addresses.add((root_of(board), signal.address))


def _roots(plan: Plan, signal: Signal, fixed: set[str]) -> Iterator[tuple[Board, int]]:
    """The controllers that may serve a thing, each with what its distance and its rails cost."""
    types = board_types(plan)
    place = standing(plan, signal.place)
    only = fixed or ({signal.only_board} if signal.only_board else set())
    for board in plan.boards:
        if types[board.board_type].role == "controller" and (not only or board.id in only):
            far = distance_cost(place, standing(plan, board.place))
            yield board, far + rail_cost(plan, signal.owner, board)


def _pins_cost(plan: Plan, members: list[Signal], rows: list[Assignment]) -> int:
    types, cost = board_types(plan), 0
    for signal, row in zip(members, rows, strict=True):
        board = plan.board(row.board)
        pin = types[board.board_type].pin(row.pin) if board else None
        cost += cost_of(pin, signal) if pin else 0
    return cost


def _on_root(
    plan: Plan, root: Board, members: list[Signal], taken: _Taken
) -> list[Assignment] | None:
    rows: list[Assignment] = []
    used = dict(taken.pins)
    port: tuple[str, str] | None = None
    for signal in members:
        if signal.address is not None and (root.id, signal.address) in taken.addresses:
            return None
        serial = bool(signal.needs & {"serial_rx", "serial_tx"})
        seat = next(
            (
                (board, kind, pin)
                for board, kind, pin in _seats(plan, root, signal, used)
                if not serial or port in (None, (board.id, pin.port))
            ),
            None,
        )
        if seat is None:
            return None
        board, _, pin = seat
        if serial:
            port = (board.id, pin.port)
        used[board.id, pin.name] = signal.share
        slot = Slot(board=board.id, root=root.id, pins=(pin,))
        rows.append(
            Assignment(
                signal=signal.id,
                board=board.id,
                pin=pin.name,
                reason=reason_for(plan, signal, slot),
            )
        )
    return rows


def _seats(
    plan: Plan, root: Board, signal: Signal, used: dict[tuple[str, str], str]
) -> Iterator[Seat]:
    """Free pins of a controller and of what hangs on it, the cleanest first; of a bus its own."""
    types = board_types(plan)
    able = [
        (board, types[board.board_type], pin)
        for board in plan.boards
        if root_of(board) == root.id
        for pin in types[board.board_type].pins
        if not usable(board, types[board.board_type], pin, signal)
    ]
    if signal.share:
        own = [seat for seat in able if used.get((seat[0].id, seat[2].name)) == signal.share]
        if own:
            yield from own
            return
    free = [seat for seat in able if (seat[0].id, seat[2].name) not in used]
    yield from sorted(free, key=lambda seat: cost_of(seat[2], signal))
