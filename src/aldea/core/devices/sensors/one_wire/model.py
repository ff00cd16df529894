"""A digital sensor on a single shared wire: its figures."""

from typing import Annotated, Literal

from aldea.core.base.parts import MilliAmperes, Part, Volts, text_of
from aldea.core.devices.sensors.facts import ReadingInterval, SensorFacts


class OneWireSensor(Part):
    """A digital sensor on a single data wire with a 4.7 kΩ pull-up.

    With a 64-bit code of its own it shares the wire with others; one that has none wants a wire to
    itself. `wire` None: as parts of what it measures mostly are.
    """

    kind: Literal["one_wire"] = "one_wire"
    code: Annotated[str, text_of(r"^([0-9a-f]{16})?$", "16 digits 0–9, a–f, or nothing")] = ""
    wire: Literal["shared", "alone"] | None = None
    supply_v: Volts = 3.3
    supply_ma: MilliAmperes = 1.5
    shortest_interval_s: ReadingInterval = 2.0


ONE_WIRE = SensorFacts(
    kind="one_wire",
    name="digital, single wire",
    model=OneWireSensor,
    own_figures=("code",),
    measures=("air_temperature", "relative_humidity"),
    together=("air_temperature", "relative_humidity"),
)
