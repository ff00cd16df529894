"""Rows that a scan writes: where there is room; counted where there is none."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    E_AUTHOR,
    E_CITED,
    E_CLAIM,
    E_DECIDED_BY,
    E_DECIDER,
    E_FROM,
    E_INHIBIT,
    E_KEPT,
    E_T_MS,
    E_TO,
    E_TYPE,
    E_WANT,
    E_WHO,
    NOBODY,
)
from aldea.core.engine.scan.arrays import COUNT_EVENTS, COUNT_LINES
from aldea.core.engine.scan.views import (
    OUT_COUNTS,
    OUT_EVENTS,
    OUT_LINES,
    OUT_VALUES,
    float_row,
    int_row,
    int_table,
)


@kernel
def put_row(
    run: int,
    t_ms: int,
    kind: int,
    who: int,
    was: int,
    now: int,
    claim: int,
    author: int,
    decider: int,
    decided_by: int,
    want: int,
    inhibit: int,
    kept: int,
    cited: int,
    value: float,
) -> None:
    """Write one event where there is room; the count goes on, so that the caller can make room."""
    counts, events = int_row(run, OUT_COUNTS), int_table(run, OUT_EVENTS)
    n = counts[COUNT_EVENTS]
    if n < events.shape[0]:
        events[n, E_T_MS] = t_ms
        events[n, E_TYPE] = kind
        events[n, E_WHO] = who
        events[n, E_FROM] = was
        events[n, E_TO] = now
        events[n, E_CLAIM] = claim
        events[n, E_AUTHOR] = author
        events[n, E_DECIDER] = decider
        events[n, E_DECIDED_BY] = decided_by
        events[n, E_WANT] = want
        events[n, E_INHIBIT] = inhibit
        events[n, E_KEPT] = kept
        events[n, E_CITED] = cited
        float_row(run, OUT_VALUES)[n] = value
    counts[COUNT_EVENTS] = n + 1


@kernel
def put_event(
    run: int,
    t_ms: int,
    kind: int,
    who: int,
    was: int,
    now: int,
    claim: int,
    author: int,
    value: float,
) -> None:
    """Write an event that nobody decides."""
    put_row(
        run,
        t_ms,
        kind,
        who,
        was,
        now,
        claim,
        author,
        NOBODY,
        NOBODY,
        0,
        0,
        0,
        NOBODY,
        value,
    )


@kernel
def put_line(run: int, t_ms: int, line: int, level: int) -> None:
    """Write the new level of a relay's line."""
    n = int_row(run, OUT_COUNTS)[COUNT_LINES]
    if n < int_table(run, OUT_LINES).shape[0]:
        int_table(run, OUT_LINES)[n, 0] = t_ms
        int_table(run, OUT_LINES)[n, 1] = line
        int_table(run, OUT_LINES)[n, 2] = level
    int_row(run, OUT_COUNTS)[COUNT_LINES] = n + 1
