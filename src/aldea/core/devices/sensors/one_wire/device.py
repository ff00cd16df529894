"""A digital sensor on a single shared wire in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.figures import ohms
from aldea.core.devices.asked import Asks
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
        "supply_v": SUPPLY_V,
        "supply_ma": SUPPLY_MA,
        "shortest_interval_s": SHORTEST_INTERVAL,
    }

    def signals(self, probe: Probe, sensor: OneWireSensor) -> Iterator[Signal]:
        """One line, both ways."""
        yield probe_signal(probe, "data", "digital_in", "digital_out", share="one_wire")

    def supply(self, sensor: OneWireSensor) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma

    def note(self, sensor: OneWireSensor, line: str, pin: str) -> str:
        """The pull-up that a wire needs once."""
        return f"{ohms(BUS_PULL_OHM)} pull-up once a wire"


DEVICE = OneWireDevice()
