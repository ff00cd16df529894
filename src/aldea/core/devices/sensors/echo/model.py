"""An ultrasonic distance sensor: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import MilliAmperes, Ohms, Part, Volts
from aldea.core.devices.sensors.facts import SensorFacts


class EchoSensor(Part):
    """An ultrasonic distance sensor: a trigger in, an echo out that a divider may bring down.

    Something is there when it reads nearer than `occupied_below_m`.
    """

    kind: Literal["echo"] = "echo"
    output_v: Volts = 5.0
    upper_ohm: Ohms | None = None
    lower_ohm: Ohms | None = None
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 15.0
    occupied_below_m: Annotated[float, Field(gt=0, le=20)] | None = None


ECHO = SensorFacts(
    kind="echo",
    name="ultrasonic, trigger and echo",
    model=EchoSensor,
    measures=("distance",),
)
