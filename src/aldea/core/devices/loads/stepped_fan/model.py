"""A fan in steps by relay combination: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, Name, Ohms, Part
from aldea.core.devices.loads.facts import LoadFacts


class Capacitor(Part):
    """A series capacitor that a relay switches in."""

    role: Identifier
    capacitance_uf: Annotated[float, Field(gt=0, le=1000)]


class FanStep(Part):
    """A step of a fan: which relays are closed in it."""

    name: Name
    closed: tuple[Identifier, ...]


class SteppedFan(Part):
    """A fan in steps by relay combination: motor, capacitors, what must never close together.

    `basis` tells whether the motor's figures were measured. `surge_ohm` stands in the line of each
    capacitor, where one may be closed onto another that holds a charge.
    """

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
    never_together: tuple[tuple[Identifier, Identifier], ...] = (("c1", "direct"), ("c2", "direct"))
    dead_time_s: Annotated[float, Field(ge=0.02, le=60)] = 0.5
    bleed_ohm: Ohms | None = 470_000.0
    safe_v: Annotated[float, Field(gt=0, le=120)] = 60.0
    basis: Literal["estimated", "measured"] = "estimated"
    surge_ohm: Ohms | None = None

    @property
    def roles(self) -> tuple[str, ...]:
        """Every relay that a step names, in the order of first mention."""
        return tuple(dict.fromkeys(role for step in self.steps for role in step.closed))

    def reachable(self, step: FanStep) -> bool:
        """Whether no forbidden pair stands in the step's combination."""
        return not any(a in step.closed and b in step.closed for a, b in self.never_together)


STEPPED_FAN = LoadFacts(
    kind="stepped",
    name="fan in steps",
    usual_class="air",
    usual_nature="motor",
    figures="stepped",
    model=SteppedFan,
)
