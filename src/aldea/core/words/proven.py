"""Where a certificate was shown to hold, and that a value lies outside of it."""

from aldea.core.base.figures import figure
from aldea.core.plan.calibration import Calibration


def outside_words(line: Calibration, unit: str, *values: float) -> str:
    """“outside its range 11.3 to 33.1 %RH”, where any of the values lies there; else empty."""
    proven = line.proven
    if proven is None or not any(line.is_outside(value) for value in values):
        return ""
    return f"outside its range {range_words(proven.low, proven.high, unit)}"


def range_words(low: float, high: float, unit: str) -> str:
    """A range as it is read: “11.3 to 33.1 %RH”."""
    return f"{figure(low)} to {figure(high)} {unit}"
