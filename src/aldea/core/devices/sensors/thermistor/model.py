"""A thermistor in a divider: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Ohms, Part, Volts
from aldea.core.devices.sensors.facts import SensorFacts
from aldea.core.physics.divider import Side


class Thermistor(Part):
    """A thermistor in a divider: resistance at 25 °C, B value, the fixed resistor and its side.

    `curve` are Steinhart–Hart coefficients (A, B, C; K⁻¹, ln Ω) where three or more points gave
    them; they go before the B value. `supply_v` feeds the divider where that is not what the
    converter compares with; None means ratiometric.
    """

    kind: Literal["thermistor"] = "thermistor"
    r25_ohm: Ohms = 10_000.0
    beta_k: Annotated[float, Field(ge=1000, le=8000)] = 3950.0
    fixed_ohm: Ohms = 10_000.0
    side: Side = "sensor_low"
    curve: tuple[float, float, float] | None = None
    supply_v: Volts | None = None


THERMISTOR = SensorFacts(
    kind="thermistor",
    name="thermistor in a divider",
    model=Thermistor,
    measures=("air_temperature",),
)
