"""Level dividers: 5 V down to what a pin bears, worst case of both tolerances; best resistors."""

import math
from dataclasses import dataclass

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short
from aldea.core.base.limits import ABOVE_ZERO, FINITE, TOLERANCE, ZERO_OR_MORE, takes
from aldea.core.physics.divider import source_ohm
from aldea.core.physics.resistors import Series, nearest_ohm, series_ohm


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """A level divider at its corners; volts at the output, amperes from the input."""

    nominal_v: float
    highest_v: float
    lowest_v: float
    current_a: float
    source_ohm: float
    rise_s: float


@takes(
    upper_ohm=ABOVE_ZERO,
    lower_ohm=ABOVE_ZERO,
    tolerance_1=TOLERANCE,
    input_v=FINITE,
    input_tolerance_1=TOLERANCE,
    input_farad=ZERO_OR_MORE,
)
def level(
    *,
    upper_ohm: float,
    lower_ohm: float,
    tolerance_1: float,
    input_v: float,
    input_tolerance_1: float,
    input_farad: float,
) -> Level:
    """Output of a level divider at its tolerance corners; rise time 10–90 % = ln 9 · R · C."""

    def at(volts: float, up: float, down: float) -> float:
        upper, lower = upper_ohm * (1 + up), lower_ohm * (1 + down)
        return volts * lower / (upper + lower)

    source = source_ohm(upper_ohm, lower_ohm)
    return Level(
        nominal_v=at(input_v, 0, 0),
        highest_v=at(input_v * (1 + input_tolerance_1), -tolerance_1, tolerance_1),
        lowest_v=at(input_v * (1 - input_tolerance_1), tolerance_1, -tolerance_1),
        current_a=input_v / (upper_ohm + lower_ohm),
        source_ohm=source,
        rise_s=math.log(9) * source * input_farad,
    )


@takes(
    upper_ohm=ABOVE_ZERO,
    tolerance_1=TOLERANCE,
    input_v=FINITE,
    input_tolerance_1=TOLERANCE,
    limit_v=ABOVE_ZERO,
)
def best_lower_ohm(
    *,
    upper_ohm: float,
    tolerance_1: float,
    input_v: float,
    input_tolerance_1: float,
    limit_v: float,
    series: Series = "E24",
) -> float:
    """The largest lower resistor whose worst-case output is not above a limit, Ω."""
    worst_v = input_v * (1 + input_tolerance_1)
    if worst_v <= limit_v:
        raise InputError("divider", got=f"{short(worst_v)} V", allowed="an input above the limit")
    ratio = limit_v / (worst_v - limit_v)
    highest = upper_ohm * ratio * (1 - tolerance_1) / (1 + tolerance_1)
    fitting = [v for v in series_ohm(series) if v <= highest * (1 + 1e-12)]
    if not fitting:
        raise InputError(
            "divider", got=f"{short(limit_v)} V", allowed="a limit that a divider can reach"
        )
    return fitting[-1]


def best_for_slope_ohm(sensor_ohm: float, series: Series = "E24") -> float:
    """The fixed resistor that gives the steepest volts round a sensor resistance: its nearest."""
    return nearest_ohm(sensor_ohm, series)


@takes(first_ohm=ABOVE_ZERO, second_ohm=ABOVE_ZERO)
def best_for_span_ohm(first_ohm: float, second_ohm: float, series: Series = "E24") -> float:
    """The fixed resistor that spreads two sensor resistances widest: nearest to √(R1 · R2)."""
    return nearest_ohm(math.sqrt(first_ohm * second_ohm), series)
