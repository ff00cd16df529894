"""Filters over the last readings: mean and median; that over time stands with its sample."""

from aldea.core.base.jit import kernel
from aldea.core.engine.scan.views import (
    PROBES_INTS,
    PROBES_NOW_INTS,
    PROBES_NOW_RING,
    PROBES_NOW_SCRATCH,
    float_row,
    int_table,
)
from aldea.core.engine.tables.probes import (
    FILTER_MEDIAN,
    P_FILTER,
    P_RING,
    P_TAKES,
    S_HELD,
    S_NEXT,
)


@kernel
def middle(run: int, first: int, held: int) -> float:
    """The middle one of the readings held, or the mean of the middle two."""
    scratch, ring = float_row(run, PROBES_NOW_SCRATCH), float_row(run, PROBES_NOW_RING)
    for i in range(held):
        value = ring[first + i]
        j = i
        while j > 0 and scratch[j - 1] > value:
            scratch[j] = scratch[j - 1]
            j -= 1
        scratch[j] = value
    half = held // 2
    if held % 2 == 1:
        return scratch[half]
    return (scratch[half - 1] + scratch[half]) / 2.0


@kernel
def of_the_last(run: int, p: int, raw: float) -> float:
    """The mean or the median of the last readings, with one more among them."""
    pi, si = int_table(run, PROBES_INTS), int_table(run, PROBES_NOW_INTS)
    ring = float_row(run, PROBES_NOW_RING)
    first, takes = pi[p, P_RING], pi[p, P_TAKES]
    ring[first + si[p, S_NEXT]] = raw
    si[p, S_NEXT] = (si[p, S_NEXT] + 1) % takes
    held = min(si[p, S_HELD] + 1, takes)
    si[p, S_HELD] = held
    if pi[p, P_FILTER] == FILTER_MEDIAN:
        return middle(run, first, held)
    oldest = si[p, S_NEXT] if held == takes else 0
    total = 0.0
    for i in range(held):
        total += ring[first + (oldest + i) % takes]
    return total / held
