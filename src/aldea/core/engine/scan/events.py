"""Rows that a scan writes: where there is room; counted where there is none."""

from aldea.core.engine.layout import NOBODY
from aldea.core.engine.tables.run import RunTables


def put_row(
    run: RunTables,
    t_ms: int,
    kind: int,
    who: int,
    was: int,
    now: int,
    rule: int,
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
    n = run.out.counts.events
    if n < len(run.out.events):
        event = run.out.events[n]
        event.t_ms = t_ms
        event.type = kind
        event.who = who
        event.state_from = was
        event.state_to = now
        event.rule = rule
        event.author = author
        event.decider = decider
        event.decided_by = decided_by
        event.want = want
        event.inhibit = inhibit
        event.kept = kept
        event.cited = cited
        event.value = value
    run.out.counts.events = n + 1


def put_event(
    run: RunTables,
    t_ms: int,
    kind: int,
    who: int,
    was: int,
    now: int,
    rule: int,
    author: int,
    value: float,
) -> None:
    """Write an event that nobody decides."""
    put_row(
        run, t_ms, kind, who, was, now, rule, author, NOBODY, NOBODY, 0, 0, 0, NOBODY, value
    )  # fmt: skip


def put_line(run: RunTables, t_ms: int, line: int, level: int) -> None:
    """Write the new level of a relay's line."""
    n = run.out.counts.lines
    if n < len(run.out.lines):
        out = run.out.lines[n]
        out.t_ms = t_ms
        out.line = line
        out.level = level
    run.out.counts.lines = n + 1
