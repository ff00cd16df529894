"""Sensors in a divider, and those whose volts a divider brings down: what they share."""

from collections.abc import Callable, Iterator

from aldea.core.base.errors import InputError
from aldea.core.base.figures import figure, ohms, short
from aldea.core.devices.asked import Asked
from aldea.core.devices.circuit import Circuit
from aldea.core.physics.divider import Divider, Side
from aldea.core.physics.level import level
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.panel import BoardType
from aldea.core.plan.seats import reader_of

INPUT_FARAD = 20e-12  # of a pin, for the rise time behind a divider
FIXED = Asked(label="Fixed resistor", unit="Ω")
SIDE = Asked(
    label="Sensor is",
    options=(("sensor_low", "between pin and 0 V"), ("sensor_high", "between pin and +")),
)
UPPER = Asked(label="Divider, in line", unit="Ω")
LOWER = Asked(label="Divider, to 0 V", unit="Ω")
SUPPLY_V = Asked(label="Supply", unit="V")
SUPPLY_MA = Asked(label="draws", unit="mA")
SHORTEST_INTERVAL = Asked(label="Read no faster than every", unit="s")
OUTPUT_V = Asked(label="Output", unit="V")


def converter_of(plan: Plan, probe: Probe, line: str = "sense") -> BoardType | None:
    """The board whose converter reads a probe; None while it has no pin, or has no converter."""
    kind = reader_of(plan, f"probe:{probe.id}.{line}")
    return kind if kind is not None and kind.converter_bits else None


def divider_on(
    kind: BoardType | None, side: Side, fixed_ohm: float, fed_v: float | None = None
) -> Divider | None:
    """The divider that a sensor and its fixed resistor make on a board; ratiometric unless fed."""
    if kind is None:
        return None
    return Divider(
        side=side,
        fixed_ohm=fixed_ohm,
        supply_v=fed_v or kind.converter_v,
        reference_v=kind.converter_v,
        full_scale_counts=2**kind.converter_bits - 1,
    )


def fixed_note(side: str, fixed_ohm: float, pin: str, fed_v: float | None = None) -> str:
    """Where the fixed resistor of a divider stands: on the side where the sensor is not."""
    plus = f"+{short(fed_v)} V" if fed_v else "the converter’s reference"
    other = "0 V" if side == "sensor_high" else plus
    return f"{ohms(fixed_ohm)} from {pin} to {other}, at the board"


def both_series(best: Callable[..., float], *figures: float) -> str:
    """The best resistor of both usual series: `13 kΩ (E24), 12.4 kΩ (E96)`."""
    try:
        return ", ".join(f"{ohms(best(*figures, series))} ({series})" for series in ("E24", "E96"))
    except InputError as exc:
        return f"no resistor: {exc.got} wanted, {exc.allowed} made"


def brought_down_v(top_v: float, upper_ohm: float | None, lower_ohm: float | None) -> float:
    """What is left of a voltage behind a divider, V; all of it where there is none."""
    if upper_ohm and lower_ohm:
        return top_v * lower_ohm / (upper_ohm + lower_ohm)
    return top_v


def divider_note(upper_ohm: float | None, lower_ohm: float | None, pin: str) -> str:
    """How a divider is put in at the board."""
    if not (upper_ohm and lower_ohm):
        return ""
    return f"divider at the board: {ohms(upper_ohm)} in line, {ohms(lower_ohm)} from {pin} to 0 V"


def level_circuit(
    probe: Probe, top_v: float, upper_ohm: float | None, lower_ohm: float | None
) -> Iterator[Circuit]:
    """A sensor's volts brought down by two resistors, at the corners of their tolerances."""
    if not (upper_ohm and lower_ohm):
        return
    divided = level(
        upper_ohm=upper_ohm,
        lower_ohm=lower_ohm,
        tolerance_1=0.01,
        input_v=top_v,
        input_tolerance_1=0.05,
        input_farad=INPUT_FARAD,
    )
    yield Circuit(
        owner=f"probe:{probe.id}",
        title=f"{probe.name}: {short(top_v)} V brought down",
        draws="level",
        facts=(
            ("Divider", f"{ohms(upper_ohm)} in line, {ohms(lower_ohm)} to 0 V, 1 %"),
            ("At the pin", f"{figure(divided.lowest_v, 2)} to {figure(divided.highest_v, 2)} V"),
            ("Rises in", f"{figure(1e6 * divided.rise_s, 2)} µs"),
            ("Takes", f"{figure(1000 * divided.current_a, 2)} mA"),
        ),
        values={"upper": ohms(upper_ohm), "lower": ohms(lower_ohm)},
    )
