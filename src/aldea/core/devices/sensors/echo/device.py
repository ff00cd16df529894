"""An ultrasonic distance sensor in a plan: a trigger out, an echo in."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import (
    LOWER,
    OUTPUT_V,
    SUPPLY_MA,
    SUPPLY_V,
    UPPER,
    brought_down_v,
    divider_note,
    level_circuit,
)
from aldea.core.devices.sensors.echo.model import ECHO, EchoSensor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Plan, Probe


class EchoDevice(SensorDevice[EchoSensor]):
    """Its echo is mostly of 5 V: a divider brings it down."""

    facts = ECHO
    resistors = ("upper_ohm", "lower_ohm")
    asks: ClassVar[Asks] = {
        "output_v": OUTPUT_V,
        "upper_ohm": UPPER,
        "lower_ohm": LOWER,
        "supply_v": SUPPLY_V,
        "supply_ma": SUPPLY_MA,
        "occupied_below_m": Asked(label="Occupied under", unit="m"),
    }

    def signals(self, probe: Probe, sensor: EchoSensor) -> Iterator[Signal]:
        """A trigger, and the echo whose length is measured."""
        yield probe_signal(probe, "trigger", "digital_out", drives=True)
        yield probe_signal(probe, "echo", "pulse_in", volts=self.arriving_v(sensor))

    def highest_v(self, sensor: EchoSensor) -> float:
        """The volts that it gives before any divider."""
        return sensor.output_v

    def arriving_v(self, sensor: EchoSensor) -> float:
        """What is left of them behind the divider."""
        return brought_down_v(sensor.output_v, sensor.upper_ohm, sensor.lower_ohm)

    def supply(self, sensor: EchoSensor) -> tuple[float, float] | None:
        """Its rail."""
        return sensor.supply_v, sensor.supply_ma

    def note(self, sensor: EchoSensor, line: str, pin: str) -> str:
        """The divider at the board, where there is one."""
        return divider_note(sensor.upper_ohm, sensor.lower_ohm, pin) if line == "echo" else ""

    def divided(self, sensor: EchoSensor, upper_ohm: float, lower_ohm: float) -> EchoSensor | None:
        """The same behind a divider."""
        return sensor.model_copy(update={"upper_ohm": upper_ohm, "lower_ohm": lower_ohm})

    def circuits(
        self,
        probe: Probe,
        sensor: EchoSensor,
        plan: Plan,
    ) -> Iterator[Circuit]:
        """The divider, where there is one."""
        yield from level_circuit(probe, sensor.output_v, sensor.upper_ohm, sensor.lower_ohm)


DEVICE = EchoDevice()
