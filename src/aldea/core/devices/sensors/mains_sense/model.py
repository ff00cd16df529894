"""An isolated detector across a switched mains output."""

from typing import Literal

from aldea.core.base.parts import Part
from aldea.core.devices.sensors.facts import SensorFacts


class MainsSense(Part):
    """An isolated detector across a switched mains output: it tells what the lamp really does."""

    kind: Literal["mains_sense"] = "mains_sense"


MAINS_SENSE = SensorFacts(
    kind="mains_sense",
    name="mains-sensing input, isolated",
    model=MainsSense,
    measures=("sensed_output",),
)
