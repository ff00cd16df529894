"""Where signals sit: the pin and the board of each, who reads it, what a coil does at the start."""

from aldea.core.base.memo import per_plan
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment, Board, BoardType, Pin, RelayOutput, Supply


@per_plan
def assignment_of(plan: Plan) -> dict[str, Assignment]:
    """Which pin each signal sits on."""
    return {row.signal: row for row in plan.assignments}


def seat_of(plan: Plan, signal: str) -> tuple[Board, str] | None:
    """Board and pin of a signal; None while it has none."""
    row = assignment_of(plan).get(signal)
    board = plan.board(row.board) if row else None
    return (board, row.pin) if row and board else None


def pin_of(plan: Plan, signal: str) -> Pin | None:
    """The pin that a signal sits on, as its board's table has it."""
    seat = seat_of(plan, signal)
    if seat is None:
        return None
    kind = board_types(plan).get(seat[0].board_type)
    return kind.pin(seat[1]) if kind else None


def home_of(plan: Plan, board: Board) -> Board:
    """The board whose supply terminals serve what sits on a board: for a hung board its host."""
    host = plan.board(board.host) if board.host else None
    return host or board


def coil_supply(plan: Plan, relay: RelayOutput) -> Supply | None:
    """What feeds a relay's coil: the supply that it names, else that of its board; None unknown."""
    if relay.coil_fed_by is not None:
        return plan.supply(relay.coil_fed_by)
    seat = seat_of(plan, f"relay:{relay.id}.coil")
    return plan.supply(home_of(plan, seat[0]).supply) if seat is not None else None


def reader_of(plan: Plan, signal: str) -> BoardType | None:
    """The controller that reads a signal; for one behind a multiplexer, its host."""
    seat = seat_of(plan, signal)
    return board_types(plan)[home_of(plan, seat[0]).board_type] if seat else None


def boot_coil(relay: RelayOutput, plan: Plan) -> bool | None:
    """Whether the coil is energised while the board starts; None where the pin floats undecided.

    A pull resistor keeps a pin idle that nothing drives; one that is driven it does not hold. A
    module pulls its own input to idle.
    """
    pin = pin_of(plan, f"relay:{relay.id}.coil")
    if pin is None:
        return False
    if pin.at_boot == "pulses":
        return True
    if pin.at_boot != "floating":
        return (pin.at_boot == "high") == (relay.pulls_in == "high")
    if relay.pull_ohm is not None or relay.transistor is not None:
        return False  # held by its own resistor
    if pin.boot_pull != "none":
        return (pin.boot_pull == "up") == (relay.pulls_in == "high")
    return None if relay.driver == "transistor" else False
