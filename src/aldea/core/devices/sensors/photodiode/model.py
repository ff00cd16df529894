"""A photodiode with its amplifier: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Ohms
from aldea.core.devices.sensors.analog.model import VoltageSensor
from aldea.core.devices.sensors.facts import SensorFacts


class Photodiode(VoltageSensor):
    """A photodiode with its amplifier: A/W, mm², Ω of feedback, nA in the dark."""

    kind: Literal["photodiode"] = "photodiode"
    responsivity_a_per_w: Annotated[float, Field(gt=0, le=2)] = 0.5
    area_mm2: Annotated[float, Field(gt=0, le=1000)] = 1.0
    feedback_ohm: Ohms = 20_000.0
    dark_na: Annotated[float, Field(ge=0, le=1e6)] = 1.0


PHOTODIODE = SensorFacts(
    kind="photodiode",
    name="photodiode with amplifier",
    model=Photodiode,
    measures=("illuminance",),
)
