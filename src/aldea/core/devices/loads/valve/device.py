"""A valve in a plan: one contact, or two in series so that both must weld to fail."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.conductor import Conductor
from aldea.core.devices.loads.device import LoadDevice, Roles
from aldea.core.devices.loads.mains import MainsWires, Strip
from aldea.core.devices.loads.valve.model import VALVE
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.panel import RelayOutput

IN_SERIES = 2


class ValveDevice(LoadDevice):
    """It is open or shut, and stands one way without supply."""

    facts = VALVE
    title = "Valve"
    state_words = ("Shut", "Open")
    in_series = True
    asks: ClassVar[Asks] = {
        "at_rest": Asked(label="Without supply", options=(("shut", "shut"), ("open", "open"))),
        "in_series": Asked(
            label="Switched by", options=(("1", "one contact"), ("2", "two in series"))
        ),
    }

    def roles(self, load: Load) -> Roles:
        """One contact, or two."""
        two = load.valve is not None and load.valve.in_series == IN_SERIES
        return ("on", "series") if two else ("on",)

    def states(self, load: Load) -> tuple[Roles, ...]:
        """Shut, then open: its contacts conduct in the state in which it does not rest."""
        moved = self.roles(load)
        at_rest = load.valve.at_rest if load.valve is not None else "shut"
        return (moved, ()) if at_rest == "open" else ((), moved)

    def strip(self, relays: tuple[RelayOutput, ...]) -> Strip:
        """One terminal, behind the last contact."""
        return ((("", relays[-1].id),),)

    def mains(self, load: Load, plan: Plan, wires: MainsWires) -> Iterator[Conductor]:
        """Through each contact in turn."""
        first = wires.labels[0]
        end = wires.live
        for relay, mark in zip(plan.relays_of(load.id), (first, f"{first}s"), strict=False):
            end = yield from wires.through(relay, end, mark)
        yield from wires.to_load(end, first)


DEVICES = (ValveDevice(),)
