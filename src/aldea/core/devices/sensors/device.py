"""What a kind of sensor does in a plan: what holds for most, and what each says of its own."""

from collections.abc import Iterator, Mapping
from typing import ClassVar, Generic, TypeVar

from aldea.core.base.figures import ohms
from aldea.core.base.parts import Part
from aldea.core.devices.asked import Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.conductor import Supplied
from aldea.core.devices.finding import Check
from aldea.core.devices.part_count import PartCount
from aldea.core.devices.sensors.facts import SensorFacts
from aldea.core.devices.signal import Signal
from aldea.core.plan.document import Plan, Probe

M = TypeVar("M", bound=Part)


class SensorDevice(Generic[M]):
    """One kind of sensor. A kind overrides what is its own; the rest holds as it stands here.

    `asks` are the figures that a form asks for, `resistors` those of them that are parts to buy,
    `checks` what may be wrong with a sensor of this kind, `ends` what a line is called on the part
    itself where that is not the line's own name.
    """

    facts: ClassVar[SensorFacts]
    asks: ClassVar[Asks] = {}
    checks: ClassVar[tuple[Check, ...]] = ()
    resistors: ClassVar[tuple[str, ...]] = ()
    ends: ClassVar[Mapping[str, str]] = {}

    def signals(self, probe: Probe, sensor: M) -> Iterator[Signal]:
        """Its lines, each wanting a pin."""
        raise NotImplementedError

    def end(self, sensor: M, line: str) -> str:
        """The terminal on the part that a line ends on."""
        return self.ends.get(line, line)

    def arriving_v(self, sensor: M) -> float:
        """The highest voltage that it puts on its pin, V; 0 where it puts none of its own."""
        return 0.0

    def supply(self, sensor: M) -> tuple[float, float] | None:
        """Volts of the rail that it wants and mA that it takes; None where it wants none."""
        return None

    def supplied(self, sensor: M) -> tuple[Supplied, ...]:
        """The wires that it wants beside its signals: plus and zero of its rail, or a way back."""
        rail = self.supply(sensor)
        if rail is None:
            return (Supplied(terminal="zero", end="back"),)
        return (
            Supplied(terminal="rail", end="+", volts=rail[0]),
            Supplied(terminal="zero", end="0 V"),
        )

    def note(self, sensor: M, line: str, pin: str) -> str:
        """What to know of the conductor of a line."""
        return ""

    def circuits(self, probe: Probe, sensor: M, plan: Plan) -> Iterator[Circuit]:
        """The circuit that it makes at its board, if it makes one of its own."""
        yield from ()

    def part_name(self, sensor: M) -> str:
        """What it is called on the shopping list."""
        return self.facts.name

    def parts(self, sensor: M) -> Iterator[PartCount]:
        """The sensor itself and the resistors that it needs."""
        yield PartCount(group="Sensors", part=self.part_name(sensor))
        for key in self.resistors:
            value = getattr(sensor, key)
            if value:
                yield PartCount(group="Small parts", part=f"resistor {ohms(value)}")

    def expected(self, sensor: M, line: str) -> str:
        """What an ohmmeter should show on a line before anything is switched on."""
        return ""

    def source_ohm(self, sensor: M) -> float:
        """About the resistance that it feeds an analog pin with, Ω."""
        return 0.0

    def trips_at(self, sensor: M) -> float | None:
        """The value, in its quantity's unit, at or under which it speaks of danger."""
        return None

    def divided(self, sensor: M, upper_ohm: float, lower_ohm: float) -> M | None:
        """The same behind a divider that brings its volts down; None where it takes none."""
        return None

    def highest_v(self, sensor: M) -> float:
        """The volts that it gives before any divider."""
        return self.arriving_v(sensor)

    def pulled(self, sensor: M) -> M | None:
        """The same with a pull-up resistor fitted; None where it takes none."""
        return None

    def alone(self, sensor: M, quantities: frozenset[str]) -> bool:
        """Whether it wants a line for itself that others of its kind share; by what it gives."""
        return False

    def address(self, sensor: M) -> int | None:
        """Its address on a shared bus, if it has one."""
        return None
