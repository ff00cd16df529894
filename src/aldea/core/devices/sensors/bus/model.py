"""A digital sensor on the two-wire bus: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import MilliAmperes, Part, Volts
from aldea.core.devices.sensors.facts import ReadingInterval, SensorFacts


class BusSensor(Part):
    """A digital sensor on the two-wire bus with an address of 7 bits."""

    kind: Literal["bus"] = "bus"
    address: Annotated[int, Field(ge=0, le=127)]
    supply_v: Volts = 3.3
    supply_ma: MilliAmperes = 2.5
    shortest_interval_s: ReadingInterval = 0.5


BUS = SensorFacts(
    kind="bus",
    name="digital, two-wire bus",
    model=BusSensor,
    measures=("air_temperature", "relative_humidity", "air_pressure", "illuminance", "distance"),
    together=("air_temperature", "relative_humidity", "air_pressure", "illuminance"),
)
