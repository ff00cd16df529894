"""The power goes and comes back: events, dark loads, lines without a level, a torn write."""

import math

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_LOAD,
    EVENT_POWER,
    INHIBIT_NONE,
    NO_LEVEL,
    NO_POWER,
    NOBODY,
    NONE,
)
from aldea.core.engine.scan.arrays import (
    Y_FROM_MS,
    Y_TO_MS,
    Y_TORN,
)
from aldea.core.engine.scan.events import put_line, put_row
from aldea.core.engine.scan.memory import tear
from aldea.core.engine.scan.views import (
    INPUTS_CUTS,
    LOADS_INTS,
    LOADS_LINES,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
    MEMORY_POLICY,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import L_UNPOWERED, O_STATE, R_BOOT, W_SHOWN
from aldea.core.engine.tables.memory import Y_BYTES


@kernel
def power_off(
    run: int,
    cut: int,
    start_ms: int,
) -> None:
    """The power goes: an event, dark loads, no level on any line, perhaps a torn write."""
    at_ms = max(int_table(run, INPUTS_CUTS)[cut, Y_FROM_MS], start_ms)
    put_power(run, at_ms, 1, 0)
    oi, lines = int_table(run, LOADS_NOW_INTS), int_table(run, LOADS_NOW_LINES)
    for load in range(oi.shape[0]):
        was, now = oi[load, O_STATE], int_table(run, LOADS_INTS)[load, L_UNPOWERED]
        put_row(
            run,
            at_ms,
            EVENT_LOAD,
            load,
            was,
            now,
            NO_POWER,
            NOBODY,
            NO_POWER,
            NOBODY,
            now,
            INHIBIT_NONE,
            INHIBIT_NONE,
            NOBODY,
            math.nan,
        )
        oi[load, O_STATE] = now  # the power may go again before anything was scanned
    for line in range(lines.shape[0]):
        put_line(run, at_ms, line, NO_LEVEL)
    for line in range(lines.shape[0]):
        lines[line, W_SHOWN] = int_table(run, LOADS_LINES)[line, R_BOOT]
        put_line(
            run,
            int_table(run, INPUTS_CUTS)[cut, Y_TO_MS],
            line,
            int_table(run, LOADS_LINES)[line, R_BOOT],
        )
    if int_table(run, INPUTS_CUTS)[cut, Y_TORN] != NONE:
        tear(run, int_table(run, INPUTS_CUTS)[cut, Y_TORN], int_row(run, MEMORY_POLICY)[Y_BYTES])


@kernel
def put_power(run: int, at_ms: int, was: int, now: int) -> None:
    """Write that the power went or came back."""
    put_row(
        run,
        at_ms,
        EVENT_POWER,
        0,
        was,
        now,
        NO_POWER,
        NOBODY,
        NO_POWER,
        NOBODY,
        0,
        INHIBIT_NONE,
        INHIBIT_NONE,
        NOBODY,
        math.nan,
    )
