"""The mains strip X1: which terminal each switched conductor leaves the panel by."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from aldea.core.base.memo import per_plan
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Load, Plan
from aldea.core.wiring.given import TERMINAL, numbered


@dataclass(frozen=True, slots=True, kw_only=True)
class Terminal:
    """A mains terminal of the strip X1 with the load that hangs on it."""

    label: str
    load: str
    relay: str


@per_plan
def terminal_numbers(plan: Plan) -> dict[str, int]:
    """The number of each place on the strip, by load and role; the same through later edits."""
    keys = [key for key, _, _ in _places(plan)]
    return dict(zip(keys, numbered(plan, keys, first=1, terminals=True), strict=True))


def _places(plan: Plan) -> Iterator[tuple[str, Load, tuple[tuple[str, str], ...]]]:
    """Each place on the strip: its key, its load, and the sides of it."""
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        roles = {relay.id: relay.role for relay in relays}
        for sides in load_device(load).strip(relays) if relays and load.on_mains else ():
            yield f"{TERMINAL}{load.id}/{roles.get(sides[0][1], 'on')}", load, sides


@per_plan
def terminals(plan: Plan) -> tuple[Terminal, ...]:
    """The strip: one number a switched conductor, or a pair of them; in the plan's order."""
    numbers = terminal_numbers(plan)
    return tuple(
        Terminal(label=f"{numbers[key]}{side}", load=load.id, relay=relay)
        for key, load, sides in _places(plan)
        for side, relay in sides
    )


@per_plan
def terminals_by_load(plan: Plan) -> dict[str, list[Terminal]]:
    """The terminals of each load."""
    by_load: dict[str, list[Terminal]] = defaultdict(list)
    for terminal in terminals(plan):
        by_load[terminal.load].append(terminal)
    return by_load
