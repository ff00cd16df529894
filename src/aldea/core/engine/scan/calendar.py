"""Schedules and the sun, read from instants of the board's clock; never by calendar arithmetic."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import FOREVER, NEVER
from aldea.core.engine.scan.arrays import H_CLOCK_BASE, H_CLOCK_KNOWN
from aldea.core.engine.scan.views import (
    CALENDAR_MOMENTS,
    CALENDAR_NOW_BEGUN,
    CALENDAR_NOW_SCHEDULES,
    CALENDAR_SCHEDULES,
    CALENDAR_SPANS,
    CALENDAR_SUN_INSTANTS,
    CALENDAR_SUNS,
    int_table,
)
from aldea.core.engine.tables.people import (
    C_END,
    C_FIRST,
    C_FOR_MS,
    C_MOMENT,
    C_MOMENT_END,
    C_UNKNOWN,
    H_ACTIVE,
    H_HELD,
    H_NEXT,
    H_UNTIL_MS,
    U_END,
    U_FIRST,
    U_UP,
)

MS_PER_DAY = 86_400_000


@kernel
def first_after(instants: IntArray, first: int, end: int, at_ms: int) -> int:
    """The first row of a sorted span whose instant lies after `at_ms`; the end where none does."""
    while first < end:
        half = (first + end) >> 1  # // costs as much as the rest
        if instants[half, 0] <= at_ms:
            first = half + 1
        else:
            end = half
    return first


@kernel
def note_begun(run: int, s: int, at_ms: int) -> None:
    """Remember a moment that has begun; those a day or more before the newest are let go."""
    begun, held = (
        int_table(run, CALENDAR_NOW_BEGUN),
        int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_HELD],
    )
    newest = at_ms if held == 0 else max(at_ms, begun[s, held - 1])
    kept = 0
    for i in range(held):
        if begun[s, i] > newest - MS_PER_DAY:
            begun[s, kept] = begun[s, i]
            kept += 1
    if at_ms > newest - MS_PER_DAY and kept < begun.shape[1]:
        i = kept
        while i > 0 and begun[s, i - 1] > at_ms:
            begun[s, i] = begun[s, i - 1]
            i -= 1
        begun[s, i] = at_ms
        kept += 1
    int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_HELD] = kept


@kernel
def has_begun(run: int, s: int, at_ms: int) -> bool:
    """Whether a moment has begun before, as far as it is remembered."""
    for i in range(int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_HELD]):
        if int_table(run, CALENDAR_NOW_BEGUN)[s, i] == at_ms:
            return True
    return False


@kernel
def judge_schedules(run: int, head: IntArray, t_ms: int) -> None:
    """Whether each schedule is active now: windows by the clock, moments each once and on time."""
    rows = int_table(run, CALENDAR_SCHEDULES)
    known = head[H_CLOCK_KNOWN] == 1
    now_ms = t_ms + head[H_CLOCK_BASE]
    for s in range(rows.shape[0]):
        active = 0
        if known and rows[s, C_FIRST] < rows[s, C_END]:
            # Spans of a schedule are merged: apart and in order.
            at = (
                first_after(
                    int_table(run, CALENDAR_SPANS), rows[s, C_FIRST], rows[s, C_END], now_ms
                )
                - 1
            )
            if at >= rows[s, C_FIRST] and now_ms < int_table(run, CALENDAR_SPANS)[at, 1]:
                active = 1
        if t_ms >= int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_UNTIL_MS]:
            int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_UNTIL_MS] = NEVER
        if known:
            at = max(int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_NEXT], rows[s, C_MOMENT])
            while at < rows[s, C_MOMENT_END] and int_table(run, CALENDAR_MOMENTS)[at, 0] <= now_ms:
                moment_ms = int_table(run, CALENDAR_MOMENTS)[at, 0]
                over_ms = moment_ms + rows[s, C_FOR_MS]
                if now_ms < over_ms and not has_begun(run, s, moment_ms):
                    int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_UNTIL_MS] = t_ms + over_ms - now_ms
                    note_begun(run, s, moment_ms)
                at += 1
            int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_NEXT] = at
        if int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_UNTIL_MS] != NEVER:
            active = 1
        elif not known:
            active = rows[s, C_UNKNOWN]
        int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_ACTIVE] = active


@kernel
def sun_is_up(run: int, sun: int, offset_ms: int, now_ms: int) -> bool:
    """Whether the sun is up by its last instant, plus an offset, at or before the clock."""
    first, end = (
        int_table(run, CALENDAR_SUNS)[sun, U_FIRST],
        int_table(run, CALENDAR_SUNS)[sun, U_END],
    )
    at = first_after(int_table(run, CALENDAR_SUN_INSTANTS), first, end, now_ms - offset_ms) - 1
    if at < first:
        return int_table(run, CALENDAR_SUNS)[sun, U_UP] == 1
    return int_table(run, CALENDAR_SUN_INSTANTS)[at, 1] == 1


@kernel
def next_of_calendar(run: int, head: IntArray, t_ms: int) -> int:
    """The first instant after `t_ms` at which a schedule changes, as the clock is now."""
    first = FOREVER
    rows = int_table(run, CALENDAR_SCHEDULES)
    base_ms = head[H_CLOCK_BASE]
    now_ms = t_ms + base_ms
    for s in range(rows.shape[0]):
        until_ms = int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_UNTIL_MS]
        if until_ms != NEVER:
            first = min(first, until_ms)
        if head[H_CLOCK_KNOWN] == 0:
            continue
        at = first_after(int_table(run, CALENDAR_SPANS), rows[s, C_FIRST], rows[s, C_END], now_ms)
        if at < rows[s, C_END]:
            first = min(first, int_table(run, CALENDAR_SPANS)[at, 0] - base_ms)
        if at > rows[s, C_FIRST] and int_table(run, CALENDAR_SPANS)[at - 1, 1] > now_ms:
            first = min(first, int_table(run, CALENDAR_SPANS)[at - 1, 1] - base_ms)
        at = max(int_table(run, CALENDAR_NOW_SCHEDULES)[s, H_NEXT], rows[s, C_MOMENT])
        if at < rows[s, C_MOMENT_END]:
            first = min(first, int_table(run, CALENDAR_MOMENTS)[at, 0] - base_ms)
    return first


@kernel
def next_sun(run: int, sun: int, offset_ms: int, base_ms: int, t_ms: int) -> int:
    """The first instant after `t_ms` at which the sun, with an offset, changes."""
    first, end = (
        int_table(run, CALENDAR_SUNS)[sun, U_FIRST],
        int_table(run, CALENDAR_SUNS)[sun, U_END],
    )
    at = first_after(int_table(run, CALENDAR_SUN_INSTANTS), first, end, t_ms + base_ms - offset_ms)
    return (
        int_table(run, CALENDAR_SUN_INSTANTS)[at, 0] + offset_ms - base_ms if at < end else FOREVER
    )
