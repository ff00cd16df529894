"""A motion detector: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Identifier, MilliAmperes, Part, Volts
from aldea.core.devices.sensors.facts import SensorFacts


class MotionSensor(Part):
    """A motion detector with one line that is high while something moves, and its hold time.

    As the outer one of a doorway pair it names the inner one and the longest gap between the two.
    """

    kind: Literal["motion"] = "motion"
    hold_s: Annotated[float, Field(ge=0, le=86_400)] = 0.0
    inner: Identifier | None = None
    longest_gap_s: Annotated[float, Field(ge=0, le=60)] = 0.0
    output_v: Volts = 3.3
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 1.0


MOTION = SensorFacts(
    kind="motion",
    name="motion detector",
    model=MotionSensor,
    measures=("presence",),
)
