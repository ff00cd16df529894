"""Derived signals: what is made of the values of several probes, good while all of them are."""

import math

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import NONE
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
    ProbePlan,
    ProbeState,
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
def combined(plan: ProbePlan, state: ProbeState, d: int, loads: IntArray) -> float:
    """The value of a derived signal whose members are all good; NaN where it has none yet."""
    kind, first, end = plan.derived[d, D_KIND], plan.derived[d, D_FIRST], plan.derived[d, D_END]
    values, df = state.values, plan.derived_floats
    a = values[plan.members[first]]
    if kind == SIGNAL_RATE:
        held, at = state.rates[d, R_HELD], state.rates[d, R_FIRST]
        room = state.rate_ms.shape[1]
        newest = (at + held - 1) % room
        elapsed = state.rate_ms[d, newest] - state.rate_ms[d, at]
        if held < 2 or elapsed < plan.derived[d, D_OVER_MS]:
            return math.nan
        return (state.rate_values[d, newest] - state.rate_values[d, at]) / (elapsed / MS_PER_MIN)
    if kind == SIGNAL_LESS_LAMP:
        lamp = plan.derived[d, D_LOAD]
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
        b = values[plan.members[first + 1]]
        if kind == SIGNAL_DIFFERENCE:
            return a - b
        if kind == SIGNAL_ECHO:  # a distance that was worked out at a stated temperature
            return a * math.sqrt((b + KELVIN_AT_ZERO_DEGC) / (df[d, D_A] + KELVIN_AT_ZERO_DEGC))
        if not -45.0 <= a <= 60.0 or not 0.0 < b <= 100.0:
            return math.nan  # beyond what the formula holds for
        if kind == SIGNAL_DEW_POINT:
            y = math.log(vapour_hpa(a, b) / MAGNUS_HPA)
            return MAGNUS_DEGC * y / (MAGNUS_FACTOR - y)
        return 1e5 * vapour_hpa(a, b) / (VAPOUR_GAS_CONSTANT * (a + KELVIN_AT_ZERO_DEGC))
    total = a
    for index in range(first + 1, end):
        b = values[plan.members[index]]
        if kind == SIGNAL_MEAN:
            total += b
        elif kind == SIGNAL_HIGHEST:
            total = max(total, b)
        elif kind == SIGNAL_LOWEST:
            total = min(total, b)
    return total / (end - first) if kind == SIGNAL_MEAN else total


@kernel
def derive(plan: ProbePlan, state: ProbeState, loads: IntArray) -> None:
    """Every derived signal, members before what is made of them."""
    probes = plan.ints.shape[0]
    for d in range(plan.derived.shape[0]):
        good = 1
        for index in range(plan.derived[d, D_FIRST], plan.derived[d, D_END]):
            good = min(good, state.good[plan.members[index]])
        if good == 1:
            value = combined(plan, state, d, loads)
            if math.isnan(value):
                good = 0
            else:
                state.values[probes + d] = value
        state.good[probes + d] = good
