"""The power goes and comes back: events, dark loads, lines without a level, a torn write."""

import math

from aldea.core.engine.layout import (
    EVENT_LOAD,
    EVENT_POWER,
    INHIBIT_NONE,
    NO_LEVEL,
    NO_POWER,
    NOBODY,
    NONE,
)
from aldea.core.engine.scan.events import put_line, put_row
from aldea.core.engine.scan.memory import tear
from aldea.core.engine.tables.run import RunTables


def power_off(run: RunTables, cut: int, start_ms: int) -> None:
    """The power goes: an event, dark loads, no level on any line, perhaps a torn write."""
    spec = run.inputs.cuts[cut]
    at_ms = max(spec.from_ms, start_ms)
    put_power(run, at_ms, 1, 0)
    for load in range(len(run.plan.loads)):
        now, dark = run.now.loads[load], run.plan.loads[load].unpowered
        put_row(
            run, at_ms, EVENT_LOAD, load, now.state, dark, NO_POWER, NOBODY, NO_POWER, NOBODY, dark,
            INHIBIT_NONE, INHIBIT_NONE, NOBODY, math.nan,
        )  # fmt: skip
        now.state = dark  # the power may go again before anything was scanned
    for line in range(len(run.plan.lines)):
        put_line(run, at_ms, line, NO_LEVEL)
    for line in range(len(run.plan.lines)):
        run.now.lines[line].shown = run.plan.lines[line].boot
        put_line(run, spec.to_ms, line, run.plan.lines[line].boot)
    if spec.torn != NONE:
        tear(run, spec.torn)


def put_power(run: RunTables, at_ms: int, was: int, now: int) -> None:
    """Write that the power went or came back."""
    put_row(
        run, at_ms, EVENT_POWER, 0, was, now, NO_POWER, NOBODY, NO_POWER, NOBODY, 0, INHIBIT_NONE,
        INHIBIT_NONE, NOBODY, math.nan,
    )  # fmt: skip
