"""Derived signals: what is made of the values of several probes, good while all of them are."""

import math

from aldea.core.engine.layout import FOREVER, NONE
from aldea.core.engine.tables.probes import (
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
from aldea.core.engine.tables.run import RunTables
from aldea.core.physics.moist_air import (
    KELVIN_AT_ZERO_DEGC,
    MAGNUS_DEGC,
    MAGNUS_FACTOR,
    MAGNUS_HPA,
    VAPOUR_GAS_CONSTANT,
)

MS_PER_MIN = 60_000.0


def vapour_hpa(temp_degc: float, rh_pct: float) -> float:
    """Vapour pressure, hPa, from temperature and relative humidity over water."""
    saturated = MAGNUS_HPA * math.exp(MAGNUS_FACTOR * temp_degc / (MAGNUS_DEGC + temp_degc))
    return rh_pct * 0.01 * saturated


def rate_per_min(run: RunTables, d: int) -> float:
    """How fast a value changes, by the minute; NaN while its time is not full."""
    signal, rate = run.plan.derived[d], run.now.rates[d]
    if rate.held < 2:
        return math.nan
    oldest = signal.ring + rate.first
    newest = signal.ring + (rate.first + rate.held - 1) % signal.room
    elapsed_ms = run.now.rate_ms[newest] - run.now.rate_ms[oldest]
    if elapsed_ms < signal.over_ms:
        return math.nan
    return (run.now.rate_values[newest] - run.now.rate_values[oldest]) / (elapsed_ms / MS_PER_MIN)


def combined(run: RunTables, d: int) -> float:
    """The value of a derived signal whose members are all good; NaN where it has none yet."""
    signal = run.plan.derived[d]
    kind = signal.kind
    a = run.now.signals[run.plan.signal_members[signal.first]].value
    if kind == SIGNAL_RATE:
        return rate_per_min(run, d)
    if kind == SIGNAL_LESS_LAMP:
        lit = signal.load != NONE and run.now.loads[signal.load].state != 0
        return a - signal.a if lit else a
    if kind == SIGNAL_LUX:  # of a share of the supply: fixed resistor, ohms at 10 lx, gamma, side
        if not 0.0 < a < 1.0:
            return math.nan
        ohms = signal.a * (1.0 - a) / a if signal.d > 0 else signal.a * a / (1.0 - a)
        return 10.0 * math.pow(ohms / signal.b, -1.0 / signal.c)
    if kind == SIGNAL_RATIO:
        return a / signal.a
    if kind in (SIGNAL_DIFFERENCE, SIGNAL_ECHO, SIGNAL_DEW_POINT, SIGNAL_ABSOLUTE_HUMIDITY):
        b = run.now.signals[run.plan.signal_members[signal.first + 1]].value
        if kind == SIGNAL_DIFFERENCE:
            return a - b
        if kind == SIGNAL_ECHO:  # a distance that was worked out at a stated temperature
            return a * math.sqrt((b + KELVIN_AT_ZERO_DEGC) / (signal.a + KELVIN_AT_ZERO_DEGC))
        if not -45.0 <= a <= 60.0 or not 0.0 < b <= 100.0:
            return math.nan  # beyond what the formula holds for
        if kind == SIGNAL_DEW_POINT:
            y = math.log(vapour_hpa(a, b) / MAGNUS_HPA)
            dew = MAGNUS_DEGC * y / (MAGNUS_FACTOR - y)
            return dew if dew >= -45.0 else math.nan
        return 1e5 * vapour_hpa(a, b) / (VAPOUR_GAS_CONSTANT * (a + KELVIN_AT_ZERO_DEGC))
    total = a
    for index in range(signal.first + 1, signal.end):
        other = run.now.signals[run.plan.signal_members[index]].value
        if kind == SIGNAL_MEAN:
            total += other
        elif kind == SIGNAL_HIGHEST:
            total = max(total, other)
        elif kind == SIGNAL_LOWEST:
            total = min(total, other)
    return total / (signal.end - signal.first) if kind == SIGNAL_MEAN else total


def derive(run: RunTables) -> None:
    """Every derived signal, members before what is made of them."""
    probes = len(run.plan.probes)
    for d in range(len(run.plan.derived)):
        signal, now = run.plan.derived[d], run.now.signals[probes + d]
        good, good_ms = True, FOREVER
        for index in range(signal.first, signal.end):
            member = run.now.signals[run.plan.signal_members[index]]
            if member.good == 0:
                good = False
                good_ms = min(good_ms, member.good_ms)
        if good:
            value = combined(run, d)
            if math.isnan(value):
                good = False
                good_ms = run.now.head.booted_ms  # it has had no reading yet
            else:
                now.value = value
        now.good = 1 if good else 0
        now.good_ms = good_ms
