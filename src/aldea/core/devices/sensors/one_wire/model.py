"""A digital sensor on a single shared wire: its figures."""

from typing import Annotated, Literal

from pydantic import StringConstraints

from aldea.core.base.parts import MilliAmperes, Part, Volts
from aldea.core.devices.sensors.facts import ReadingInterval, SensorFacts


class OneWireSensor(Part):
    """A digital sensor on a single shared data wire with a 4.7 kΩ pull-up; its own 64-bit code."""

    kind: Literal["one_wire"] = "one_wire"
    code: Annotated[str, StringConstraints(pattern=r"^([0-9a-f]{16})?$")] = ""
    supply_v: Volts = 3.3
    supply_ma: MilliAmperes = 1.5
    shortest_interval_s: ReadingInterval = 2.0


ONE_WIRE = SensorFacts(
    kind="one_wire",
    name="digital, single wire",
    model=OneWireSensor,
    measures=("air_temperature", "relative_humidity"),
    together=("air_temperature", "relative_humidity"),
)
