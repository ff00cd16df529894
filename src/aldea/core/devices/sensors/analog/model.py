"""A sensor with a voltage out: its figures."""

from typing import Literal

from aldea.core.base.parts import MilliAmperes, Ohms, Part, Volts
from aldea.core.devices.sensors.facts import SensorFacts


class VoltageSensor(Part):
    """What gives a voltage: its highest volts, and the divider that brings it down."""

    highest_v: Volts = 3.3
    upper_ohm: Ohms | None = None
    lower_ohm: Ohms | None = None
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 5.0


class AnalogSensor(VoltageSensor):
    """A sensor with a voltage out."""

    kind: Literal["analog"] = "analog"


ANALOG = SensorFacts(
    kind="analog",
    name="sensor with a voltage out",
    model=AnalogSensor,
    measures=("relative_humidity", "gas_hint"),
)
