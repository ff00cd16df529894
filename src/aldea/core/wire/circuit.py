"""A special circuit as it is shown: facts, a table of its states, its drawing, its caution."""

from dataclasses import dataclass, field

from aldea.core.errors import InputError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.wiring import BoardType, RelayLine
from aldea.core.wire.power import BaseResistor, base_resistor


@dataclass(frozen=True, slots=True, kw_only=True)
class Circuit:
    """A special circuit: facts as label and value, a table of its states, and its caution.

    `draws` names the drawing: two_way, stepped, drive, leak, divider, level, serial, button or
    driver.
    """

    owner: str
    title: str
    draws: str
    facts: tuple[tuple[str, str], ...]
    head: tuple[str, ...] = ()
    rows: tuple[tuple[str, ...], ...] = ()
    caution: str = ""
    values: dict[str, str] = field(default_factory=dict)


def reader_of(plan: Plan, signal: str) -> BoardType | None:
    """The controller that reads a signal; for one behind a multiplexer, its host."""
    row = next((a for a in plan.assignments if a.signal == signal), None)
    board = plan.board(row.board) if row else None
    if board is not None and board.host:
        board = plan.board(board.host)
    return board_types(plan)[board.board_type] if board else None


def driver_of(plan: Plan, relay: RelayLine) -> BaseResistor | None:
    """The base resistor of a relay's driver transistor, held against what its own pin gives.

    None while the relay has no pin, and where no standard resistor carries such a coil.
    """
    signal = f"relay:{relay.id}.coil"
    row = next((a for a in plan.assignments if a.signal == signal), None)
    kind = reader_of(plan, signal)
    board = plan.board(row.board) if row else None
    pin = board_types(plan)[board.board_type].pin(row.pin) if row and board else None
    if kind is None or pin is None:
        return None
    try:
        return base_resistor(
            coil_a=relay.coil_ma / 1000, drive_v=kind.logic_v, pin_limit_a=pin.limit_ma / 1000
        )
    except InputError:
        return None
