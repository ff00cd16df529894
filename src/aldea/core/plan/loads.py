"""What a load is made of beyond its name: stepped fans, drives, valves, two-way circuits."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.plan.base import Identifier, Name, Ohms, Part, Seconds
from aldea.core.plan.wiring import RelayRole

Nature = Literal["resistive", "motor", "lamp", "capacitive", "coil"]


class Capacitor(Part):
    """A series capacitor that a relay switches in."""

    role: RelayRole
    capacitance_uf: Annotated[float, Field(gt=0, le=1000)]


class FanStep(Part):
    """A step of a fan: which relays are closed in it."""

    name: Name
    closed: tuple[RelayRole, ...]


class SteppedFan(Part):
    """A fan in steps by relay combination: motor, capacitors, what must never close together."""

    motor_ohm: Ohms = 300.0
    motor_henry: Annotated[float, Field(gt=0, le=100)] = 0.6
    capacitors: tuple[Capacitor, ...] = (
        Capacitor(role="c1", capacitance_uf=2.2),
        Capacitor(role="c2", capacitance_uf=3.3),
    )
    steps: Annotated[tuple[FanStep, ...], Field(min_length=1, max_length=15)] = (
        FanStep(name="1", closed=("c1",)),
        FanStep(name="2", closed=("c2",)),
        FanStep(name="3", closed=("c1", "c2")),
        FanStep(name="4", closed=("direct",)),
    )
    never_together: tuple[tuple[RelayRole, RelayRole], ...] = (("c1", "direct"), ("c2", "direct"))
    dead_time_s: Annotated[float, Field(ge=0.02, le=60)] = 0.5
    bleed_ohm: Ohms | None = 470_000.0
    safe_v: Annotated[float, Field(gt=0, le=120)] = 60.0

    @property
    def roles(self) -> tuple[str, ...]:
        """Every relay that a step names, in the order of first mention."""
        return tuple(dict.fromkeys(role for step in self.steps for role in step.closed))

    def reachable(self, step: FanStep) -> bool:
        """Whether no forbidden pair stands in the step's combination."""
        return not any(a in step.closed and b in step.closed for a, b in self.never_together)


class PulseDrive(Part):
    """A drive that one pulse opens, stops or shuts, parallel to its own button."""

    pulse_s: Annotated[float, Field(ge=0.05, le=10)] = 0.5
    travel_s: Annotated[float, Field(gt=0, le=600)] = 25.0
    position: Literal["contacts", "distance"] = "contacts"
    open_contact: Identifier | None = None
    shut_contact: Identifier | None = None
    distance_probe: Identifier | None = None


class Valve(Part):
    """A valve: how it stands without supply, and how many contacts are in series."""

    at_rest: Literal["open", "shut"] = "shut"
    in_series: Annotated[int, Field(ge=1, le=2)] = 1


class TwoWay(Part):
    """A two-way circuit: a wall switch and a relay, either of which toggles the lamp."""

    sense: Identifier | None = None
    settle_s: Annotated[float, Field(ge=0.05, le=10)] = 0.5


class Pattern(Part):
    """How a lamp or a sounder shows itself: seconds on, seconds off, again and again."""

    on_s: Seconds = 0.5
    off_s: Seconds = 0.5
