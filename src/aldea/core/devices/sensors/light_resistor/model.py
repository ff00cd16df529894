"""A photoresistor in a divider: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Ohms, Part
from aldea.core.devices.sensors.facts import SensorFacts
from aldea.core.physics.divider import Side


class LightResistor(Part):
    """A photoresistor in a divider: resistance at 10 lx, its gamma, the wanted threshold.

    `own_lamp_lux` is what the lamp that it switches adds to its reading.
    """

    kind: Literal["light_resistor"] = "light_resistor"
    r10_ohm: Ohms = 20_000.0
    gamma_1: Annotated[float, Field(gt=0.1, lt=2)] = 0.7
    fixed_ohm: Ohms = 10_000.0
    side: Side = "sensor_high"
    threshold_lux: Annotated[float, Field(gt=0, le=200_000)] = 20.0
    own_lamp_lux: Annotated[float, Field(ge=0, le=200_000)] = 0.0


LIGHT_RESISTOR = SensorFacts(
    kind="light_resistor",
    name="photoresistor in a divider",
    model=LightResistor,
    own_figures=("own_lamp_lux",),
    measures=("illuminance",),
)
