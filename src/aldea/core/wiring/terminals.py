"""The mains strip X1: which terminal each switched conductor leaves the panel by."""

from collections import defaultdict
from dataclasses import dataclass

from aldea.core.base.memo import per_plan
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Terminal:
    """A mains terminal of the strip X1 with the load that hangs on it."""

    label: str
    load: str
    relay: str


@per_plan
def terminals(plan: Plan) -> tuple[Terminal, ...]:
    """The strip: one number a switched conductor, or a pair of them; in the plan's order."""
    made: list[Terminal] = []
    number = 0
    for load in plan.loads:
        relays = plan.relays_of(load.id)
        for sides in load_device(load).strip(relays) if relays and load.on_mains else ():
            number += 1
            made += [
                Terminal(label=f"{number}{side}", load=load.id, relay=relay)
                for side, relay in sides
            ]
    return tuple(made)


@per_plan
def terminals_by_load(plan: Plan) -> dict[str, list[Terminal]]:
    """The terminals of each load."""
    found: dict[str, list[Terminal]] = defaultdict(list)
    for terminal in terminals(plan):
        found[terminal.load].append(terminal)
    return found
