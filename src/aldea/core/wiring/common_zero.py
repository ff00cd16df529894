"""Which supplies must share their 0 V: a signal between two of them needs a way back.

A transistor is switched by volts between its gate and its own 0 V; a sensor's signal is volts
against the sensor's 0 V. Where load or sensor and the board that reads or drives it are fed by two
supplies, a conductor joins the two minus terminals. Relays keep the two sides apart and need none.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from aldea.core.base.memo import per_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Board, Supply
from aldea.core.plan.seats import home_of, seat_of
from aldea.core.wiring.board_terminals import ZERO
from aldea.core.wiring.signals import signals


@dataclass(frozen=True, slots=True, kw_only=True)
class ZeroLink:
    """A conductor from the minus terminal of a supply to another's 0 V, and for whom it is."""

    supply: Supply
    start: str
    end: str
    needed_by: tuple[str, ...]


@per_plan
def zero_links(plan: Plan) -> tuple[ZeroLink, ...]:
    """One link for each pair of supplies whose things speak with each other, in plan order."""
    links: dict[tuple[str, str], tuple[Supply, list[str]]] = {}
    for supply, board, name in _across(plan):
        end = zero_of(plan, board)
        if end == _minus(supply) or (end, _minus(supply)) in links:
            continue
        links.setdefault((_minus(supply), end), (supply, []))[1].append(name)
    return tuple(
        ZeroLink(supply=supply, start=start, end=end, needed_by=tuple(dict.fromkeys(names)))
        for (start, end), (supply, names) in links.items()
    )


def _across(plan: Plan) -> Iterator[tuple[Supply, Board, str]]:
    """Everything that one supply feeds and a board drives or reads without a relay between."""
    for relay in plan.relays:
        load, seat = plan.load(relay.load), seat_of(plan, f"relay:{relay.id}.coil")
        coils = plan.supply(relay.coil_fed_by)
        if coils is not None and seat is not None and relay.transistor is None:
            yield coils, home_of(plan, seat[0]), f"{relay.id.upper()}’s coil"
        supply = plan.supply(load.supply) if load is not None and not load.on_mains else None
        if relay.transistor is None or load is None or supply is None or seat is None:
            continue
        if supply.gives == "dc":
            yield supply, home_of(plan, seat[0]), load.name
    for signal in signals(plan):
        kind, _, part_id = signal.owner.partition(":")
        probe = plan.probe(part_id) if kind == "probe" else None
        seat = seat_of(plan, signal.id)
        if probe is None or probe.fed_by is None or seat is None:
            continue
        feeder = plan.board(probe.fed_by)
        supply = plan.supply(probe.fed_by if feeder is None else home_of(plan, feeder).supply)
        if supply is not None and supply.gives == "dc":
            yield supply, home_of(plan, seat[0]), probe.name


def _minus(supply: Supply) -> str:
    return f"{supply.name}:−"


def zero_of(plan: Plan, board: Board) -> str:
    """The minus terminal that a board's 0 V is joined to; its own while nothing feeds it."""
    own = plan.supply(board.supply)
    return _minus(own) if own is not None else f"{board.name}:{ZERO}"
