"""A leak tape: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Ohms, Part
from aldea.core.devices.sensors.facts import SensorFacts
from aldea.core.physics.divider import Side


class LeakTape(Part):
    """A leak tape: the resistor across its far end, the one in the divider, and what is wet.

    `side` says where the tape stands: between pin and plus it reads high when wet, between pin and
    0 V low. Thresholds are kept as they were entered: ohms (`damp_ohm`; without it a usual share of
    the far end), or percent of the stored dry baseline, which then moves them. How it is read
    (samples averaged, readings in a row, interval) is kept with them.
    """

    kind: Literal["leak_tape"] = "leak_tape"
    end_of_line_ohm: Ohms | None = 470_000.0
    fixed_ohm: Ohms = 470_000.0
    wet_ohm: Ohms = 60_000.0
    damp_ohm: Ohms | None = None
    excitation: Literal["constant", "pulsed", "alternating"] = "pulsed"
    side: Side = "sensor_high"
    input_nf: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    thresholds: Literal["ohms", "percent"] = "ohms"
    baseline_counts: Annotated[float, Field(gt=0, le=2**24)] | None = None
    damp_pct: Annotated[float, Field(gt=0, le=1000)] = 5.0
    wet_pct: Annotated[float, Field(gt=0, le=1000)] = 20.0
    samples: Annotated[int, Field(ge=1, le=1000)] = 4
    in_a_row: Annotated[int, Field(ge=1, le=20)] = 3
    interval_s: Annotated[float, Field(ge=0.1, le=86_400)] = 60.0


LEAK_TAPE = SensorFacts(
    kind="leak_tape",
    name="leak tape",
    model=LeakTape,
    own_figures=("baseline_counts",),
    measures=("leak",),
)
