"""Derived signals: what is made of the values of several probes, good while all of them are."""

import math

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import NONE
from aldea.core.engine.scan.views import (
    PROBES_DERIVED,
    PROBES_DERIVED_FLOATS,
    PROBES_INTS,
    PROBES_MEMBERS,
    PROBES_NOW_GOOD,
    PROBES_NOW_RATE_MS,
    PROBES_NOW_RATE_VALUES,
    PROBES_NOW_RATES,
    PROBES_NOW_VALUES,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import O_STATE
from aldea.core.engine.tables.probes import (
    D_A,
    D_B,
    D_C,
    D_D,
    D_END,
    D_FIRST,
    D_KIND,
    D_LOAD,
    D_OVER_MS,
    R_FIRST,
    R_HELD,
    SIGNAL_ABSOLUTE_HUMIDITY,
    SIGNAL_DEW_POINT,
    SIGNAL_DIFFERENCE,
    SIGNAL_ECHO,
    SIGNAL_HIGHEST,
    SIGNAL_LESS_LAMP,
    SIGNAL_LOWEST,
    SIGNAL_LUX,
    SIGNAL_MEAN,
    SIGNAL_RATE,
    SIGNAL_RATIO,
)
from aldea.core.physics.moist_air import (
    KELVIN_AT_ZERO_DEGC,
    MAGNUS_DEGC,
    MAGNUS_FACTOR,
    MAGNUS_HPA,
    VAPOUR_GAS_CONSTANT,
)

MS_PER_MIN = 60_000.0


@kernel
def vapour_hpa(temp_degc: float, rh_pct: float) -> float:
    """Vapour pressure, hPa, from temperature and relative humidity over water."""
    saturated = MAGNUS_HPA * math.exp(MAGNUS_FACTOR * temp_degc / (MAGNUS_DEGC + temp_degc))
    return rh_pct * 0.01 * saturated


@kernel
def combined(run: int, d: int, loads: IntArray) -> float:
    """The value of a derived signal whose members are all good; NaN where it has none yet."""
    kind, first, end = (
        int_table(run, PROBES_DERIVED)[d, D_KIND],
        int_table(run, PROBES_DERIVED)[d, D_FIRST],
        int_table(run, PROBES_DERIVED)[d, D_END],
    )
    values, df = float_row(run, PROBES_NOW_VALUES), float_table(run, PROBES_DERIVED_FLOATS)
    a = values[int_row(run, PROBES_MEMBERS)[first]]
    if kind == SIGNAL_RATE:
        held, at = (
            int_table(run, PROBES_NOW_RATES)[d, R_HELD],
            int_table(run, PROBES_NOW_RATES)[d, R_FIRST],
        )
        room = int_table(run, PROBES_NOW_RATE_MS).shape[1]
        newest = (at + held - 1) % room
        elapsed = (
            int_table(run, PROBES_NOW_RATE_MS)[d, newest]
            - int_table(run, PROBES_NOW_RATE_MS)[d, at]
        )
        if held < 2 or elapsed < int_table(run, PROBES_DERIVED)[d, D_OVER_MS]:
            return math.nan
        return (
            float_table(run, PROBES_NOW_RATE_VALUES)[d, newest]
            - float_table(run, PROBES_NOW_RATE_VALUES)[d, at]
        ) / (elapsed / MS_PER_MIN)
    if kind == SIGNAL_LESS_LAMP:
        lamp = int_table(run, PROBES_DERIVED)[d, D_LOAD]
        lit = lamp != NONE and loads[lamp, O_STATE] != 0
        return a - df[d, D_A] if lit else a
    if kind == SIGNAL_LUX:  # of a share of the supply: fixed resistor, ohms at 10 lx, gamma, side
        if not 0.0 < a < 1.0:
            return math.nan
        ohms = df[d, D_A] * (1.0 - a) / a if df[d, D_D] > 0 else df[d, D_A] * a / (1.0 - a)
        return 10.0 * (ohms / df[d, D_B]) ** (-1.0 / df[d, D_C])
    if kind == SIGNAL_RATIO:
        return a / df[d, D_A]
    if kind in (SIGNAL_DIFFERENCE, SIGNAL_ECHO, SIGNAL_DEW_POINT, SIGNAL_ABSOLUTE_HUMIDITY):
        b = values[int_row(run, PROBES_MEMBERS)[first + 1]]
        if kind == SIGNAL_DIFFERENCE:
            return a - b
        if kind == SIGNAL_ECHO:  # a distance that was worked out at a stated temperature
            return a * math.sqrt((b + KELVIN_AT_ZERO_DEGC) / (df[d, D_A] + KELVIN_AT_ZERO_DEGC))
        if not -45.0 <= a <= 60.0 or not 0.0 < b <= 100.0:
            return math.nan  # beyond what the formula holds for
        if kind == SIGNAL_DEW_POINT:
            y = math.log(vapour_hpa(a, b) / MAGNUS_HPA)
            dew = MAGNUS_DEGC * y / (MAGNUS_FACTOR - y)
            return dew if dew >= -45.0 else math.nan
        return 1e5 * vapour_hpa(a, b) / (VAPOUR_GAS_CONSTANT * (a + KELVIN_AT_ZERO_DEGC))
    total = a
    for index in range(first + 1, end):
        b = values[int_row(run, PROBES_MEMBERS)[index]]
        if kind == SIGNAL_MEAN:
            total += b
        elif kind == SIGNAL_HIGHEST:
            total = max(total, b)
        elif kind == SIGNAL_LOWEST:
            total = min(total, b)
    return total / (end - first) if kind == SIGNAL_MEAN else total


@kernel
def derive(run: int, loads: IntArray) -> None:
    """Every derived signal, members before what is made of them."""
    probes = int_table(run, PROBES_INTS).shape[0]
    for d in range(int_table(run, PROBES_DERIVED).shape[0]):
        good = 1
        for index in range(
            int_table(run, PROBES_DERIVED)[d, D_FIRST], int_table(run, PROBES_DERIVED)[d, D_END]
        ):
            good = min(good, int_row(run, PROBES_NOW_GOOD)[int_row(run, PROBES_MEMBERS)[index]])
        if good == 1:
            value = combined(run, d, loads)
            if math.isnan(value):
                good = 0
            else:
                float_row(run, PROBES_NOW_VALUES)[probes + d] = value
        int_row(run, PROBES_NOW_GOOD)[probes + d] = good
