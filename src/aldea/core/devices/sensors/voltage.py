"""Sensors that give a voltage: what an analog, a gas and a photodiode sensor have in common."""

from collections.abc import Iterator
from typing import ClassVar, TypeVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.sensors.analog.model import VoltageSensor
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import (
    LOWER,
    SUPPLY_MA,
    SUPPLY_V,
    UPPER,
    brought_down_v,
    divider_note,
    level_circuit,
)
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Plan, Probe

V = TypeVar("V", bound=VoltageSensor)
VOLTAGE_ASKS = {
    "highest_v": Asked(label="Highest output", unit="V"),
    "upper_ohm": UPPER,
    "lower_ohm": LOWER,
    "supply_v": SUPPLY_V,
    "supply_ma": SUPPLY_MA,
}


class VoltageDevice(SensorDevice[V]):
    """One analog line, a rail, and a divider where the volts are too high for the pin."""

    resistors = ("upper_ohm", "lower_ohm")
    asks: ClassVar[Asks] = VOLTAGE_ASKS

    def signals(self, probe: Probe, sensor: V) -> Iterator[Signal]:
        """One analog line."""
        yield probe_signal(probe, "sense", "analog_in", volts=self.arriving_v(sensor))

    def highest_v(self, sensor: V) -> float:
        """The volts that it gives before any divider."""
        return sensor.highest_v

    def arriving_v(self, sensor: V) -> float:
        """What is left of them behind the divider."""
        return brought_down_v(sensor.highest_v, sensor.upper_ohm, sensor.lower_ohm)

    def supply(self, sensor: V) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma

    def note(self, sensor: V, line: str, pin: str) -> str:
        """The divider at the board, where there is one."""
        return divider_note(sensor.upper_ohm, sensor.lower_ohm, pin) if line == "sense" else ""

    def divided(self, sensor: V, upper_ohm: float, lower_ohm: float) -> V | None:
        """The same behind a divider."""
        return sensor.model_copy(update={"upper_ohm": upper_ohm, "lower_ohm": lower_ohm})

    def circuits(self, probe: Probe, sensor: V, plan: Plan) -> Iterator[Circuit]:
        """The divider, where there is one."""
        yield from level_circuit(probe, sensor.highest_v, sensor.upper_ohm, sensor.lower_ohm)
