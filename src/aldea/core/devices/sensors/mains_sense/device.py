"""An isolated detector across a switched mains output, in a plan."""

from collections.abc import Iterator

from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.mains_sense.model import MAINS_SENSE, MainsSense
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe


class MainsSenseDevice(SensorDevice[MainsSense]):
    """Its output side is a contact that wants a pull-up."""

    facts = MAINS_SENSE

    def signals(self, probe: Probe, sensor: MainsSense) -> Iterator[Signal]:
        """One line."""
        yield probe_signal(probe, "out", "digital_in", wants_pull=True)


DEVICE = MainsSenseDevice()
