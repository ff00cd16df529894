"""Filters over the last readings: mean and median; that over time stands with its sample."""

from aldea.core.engine.tables.probes import FILTER_MEDIAN
from aldea.core.engine.tables.run import RunTables


def middle(run: RunTables, first: int, held: int) -> float:
    """The middle one of the readings held, or the mean of the middle two."""
    for i in range(held):
        value = run.now.ring[first + i]
        j = i
        while j > 0 and run.now.scratch[j - 1] > value:
            run.now.scratch[j] = run.now.scratch[j - 1]
            j -= 1
        run.now.scratch[j] = value
    half = held // 2
    if held % 2 == 1:
        return run.now.scratch[half]
    return (run.now.scratch[half - 1] + run.now.scratch[half]) / 2.0


def of_the_last(run: RunTables, p: int, raw: float) -> float:
    """The mean or the median of the last readings, with one more among them."""
    spec, now = run.plan.probes[p], run.now.probes[p]
    first, takes = spec.ring, spec.takes
    run.now.ring[first + now.next] = raw
    now.next = (now.next + 1) % takes
    held = min(now.held + 1, takes)
    now.held = held
    if spec.filter == FILTER_MEDIAN:
        return middle(run, first, held)
    oldest = now.next if held == takes else 0
    total = 0.0
    for i in range(held):
        total += run.now.ring[first + (oldest + i) % takes]
    return total / held
