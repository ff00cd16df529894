"""A heated gas or smoke sensor in a plan."""

from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.sensors.gas.model import GAS, GasSensor
from aldea.core.devices.sensors.voltage import VOLTAGE_ASKS, VoltageDevice


class GasDevice(VoltageDevice[GasSensor]):
    """Its warm-up, its clean air and its ratio are found at its bench."""

    facts = GAS
    asks: ClassVar[Asks] = {
        **VOLTAGE_ASKS,
        "warm_up_s": Asked(label="Warms up for", unit="s"),
        "clean_air_v": Asked(label="In clean air", unit="V"),
        "alarm_ratio_1": Asked(label="Speaks at", unit="times that"),
    }


DEVICE = GasDevice()
