"""A photodiode with its amplifier in a plan."""

from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.sensors.photodiode.model import PHOTODIODE, Photodiode
from aldea.core.devices.sensors.voltage import VOLTAGE_ASKS, VoltageDevice


class PhotodiodeDevice(VoltageDevice[Photodiode]):
    """Its amplifier's figures tell light from volts."""

    facts = PHOTODIODE
    asks: ClassVar[Asks] = {
        **VOLTAGE_ASKS,
        "responsivity_a_per_w": Asked(label="Responsivity", unit="A/W"),
        "area_mm2": Asked(label="Active area", unit="mm²"),
        "feedback_ohm": Asked(label="Feedback", unit="Ω"),
        "dark_na": Asked(label="In the dark", unit="nA"),
    }


DEVICE = PhotodiodeDevice()
