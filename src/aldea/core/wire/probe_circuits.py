"""Circuits of probes: dividers of thermistors and photoresistors, leak tapes, levels, serial."""

from collections.abc import Callable, Iterator

from aldea.core.errors import InputError
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import (
    EchoSensor,
    LeakTape,
    LightResistor,
    SerialSensor,
    Thermistor,
    VoltageSensor,
)
from aldea.core.plan.wiring import BoardType
from aldea.core.sensing.divider import Divider
from aldea.core.sensing.light import lux_factor, photoresistor_lux, photoresistor_ohm
from aldea.core.sensing.thermistor import kelvin_per_count, mismatch_degc, thermistor_ohm
from aldea.core.wire.circuit import Circuit, reader_of
from aldea.core.wire.conductors import ohms
from aldea.core.wire.leak import expected_dry_ohm, leak_states
from aldea.core.wire.level import best_for_slope_ohm, best_for_span_ohm, level


def divider_of(probe: Probe, kind: BoardType) -> Divider | None:
    """The divider that a probe makes on a board, ratiometric; None for other sensors."""
    sensor = probe.sensor
    if not isinstance(sensor, Thermistor | LightResistor | LeakTape) or not kind.converter_bits:
        return None
    fed_v = sensor.supply_v if isinstance(sensor, Thermistor) else None
    return Divider(
        side="sensor_high" if isinstance(sensor, LeakTape) else sensor.side,
        fixed_ohm=sensor.fixed_ohm,
        supply_v=fed_v or kind.converter_v,
        reference_v=kind.converter_v,
        full_scale_counts=2**kind.converter_bits - 1,
    )


def probe_circuits(probe: Probe, plan: Plan) -> Iterator[Circuit]:
    """The circuit that a probe makes at its board, if it makes one of its own."""
    sensor = probe.sensor
    line = "echo" if isinstance(sensor, EchoSensor) else "sense"
    kind = reader_of(plan, f"probe:{probe.id}.{line}")
    divider = divider_of(probe, kind) if kind else None
    if isinstance(sensor, Thermistor):
        yield _thermistor(probe, sensor, divider)
    elif isinstance(sensor, LightResistor):
        yield _light(probe, sensor, divider)
    elif isinstance(sensor, LeakTape):
        yield _leak(probe, sensor, divider)
    elif isinstance(sensor, VoltageSensor | EchoSensor) and sensor.upper_ohm and sensor.lower_ohm:
        yield _level(probe, sensor, sensor.upper_ohm, sensor.lower_ohm)
    elif isinstance(sensor, SerialSensor):
        yield Circuit(
            owner=f"probe:{probe.id}",
            title=f"{probe.name}: serial, crossed",
            draws="serial",
            facts=(
                ("Its TX", "goes to the pin that receives"),
                ("Its RX", "goes to the pin that sends"),
                ("Level", f"{sensor.output_v:g} V"),
            ),
        )


def _both(best: Callable[..., float], *figures: float) -> str:
    """The best resistor of both usual series: `13 kΩ (E24), 12.4 kΩ (E96)`."""
    try:
        return ", ".join(f"{ohms(best(*figures, series))} ({series})" for series in ("E24", "E96"))
    except InputError as exc:
        return f"no resistor: {exc.got} wanted, {exc.allowed} made"


