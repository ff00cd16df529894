"""A sensor with a voltage out, in a plan."""

from aldea.core.devices.sensors.analog.model import ANALOG, AnalogSensor
from aldea.core.devices.sensors.voltage import VoltageDevice


class AnalogDevice(VoltageDevice[AnalogSensor]):
    """Nothing beyond what gives a voltage."""

    facts = ANALOG


DEVICE = AnalogDevice()
