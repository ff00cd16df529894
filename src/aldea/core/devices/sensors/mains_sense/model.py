"""An isolated detector across a switched mains output."""

from typing import Literal

from aldea.core.base.parts import Part
from aldea.core.devices.sensors.facts import SensorFacts


class MainsSense(Part):
    """A detector across a switched mains output: it tells what the lamp really does.

    One with a leg tied to neutral is known, so that it can be refused: it puts the board at mains.
    """

    kind: Literal["mains_sense"] = "mains_sense"
    isolation: Literal["isolated", "tied_to_neutral"] = "isolated"


MAINS_SENSE = SensorFacts(
    kind="mains_sense",
    name="mains-sensing input, isolated",
    model=MainsSense,
    measures=("sensed_output",),
)
