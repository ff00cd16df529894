"""A thermistor in a plan: its analog line, its divider and the circuit that both make."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.circuit import Circuit
from aldea.core.devices.conductor import Supplied
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.divided import (
    FIXED,
    SIDE,
    both_series,
    converter_of,
    divider_on,
    fixed_note,
)
from aldea.core.devices.sensors.thermistor.law import (
    kelvin_per_count,
    mismatch_degc,
    thermistor_ohm,
)
from aldea.core.devices.sensors.thermistor.model import THERMISTOR, Thermistor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.physics.divider import Divider
from aldea.core.physics.level import best_for_slope_ohm, best_for_span_ohm
from aldea.core.plan.document import Plan, Probe


class ThermistorDevice(SensorDevice[Thermistor]):
    """Its divider is fed by the converter's reference unless a supply was measured on it."""

    facts = THERMISTOR
    resistors = ("fixed_ohm",)
    asks: ClassVar[Asks] = {
        "r25_ohm": Asked(label="At 25 °C", unit="Ω"),
        "beta_k": Asked(label="B value", unit="K"),
        "fixed_ohm": FIXED,
        "side": SIDE,
        "supply_v": Asked(label="Supply", unit="V"),
    }

    def signals(self, probe: Probe, sensor: Thermistor) -> Iterator[Signal]:
        """One analog line."""
        yield probe_signal(probe, "sense", "analog_in")

    def supplied(self, sensor: Thermistor) -> tuple[Supplied, ...]:
        """Its other wire goes to the converter's reference, or to zero."""
        if sensor.side != "sensor_high":
            return (Supplied(terminal="zero", end="back"),)
        if sensor.supply_v is not None:
            return (Supplied(terminal="rail", end="back", volts=sensor.supply_v),)
        return (Supplied(terminal="reference", end="back"),)

    def note(self, sensor: Thermistor, line: str, pin: str) -> str:
        """Where the fixed resistor stands."""
        if line != "sense":
            return ""
        return fixed_note(sensor.side, sensor.fixed_ohm, pin, sensor.supply_v)

    def part_name(self, sensor: Thermistor) -> str:
        """By its resistance."""
        return f"{ohms(sensor.r25_ohm)} thermistor"

    def expected(self, sensor: Thermistor, line: str) -> str:
        """Its resistance at 25 °C."""
        return f"{short(sensor.r25_ohm / 1000)} kΩ at 25 °C" if line == "sense" else ""

    def source_ohm(self, sensor: Thermistor) -> float:
        """About half its fixed resistor."""
        return sensor.fixed_ohm / 2

    def circuits(self, probe: Probe, sensor: Thermistor, plan: Plan) -> Iterator[Circuit]:
        """What it reads at room temperature, which resistors suit it, what a wrong supply does."""
        figures = {"r25_ohm": sensor.r25_ohm, "beta_k": sensor.beta_k}
        at20 = thermistor_ohm(20.0, **figures)
        cold, warm = thermistor_ohm(0.0, **figures), thermistor_ohm(40.0, **figures)
        facts = [
            ("At 20 °C", ohms(round(at20))),
            ("Steepest at 20 °C with", both_series(best_for_slope_ohm, at20)),
            ("Widest from 0 to 40 °C with", both_series(best_for_span_ohm, cold, warm)),
        ]
        divider = thermistor_divider(probe, sensor, plan)
        if divider is not None:
            facts += _on_its_board(sensor, divider, at20)
        yield Circuit(
            owner=f"probe:{probe.id}",
            title=f"{probe.name}: thermistor with {ohms(sensor.fixed_ohm)}",
            draws="divider",
            facts=tuple(facts),
            values={
                "sensor": ohms(sensor.r25_ohm),
                "fixed": ohms(sensor.fixed_ohm),
                "side": sensor.side,
            },
        )


def thermistor_divider(probe: Probe, sensor: Thermistor, plan: Plan) -> Divider | None:
    """The divider that a thermistor makes on its board; None while it has no pin."""
    return divider_on(converter_of(plan, probe), sensor.side, sensor.fixed_ohm, sensor.supply_v)


def _on_its_board(sensor: Thermistor, divider: Divider, at20_ohm: float) -> list[tuple[str, str]]:
    figures = {"r25_ohm": sensor.r25_ohm, "beta_k": sensor.beta_k}
    top = min(divider.full_scale_counts, round(divider.top_counts))
    high = top if sensor.side == "sensor_low" else 0
    off = Divider(
        side=divider.side,
        fixed_ohm=divider.fixed_ohm,
        supply_v=divider.supply_v * 1.1,
        reference_v=divider.reference_v,
        full_scale_counts=divider.full_scale_counts,
    )
    error = mismatch_degc(off, divider.supply_v, 20.0, **figures)
    moved = "impossible reading" if error is None else f"{error:+.1f} K".replace("-", "−")
    return [
        ("One count there", f"{figure(kelvin_per_count(divider, 20.0, **figures), 3)} K"),
        ("Reads at 20 °C", f"{figure(divider.counts(at20_ohm), 0)} counts"),
        ("Unplugged", f"{high} counts: {divider.end_state(high)}"),
        ("Its supply 10 % off", moved),
    ]


DEVICE = ThermistorDevice()
