"""How far a condition's end lies from its begin, against what its readings can tell apart."""

import math
from dataclasses import dataclass

from aldea.core.plan.conditions import Band, Beyond, Dark, Difference, OnValue, Rate
from aldea.core.plan.document import Plan
from aldea.core.plan.naming import reading_name, reading_unit
from aldea.core.rules.uncertainty import expanded_uncertainty

SECONDS_A_MINUTE = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Hysteresis:
    """The gap of a condition and the least that makes sense, in its unit; and a wide enough one."""

    hysteresis: float
    least: float
    unit: str
    names: str
    wider: OnValue


def can_tell(plan: Plan, name: str, *at: float) -> float:
    """How far apart two values must be to be told apart at `at`: 2 U of a reading, in its unit."""
    return 2 * (expanded_uncertainty(plan, name, *at) or 0.0)


def hysteresis_of(plan: Plan, part: OnValue) -> Hysteresis | None:
    """The gap of a condition on a value; None where its kind has none.

    Of a difference the two doubts add as squares. A rate takes the differences of one probe, in
    which a steady error cancels: what it cannot tell is one step of its resolution in its time.
    """
    if isinstance(part, Beyond | Dark):
        least, gap = can_tell(plan, part.probe, part.value), part.hysteresis
        wider: OnValue = part.model_copy(update={"hysteresis": least})
    elif isinstance(part, Band | Difference | Rate):
        least, gap = _least(plan, part), abs(part.on_threshold - part.off_threshold)
        rising = part.on_threshold >= part.off_threshold
        if isinstance(part, Band):
            rising = part.direction == "rising"
            gap = (
                part.on_threshold - part.off_threshold
                if rising
                else part.off_threshold - part.on_threshold
            )
        off = round(part.on_threshold - least if rising else part.on_threshold + least, 9)
        wider = part.model_copy(update={"off_threshold": off})
    else:
        return None
    a_minute = " a minute" if isinstance(part, Rate) else ""
    names = reading_name(plan, part.probe)
    if isinstance(part, Difference):
        names = f"{names} and {reading_name(plan, part.less)}"
    return Hysteresis(
        hysteresis=round(gap, 9),
        least=round(least, 9),
        unit=f"{_difference_unit(reading_unit(plan, part.probe))}{a_minute}",
        names=names,
        wider=wider,
    )


def _difference_unit(unit: str) -> str:
    """A difference of temperatures is in kelvin."""
    return unit.replace("°C", "K")


def _least(plan: Plan, part: Band | Difference | Rate) -> float:
    if isinstance(part, Difference):
        return math.hypot(can_tell(plan, part.probe), can_tell(plan, part.less))
    if isinstance(part, Rate):
        probe = plan.probe(part.probe)
        return probe.resolution * SECONDS_A_MINUTE / part.over_s if probe is not None else 0.0
    return can_tell(plan, part.probe, part.on_threshold, part.off_threshold)
