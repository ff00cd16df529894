"""A load behind a plain relay, in a plan."""

from aldea.core.devices.loads.device import LoadDevice
from aldea.core.devices.loads.relay.model import RELAY


class RelayDevice(LoadDevice):
    """Nothing beyond what every load does."""

    facts = RELAY


DEVICES = (RelayDevice(),)
