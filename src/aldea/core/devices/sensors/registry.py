"""Every kind of sensor with what it does in a plan; the rest of the code asks here."""

from typing import Any

from aldea.core.devices.sensors.analog import device as analog
from aldea.core.devices.sensors.bus import device as bus
from aldea.core.devices.sensors.contact import device as contact
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.echo import device as echo
from aldea.core.devices.sensors.gas import device as gas
from aldea.core.devices.sensors.leak_tape import device as leak_tape
from aldea.core.devices.sensors.light_resistor import device as light_resistor
from aldea.core.devices.sensors.mains_sense import device as mains_sense
from aldea.core.devices.sensors.motion import device as motion
from aldea.core.devices.sensors.one_wire import device as one_wire
from aldea.core.devices.sensors.photodiode import device as photodiode
from aldea.core.devices.sensors.pulse import device as pulse
from aldea.core.devices.sensors.serial import device as serial
from aldea.core.devices.sensors.thermistor import device as thermistor
from aldea.core.plan.document import Probe

SENSOR_DEVICES: dict[str, SensorDevice[Any]] = {
    module.DEVICE.facts.kind: module.DEVICE
    for module in (
        light_resistor,
        photodiode,
        echo,
        bus,
        one_wire,
        thermistor,
        gas,
        analog,
        leak_tape,
        motion,
        serial,
        mains_sense,
        contact,
        pulse,
    )
}


def sensor_device(probe: Probe) -> SensorDevice[Any] | None:
    """What a probe's kind of sensor does; None while it is open how the probe is made."""
    return SENSOR_DEVICES[probe.sensor.kind] if probe.sensor is not None else None


def supply_ma(probe: Probe) -> float:
    """What a probe's sensor takes from its board's rail, mA."""
    device = sensor_device(probe)
    rail = device.supply(probe.sensor) if device is not None else None
    return rail[1] if rail is not None else 0.0


def supply_v(probe: Probe) -> float | None:
    """The volts of the rail that a probe's sensor wants; None where it wants none."""
    device = sensor_device(probe)
    rail = device.supply(probe.sensor) if device is not None else None
    return rail[0] if rail is not None else None
