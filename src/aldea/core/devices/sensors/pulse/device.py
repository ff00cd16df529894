"""A meter that gives pulses, in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asks
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import OUTPUT_V
from aldea.core.devices.sensors.pulse.model import PULSE, PulseSensor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe


class PulseDevice(SensorDevice[PulseSensor]):
    """One line whose pulses are counted."""

    facts = PULSE
    asks: ClassVar[Asks] = {"output_v": OUTPUT_V}

    def signals(self, probe: Probe, sensor: PulseSensor) -> Iterator[Signal]:
        """One line."""
        yield probe_signal(probe, "out", "pulse_in", volts=sensor.output_v)

    def arriving_v(self, sensor: PulseSensor) -> float:
        """Its own level."""
        return sensor.output_v


DEVICE = PulseDevice()
