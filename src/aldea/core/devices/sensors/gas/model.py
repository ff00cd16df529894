"""A heated gas or smoke sensor: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import MilliAmperes, Volts
from aldea.core.devices.sensors.analog.model import VoltageSensor
from aldea.core.devices.sensors.facts import SensorFacts


class GasSensor(VoltageSensor):
    """A heated gas or smoke sensor: its warm-up, volts in clean air, the ratio that speaks."""

    kind: Literal["gas"] = "gas"
    highest_v: Volts = 5.0
    supply_ma: MilliAmperes = 150.0
    warm_up_s: Annotated[float, Field(ge=0, le=259_200)] = 180.0
    clean_air_v: Annotated[float, Field(gt=0, le=60)] | None = None
    alarm_ratio_1: Annotated[float, Field(gt=1, le=100)] = 1.5


GAS = SensorFacts(
    kind="gas",
    name="heated gas or smoke sensor",
    model=GasSensor,
    own_figures=("clean_air_v",),
    measures=("gas_hint",),
)
