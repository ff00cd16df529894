"""A motion detector in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import OUTPUT_V, SUPPLY_MA, SUPPLY_V
from aldea.core.devices.sensors.motion.model import MOTION, MotionSensor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe


class MotionDevice(SensorDevice[MotionSensor]):
    """One line that is high while something moves."""

    facts = MOTION
    asks: ClassVar[Asks] = {
        "hold_s": Asked(label="Held for", unit="s"),
        "output_v": OUTPUT_V,
        "supply_v": SUPPLY_V,
        "supply_ma": SUPPLY_MA,
    }

    def signals(self, probe: Probe, sensor: MotionSensor) -> Iterator[Signal]:
        """One line."""
        yield probe_signal(probe, "out", "digital_in", volts=sensor.output_v)

    def arriving_v(self, sensor: MotionSensor) -> float:
        """Its own level."""
        return sensor.output_v

    def supply(self, sensor: MotionSensor) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma


DEVICE = MotionDevice()
