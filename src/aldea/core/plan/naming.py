"""What a probe or a derived signal is called, and its unit."""

from aldea.core.base.quantities import unit_of
from aldea.core.plan.document import Plan

SIGNAL_UNITS = {
    "dew_point": "°C",
    "absolute_humidity": "g/m³",
    "echo_distance": "m",
    "lux": "lx",
}


def reading_name(plan: Plan, name: str) -> str:
    """What a probe or a derived signal is called."""
    probe = plan.probe(name)
    if probe is not None:
        return probe.name
    return next((signal.name for signal in plan.derived if signal.id == name), name)


def reading_unit(plan: Plan, name: str) -> str:
    """The unit of a probe or a derived signal, with a space before it; empty where it has none."""
    probe = plan.probe(name)
    if probe is not None:
        unit = unit_of(probe.quantity)
        return f" {unit}" if unit else ""
    signal = next((signal for signal in plan.derived if signal.id == name), None)
    if signal is None:
        return ""
    if signal.made.kind in SIGNAL_UNITS:
        return f" {SIGNAL_UNITS[signal.made.kind]}"
    under = getattr(signal.made, "of", None) or (getattr(signal.made, "probe", ""),)
    unit = reading_unit(plan, under[0])
    return f"{unit} a minute" if signal.made.kind == "rate" else unit
