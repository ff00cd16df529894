"""A leak tape: its figures."""

from typing import Literal

from aldea.core.base.parts import Ohms, Part
from aldea.core.devices.sensors.facts import SensorFacts


class LeakTape(Part):
    """A leak tape: the resistor across its far end, the one in the divider, and what is wet.

    `damp_ohm` is where damp begins, found at the bench from the tape's own dry baseline; without
    it a usual share of the far end stands for it.
    """

    kind: Literal["leak_tape"] = "leak_tape"
    end_of_line_ohm: Ohms | None = 470_000.0
    fixed_ohm: Ohms = 470_000.0
    wet_ohm: Ohms = 60_000.0
    damp_ohm: Ohms | None = None
    excitation: Literal["constant", "pulsed", "alternating"] = "pulsed"


LEAK_TAPE = SensorFacts(
    kind="leak_tape",
    name="leak tape",
    model=LeakTape,
    measures=("leak",),
)
