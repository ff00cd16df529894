"""A meter that gives pulses: its figures."""

from typing import Literal

from aldea.core.base.parts import Part, Volts
from aldea.core.devices.sensors.facts import SensorFacts


class PulseSensor(Part):
    """A meter that gives pulses."""

    kind: Literal["pulse"] = "pulse"
    output_v: Volts = 3.3


PULSE = SensorFacts(
    kind="pulse",
    name="pulse meter",
    model=PulseSensor,
    measures=("count",),
)
