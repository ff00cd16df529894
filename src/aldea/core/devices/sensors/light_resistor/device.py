"""A photoresistor in a plan: its analog line, its divider and what both read at the threshold."""

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
from aldea.core.devices.sensors.light_resistor.law import (
    lux_factor,
    photoresistor_lux,
    photoresistor_ohm,
)
from aldea.core.devices.sensors.light_resistor.model import LIGHT_RESISTOR, LightResistor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.physics.level import best_for_slope_ohm
from aldea.core.plan.document import Plan, Probe


class LightResistorDevice(SensorDevice[LightResistor]):
    """Its divider is best where it is asked: at the wanted threshold."""

    facts = LIGHT_RESISTOR
    resistors = ("fixed_ohm",)
    asks: ClassVar[Asks] = {
        "r10_ohm": Asked(label="At 10 lx", unit="Ω"),
        "gamma_1": Asked(label="Gamma"),
        "fixed_ohm": FIXED,
        "side": SIDE,
        "threshold_lux": Asked(label="Threshold", unit="lx"),
        "own_lamp_lux": Asked(label="Its lamp adds", unit="lx"),
    }

    def signals(self, probe: Probe, sensor: LightResistor) -> Iterator[Signal]:
        """One analog line."""
        yield probe_signal(probe, "sense", "analog_in")

    def supplied(self, sensor: LightResistor) -> tuple[Supplied, ...]:
        """Its other wire goes to the converter's reference, or to zero."""
        high = sensor.side == "sensor_high"
        return (Supplied(terminal="reference" if high else "zero", end="back"),)

    def note(self, sensor: LightResistor, line: str, pin: str) -> str:
        """Where the fixed resistor stands."""
        return fixed_note(sensor.side, sensor.fixed_ohm, pin) if line == "sense" else ""

    def source_ohm(self, sensor: LightResistor) -> float:
        """About half its fixed resistor."""
        return sensor.fixed_ohm / 2

    def circuits(self, probe: Probe, sensor: LightResistor, plan: Plan) -> Iterator[Circuit]:
        """What it reads at its threshold, and how far its own spread moves that."""
        figures = {"r10_ohm": sensor.r10_ohm, "gamma_1": sensor.gamma_1}
        wanted = photoresistor_ohm(sensor.threshold_lux, **figures)
        facts = [
            ("Threshold", f"{short(sensor.threshold_lux)} lx, there {ohms(round(wanted))}"),
            ("Steepest there with", both_series(best_for_slope_ohm, wanted)),
            (
                "R10 half as high again",
                f"reads {figure(lux_factor(1.5, sensor.gamma_1), 2)} times the light",
            ),
        ]
        divider = divider_on(converter_of(plan, probe), sensor.side, sensor.fixed_ohm)
        if divider is not None:
            counts = divider.counts(wanted)
            step = divider.sensor_ohm(counts + 1)
            facts.append(("Reads there", f"{figure(counts, 0)} counts"))
            if step:
                one = abs(photoresistor_lux(step, **figures) - sensor.threshold_lux)
                facts.append(("One count there", f"{figure(one, 2)} lx"))
        yield Circuit(
            owner=f"probe:{probe.id}",
            title=f"{probe.name}: photoresistor with {ohms(sensor.fixed_ohm)}",
            draws="divider",
            facts=tuple(facts),
            values={
                "sensor": ohms(sensor.r10_ohm),
                "fixed": ohms(sensor.fixed_ohm),
                "side": sensor.side,
            },
        )


DEVICE = LightResistorDevice()
