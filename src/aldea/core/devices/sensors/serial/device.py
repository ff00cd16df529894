"""A sensor on two crossed serial lines in a plan, such as a presence radar."""

from collections.abc import Iterator, Mapping
from typing import ClassVar

from aldea.core.base.figures import short
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import OUTPUT_V, SHORTEST_INTERVAL, SUPPLY_MA, SUPPLY_V
from aldea.core.devices.sensors.serial.model import SERIAL, SerialSensor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Plan, Probe


class SerialDevice(SensorDevice[SerialSensor]):
    """What it sends goes to the pin that receives; its gates are found at its bench."""

    facts = SERIAL
    ends: ClassVar[Mapping[str, str]] = {"rx": "TX", "tx": "RX"}
    asks: ClassVar[Asks] = {
        "output_v": OUTPUT_V,
        "supply_v": SUPPLY_V,
        "supply_ma": SUPPLY_MA,
        "shortest_interval_s": SHORTEST_INTERVAL,
        "hold_s": Asked(label="Held for", unit="s"),
    }

    def signals(self, probe: Probe, sensor: SerialSensor) -> Iterator[Signal]:
        """The line that the board receives, and the one that it sends."""
        yield probe_signal(probe, "rx", "serial_rx", volts=sensor.output_v)
        yield probe_signal(probe, "tx", "serial_tx")

    def arriving_v(self, sensor: SerialSensor) -> float:
        """Its own level."""
        return sensor.output_v

    def supply(self, sensor: SerialSensor) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma

    def note(self, sensor: SerialSensor, line: str, pin: str) -> str:
        """Crossed."""
        return "crossed: TX to RX"

    def circuits(
        self,
        probe: Probe,
        sensor: SerialSensor,
        plan: Plan,
    ) -> Iterator[Circuit]:
        """Two lines, crossed."""
        yield Circuit(
            owner=f"probe:{probe.id}",
            title=f"{probe.name}: serial, crossed",
            draws="serial",
            facts=(
                ("Its TX", "goes to the pin that receives"),
                ("Its RX", "goes to the pin that sends"),
                ("Level", f"{short(sensor.output_v)} V"),
            ),
        )


DEVICE = SerialDevice()
