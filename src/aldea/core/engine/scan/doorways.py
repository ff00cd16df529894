"""Doorway pairs: two sides crossed in an order count people in and out."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import FOREVER, NEVER, NONE
from aldea.core.engine.scan.arrays import H_CLOCK_BASE, H_CLOCK_KNOWN
from aldea.core.engine.scan.calendar import first_after
from aldea.core.engine.scan.views import (
    CALENDAR_RESET_INSTANTS,
    CALENDAR_RESETS,
    PEOPLE_DOORWAYS,
    PEOPLE_NOW_DOORWAYS,
    PEOPLE_NOW_INPUTS,
    int_row,
    int_table,
)
from aldea.core.engine.tables.people import (
    D_CLOCK_MS,
    D_COUNT,
    D_INNER,
    D_OUTER,
    D_RESET,
    D_SIDE,
    D_SIDE_MS,
    UNREAD,
    W_INNER,
    W_OUTER,
    W_WITHIN_MS,
)

OUTER, INNER = 0, 1


@kernel
def count_doorways(run: int, head: IntArray, t_ms: int) -> None:
    """One side, then the other within the time counts once; both at once tell no order.

    The count goes to 0 at a reset instant that the clock reaches or jumps over, once each.
    """
    rows, at = int_table(run, PEOPLE_DOORWAYS), int_table(run, PEOPLE_NOW_DOORWAYS)
    for d in range(rows.shape[0]):
        outer = 1 if int_row(run, PEOPLE_NOW_INPUTS)[rows[d, W_OUTER]] != 0 else 0
        inner = 1 if int_row(run, PEOPLE_NOW_INPUTS)[rows[d, W_INNER]] != 0 else 0
        if at[d, D_OUTER] == UNREAD:  # what is found at boot is no edge
            at[d, D_OUTER] = outer
            at[d, D_INNER] = inner
        rose_outer, rose_inner = outer > at[d, D_OUTER], inner > at[d, D_INNER]
        if at[d, D_SIDE] != NONE and t_ms - at[d, D_SIDE_MS] >= rows[d, W_WITHIN_MS]:
            at[d, D_SIDE] = NONE
        if rose_outer and rose_inner:
            at[d, D_SIDE] = NONE
        elif rose_outer or rose_inner:
            side = OUTER if rose_outer else INNER
            if at[d, D_SIDE] != NONE and at[d, D_SIDE] != side:
                step = 1 if side == INNER else -1
                at[d, D_COUNT] = max(0, at[d, D_COUNT] + step)
                at[d, D_SIDE] = NONE
            else:
                at[d, D_SIDE] = side
                at[d, D_SIDE_MS] = t_ms
        at[d, D_OUTER] = outer
        at[d, D_INNER] = inner
        reset(run, at, head, d, t_ms)


@kernel
def reset(run: int, at: IntArray, head: IntArray, d: int, t_ms: int) -> None:
    """Set the count to 0 where the known clock has come to a reset instant, each once."""
    if head[H_CLOCK_KNOWN] == 0:
        at[d, D_CLOCK_MS] = NEVER
        return
    now_ms = t_ms + head[H_CLOCK_BASE]
    end = int_table(run, CALENDAR_RESETS)[d, 1]
    passed = first_after(
        int_table(run, CALENDAR_RESET_INSTANTS), int_table(run, CALENDAR_RESETS)[d, 0], end, now_ms
    )
    if passed > at[d, D_RESET]:
        if at[d, D_CLOCK_MS] != NEVER:  # only what was passed while the clock was known
            at[d, D_COUNT] = 0
        at[d, D_RESET] = passed
    at[d, D_CLOCK_MS] = now_ms


@kernel
def next_reset(run: int, head: IntArray) -> int:
    """The first instant at which a count goes to 0."""
    first = FOREVER
    for d in range(int_table(run, PEOPLE_DOORWAYS).shape[0]):
        at = max(
            int_table(run, PEOPLE_NOW_DOORWAYS)[d, D_RESET], int_table(run, CALENDAR_RESETS)[d, 0]
        )
        if head[H_CLOCK_KNOWN] == 1 and at < int_table(run, CALENDAR_RESETS)[d, 1]:
            first = min(first, int_table(run, CALENDAR_RESET_INSTANTS)[at, 0] - head[H_CLOCK_BASE])
    return first


@kernel
def boot_doorways(run: int) -> None:
    """After a boot the count is known only where it was retained, and no side has risen."""
    at = int_table(run, PEOPLE_NOW_DOORWAYS)
    for d in range(at.shape[0]):
        at[d, D_COUNT] = 0
        at[d, D_SIDE] = NONE
        at[d, D_OUTER] = UNREAD
        at[d, D_INNER] = UNREAD
        at[d, D_RESET] = int_table(run, CALENDAR_RESETS)[d, 0]
        at[d, D_CLOCK_MS] = NEVER
