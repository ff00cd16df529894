"""What benches of a board have in common: the board, and what sits on it."""

from collections.abc import Callable

from aldea.core.base.errors import InputError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.panel import Board, BoardType


def board_of(plan: Plan, subject: str) -> tuple[Board, BoardType]:
    """A board and its type; `InputError` where the house has no such one."""
    for board in plan.boards:
        if board.id == subject:
            return board, board_types(plan)[board.board_type]
    raise InputError("board", got=repr(subject), allowed="a board of this house")


def boards_with_role(role: str) -> Callable[[Plan], tuple[tuple[str, str], ...]]:
    """Every board of a role, with its name."""

    def subjects(plan: Plan) -> tuple[tuple[str, str], ...]:
        types = board_types(plan)
        return tuple((b.id, b.name) for b in plan.boards if types[b.board_type].role == role)

    return subjects


def on_board(plan: Plan, board_id: str) -> list[tuple[Probe, str]]:
    """The probes with a line on a board, and the pin."""
    rows = []
    for probe in plan.probes:
        for a in plan.assignments:
            if a.board == board_id and a.signal.startswith(f"probe:{probe.id}."):
                rows.append((probe, a.pin))
                break
    return rows
