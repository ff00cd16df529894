"""The terminals that a board has beside its pins: 0 V, its feed, its rails, its reference."""

from aldea.core.plan.panel import BoardType

ZERO = "0 V"
NEAR_1 = 0.05


def rail_terminal(kind: BoardType, volts: float) -> str | None:
    """The rail that gives about so many volts, as its terminal is called; None where none does."""
    for rail in sorted(kind.rails_v, key=lambda rail: abs(rail - volts)):
        if abs(rail - volts) <= NEAR_1 * volts:
            return f"+{rail:g} V"
    return None


def reference_terminal(kind: BoardType) -> str | None:
    """Where its converter's reference can be taken; None where it has no converter."""
    return f"+{kind.converter_v:g} V ref" if kind.converter_bits else None


def feed_terminal(kind: BoardType) -> str:
    """Where it is fed."""
    return f"+{kind.supply_v:g} V"


def board_terminals(kind: BoardType) -> frozenset[str]:
    """Every terminal of a board: pins, 0 V, feed, rails, reference; a hung board's bus lines."""
    names = {pin.name for pin in kind.pins} | {ZERO, feed_terminal(kind)}
    names |= {f"+{rail:g} V" for rail in kind.rails_v}
    reference = reference_terminal(kind)
    if reference is not None:
        names.add(reference)
    if kind.role == "expander":
        names |= {"data", "clock"}
    if kind.role == "multiplexer":
        names |= {"common", "enable", *(f"s{line}" for line in range(kind.address_lines))}
    return frozenset(names)
