"""A digital sensor on a single shared wire in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.figures import ohms
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.conductor import BUS_PULL_OHM
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import SHORTEST_INTERVAL, SUPPLY_MA, SUPPLY_V
from aldea.core.devices.sensors.one_wire.model import ONE_WIRE, OneWireSensor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe


class OneWireDevice(SensorDevice[OneWireSensor]):
    """Many share one data wire; its own code tells it apart."""

    facts = ONE_WIRE
    asks: ClassVar[Asks] = {
        "wire": Asked(
            label="Its data wire",
            options=(
                ("", "usual: its own if it gives humidity"),
                ("shared", "shared: its 64-bit code tells it apart"),
                ("alone", "its own: it has no code"),
            ),
        ),
        "supply_v": SUPPLY_V,
        "supply_ma": SUPPLY_MA,
        "shortest_interval_s": SHORTEST_INTERVAL,
    }

    def signals(self, probe: Probe, sensor: OneWireSensor) -> Iterator[Signal]:
        """One line, both ways."""
        yield probe_signal(
            probe,
            "data",
            "digital_in",
            "digital_out",
            share="one_wire",
            volts=sensor.supply_v,
        )

    def alone(self, sensor: OneWireSensor, quantities: frozenset[str]) -> bool:
        """Without a code of its own it cannot be told from another on the wire.

        Where nobody said, a part that gives humidity has none, and a thermometer has one.
        """
        if sensor.wire is not None:
            return sensor.wire == "alone"
        return not sensor.code and "relative_humidity" in quantities

    def supply(self, sensor: OneWireSensor) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma

    def note(self, sensor: OneWireSensor, line: str, pin: str) -> str:
        """The pull-up that a wire needs once."""
        return f"{ohms(BUS_PULL_OHM)} pull-up to the board’s logic supply, once a wire"


DEVICE = OneWireDevice()
