"""Every signal that has a pin, with its row, board, type and pin."""

from aldea.core.base.memo import per_plan
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment, Board, BoardType, Pin
from aldea.core.wiring.signals import signals

Seat = tuple[Signal, Assignment, Board, BoardType, Pin]


@per_plan
def seated(plan: Plan) -> tuple[Seat, ...]:
    """Every signal that has a pin, with row, board, type and pin."""
    seats: list[Seat] = []
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
            seats.append((signal, row, board, kind, pin))
    return tuple(seats)
