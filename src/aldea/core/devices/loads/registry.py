"""Every kind of load with what it does in a plan; the rest of the code asks here."""

from aldea.core.devices.loads.device import LoadDevice
from aldea.core.devices.loads.indicator import device as indicator
from aldea.core.devices.loads.outlet import device as outlet
from aldea.core.devices.loads.pulse_drive import device as pulse_drive
from aldea.core.devices.loads.relay import device as relay
from aldea.core.devices.loads.stepped_fan import device as stepped_fan
from aldea.core.devices.loads.two_way import device as two_way
from aldea.core.devices.loads.valve import device as valve
from aldea.core.plan.document import Load

LOAD_DEVICES: dict[str, LoadDevice] = {
    made.facts.kind: made
    for module in (relay, two_way, stepped_fan, pulse_drive, valve, outlet, indicator)
    for made in module.DEVICES
}


def load_device(load: Load) -> LoadDevice:
    """What a load's kind does."""
    return LOAD_DEVICES[load.kind]
