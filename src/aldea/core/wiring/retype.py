"""A board of another type in place of a wired one: pins that fit stay, the others come loose."""

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.panel import Board
from aldea.core.wiring.candidates import usable
from aldea.core.wiring.signals import signals


def with_board(plan: Plan, board: Board) -> tuple[Plan, tuple[str, ...]]:
    """The plan with a changed board, and what came loose by it, in words.

    A line stays where the new type has a pin of that name that can do what is asked of it.
    """
    old = plan.board(board.id)
    plan_with = put_part(plan, "board", board)
    if old is None or old.board_type == board.board_type:
        return plan_with, ()
    kind = board_types(plan).get(board.board_type)
    if kind is None:
        return plan_with, ()
    known = {signal.id: signal for signal in signals(plan)}
    rows, loose = [], []
    for row in plan.assignments:
        signal = known.get(row.signal)
        pin = kind.pin(row.pin)
        if row.board != board.id or (signal and pin and not usable(board, kind, pin, signal)):
            rows.append(row)
        else:
            line = row.signal.rsplit(".", 1)[-1]
            loose.append(f"{signal.name if signal else row.signal} ({line}, {row.pin})")
    return plan_with.model_copy(update={"assignments": tuple(rows)}), tuple(loose)
