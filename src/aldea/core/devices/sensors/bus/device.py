"""A digital sensor on the two-wire bus in a plan: data, clock, an address."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.addresses import address_words, read_address
from aldea.core.base.figures import ohms
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.conductor import BUS_PULL_OHM
from aldea.core.devices.sensors.bus.model import BUS, BusSensor
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import SHORTEST_INTERVAL, SUPPLY_MA, SUPPLY_V
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe

ADDRESS = Asked(
    label="Bus address",
    note="hex or decimal",
    write=address_words,
    read=read_address,
    example="0 to 127, as 0x44 or 68",
)


class BusDevice(SensorDevice[BusSensor]):
    """It shares data and clock with all others of its bus; its address tells it apart."""

    facts = BUS
    asks: ClassVar[Asks] = {
        "address": ADDRESS,
        "supply_v": SUPPLY_V,
        "supply_ma": SUPPLY_MA,
        "shortest_interval_s": SHORTEST_INTERVAL,
    }

    def signals(self, probe: Probe, sensor: BusSensor) -> Iterator[Signal]:
        """Data, which carries the address, and clock; pull-ups on the part bring its volts."""
        volts = sensor.supply_v
        yield probe_signal(
            probe, "data", "bus_data", share="bus_data", address=sensor.address, volts=volts
        )
        yield probe_signal(probe, "clock", "bus_clock", share="bus_clock", volts=volts)

    def supply(self, sensor: BusSensor) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma

    def note(self, sensor: BusSensor, line: str, pin: str) -> str:
        """Its address, and the pull-ups that a bus needs once."""
        if line != "data":
            return ""
        pulls = f"{ohms(BUS_PULL_OHM)} pull-ups to the board’s logic supply, once a bus"
        return f"address 0x{sensor.address:02x}; {pulls}"

    def address(self, sensor: BusSensor) -> int | None:
        """Seven bits."""
        return sensor.address


DEVICE = BusDevice()
