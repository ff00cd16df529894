"""A sensor on two crossed serial lines: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import MilliAmperes, Part, Volts
from aldea.core.devices.sensors.facts import Energy, ReadingInterval, SensorFacts


class SerialSensor(Part):
    """A sensor that talks over two crossed serial lines, such as a presence radar.

    `gates` are a radar's thresholds by distance, `hold_s` how long presence is held after the last.
    """

    kind: Literal["serial"] = "serial"
    output_v: Volts = 3.3
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 80.0
    shortest_interval_s: ReadingInterval = 0.1
    gates: Annotated[tuple[Energy, ...], Field(max_length=16)] = ()
    hold_s: Annotated[float, Field(ge=0, le=86_400)] = 0.0


SERIAL = SensorFacts(
    kind="serial",
    name="serial, two crossed lines",
    model=SerialSensor,
    own_figures=("gates", "hold_s"),
    measures=("presence", "distance"),
    together=("presence", "distance"),
)