def _thermistor(probe: Probe, sensor: Thermistor, divider: Divider | None) -> Circuit:
    figures = {"r25_ohm": sensor.r25_ohm, "beta_k": sensor.beta_k}
    at20 = thermistor_ohm(20.0, **figures)
    cold, warm = thermistor_ohm(0.0, **figures), thermistor_ohm(40.0, **figures)
    facts = [
        ("At 20 °C", ohms(round(at20))),
        ("Steepest at 20 °C with", _both(best_for_slope_ohm, at20)),
        ("Widest from 0 to 40 °C with", _both(best_for_span_ohm, cold, warm)),
    ]
    if divider is not None:
        facts.append(("One count there", f"{kelvin_per_count(divider, 20.0, **figures):.3f} K"))
        facts.append(("Reads at 20 °C", f"{divider.counts(at20):.0f} counts"))
        high = divider.full_scale_counts if sensor.side == "sensor_low" else 0
        facts.append(("Unplugged", f"{high} counts: {divider.end_state(high)}"))
        fixed = Divider(
            side=divider.side,
            fixed_ohm=divider.fixed_ohm,
            supply_v=divider.supply_v * 1.1,
            reference_v=divider.reference_v,
            full_scale_counts=divider.full_scale_counts,
        )
        error = mismatch_degc(fixed, divider.supply_v, 20.0, **figures)
        facts.append(
            (
                "Its supply 10 % off",
                "impossible reading" if error is None else f"{error:+.1f} K".replace("-", "−"),
            )
        )
    return Circuit(
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


def _light(probe: Probe, sensor: LightResistor, divider: Divider | None) -> Circuit:
    figures = {"r10_ohm": sensor.r10_ohm, "gamma_1": sensor.gamma_1}
    wanted = photoresistor_ohm(sensor.threshold_lux, **figures)
    facts = [
        ("Threshold", f"{sensor.threshold_lux:g} lx, there {ohms(round(wanted))}"),
        ("Steepest there with", _both(best_for_slope_ohm, wanted)),
        (
            "R10 half as high again",
            f"reads {lux_factor(1.5, sensor.gamma_1):.2f} times the light",
        ),
    ]
    if divider is not None:
        counts = divider.counts(wanted)
        step = divider.sensor_ohm(counts + 1)
        facts.append(("Reads there", f"{counts:.0f} counts"))
        if step:
            one = abs(photoresistor_lux(step, **figures) - sensor.threshold_lux)
            facts.append(("One count there", f"{one:.2f} lx"))
    return Circuit(
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


def _leak(probe: Probe, tape: LeakTape, divider: Divider | None) -> Circuit:
    low, high = expected_dry_ohm(tape)
    rows: list[tuple[str, ...]] = []
    if divider is not None:
        for state in leak_states(tape, divider):
            top = "no end" if state.high_ohm == float("inf") else ohms(round(state.high_ohm))
            counts = f"{min(state.low_counts, divider.full_scale_counts):.0f} to "
            counts += f"{state.high_counts:.0f}"
            rows.append((state.name, f"{ohms(round(state.low_ohm))} to {top}", counts))
    dry = (
        f"{low / 1000:.0f} to {high / 1000:.0f} kΩ"
        if tape.end_of_line_ohm
        else "over 1 MΩ, the same as unplugged"
    )
    return Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: leak tape",
        draws="leak",
        facts=(
            (
                "Across the far end",
                ohms(tape.end_of_line_ohm) if tape.end_of_line_ohm else "nothing",
            ),
            ("An ohmmeter shows, dry", dry),
            (
                "Excitation",
                tape.excitation + (", it corrodes" if tape.excitation == "constant" else ""),
            ),
        ),
        head=("State", "Resistance", "Counts") if rows else (),
        rows=tuple(rows),
        values={
            "end": ohms(tape.end_of_line_ohm) if tape.end_of_line_ohm else "open",
            "fixed": ohms(tape.fixed_ohm),
        },
    )


def _level(
    probe: Probe, sensor: VoltageSensor | EchoSensor, upper_ohm: float, lower_ohm: float
) -> Circuit:
    top = sensor.highest_v if isinstance(sensor, VoltageSensor) else sensor.output_v
    made = level(
        upper_ohm=upper_ohm,
        lower_ohm=lower_ohm,
        tolerance_1=0.01,
        input_v=top,
        input_tolerance_1=0.05,
        input_farad=20e-12,
    )
    return Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: {top:g} V brought down",
        draws="level",
        facts=(
            ("Divider", f"{ohms(upper_ohm)} in line, {ohms(lower_ohm)} to 0 V, 1 %"),
            ("At the pin", f"{made.lowest_v:.2f} to {made.highest_v:.2f} V"),
            ("Rises in", f"{1e6 * made.rise_s:.2f} µs"),
            ("Takes", f"{1000 * made.current_a:.2f} mA"),
        ),
        values={"upper": ohms(upper_ohm), "lower": ohms(lower_ohm)},
    )
