"""Schedules and the sun, read from instants of the board's clock; never by calendar arithmetic."""

from aldea.core.engine.layout import FOREVER, NEVER
from aldea.core.engine.tables.rows import I64, Cells
from aldea.core.engine.tables.run import RunTables

MS_PER_DAY = 86_400_000


def first_after(instants: Cells[I64], first: int, end: int, at_ms: int) -> int:
    """The first place in a sorted span whose instant lies after `at_ms`; the end where none."""
    while first < end:
        half = (first + end) >> 1  # // costs as much as the rest
        if instants[half] <= at_ms:
            first = half + 1
        else:
            end = half
    return first


def note_begun(run: RunTables, s: int, at_ms: int) -> None:
    """Remember a moment that has begun; those a day or more before the newest are forgotten."""
    now, own = run.now.schedules[s], run.plan.begun[s]
    first, held = own.first, now.held
    newest = at_ms if held == 0 else max(at_ms, run.now.begun_ms[first + held - 1])
    kept = 0
    for i in range(held):
        if run.now.begun_ms[first + i] > newest - MS_PER_DAY:
            run.now.begun_ms[first + kept] = run.now.begun_ms[first + i]
            kept += 1
    if at_ms > newest - MS_PER_DAY and kept < own.room:
        place = kept
        while place > 0 and run.now.begun_ms[first + place - 1] > at_ms:
            run.now.begun_ms[first + place] = run.now.begun_ms[first + place - 1]
            place -= 1
        run.now.begun_ms[first + place] = at_ms
        kept += 1
    now.held = kept


def has_begun(run: RunTables, s: int, at_ms: int) -> bool:
    """Whether a moment has begun before, as far as it is remembered."""
    first = run.plan.begun[s].first
    for i in range(run.now.schedules[s].held):
        if run.now.begun_ms[first + i] == at_ms:
            return True
    return False


def begin_reached(run: RunTables, s: int, t_ms: int, now_ms: int) -> None:
    """Begin the moments that the clock has reached while it was known without a break."""
    spec, now = run.calendar.schedules[s], run.now.schedules[s]
    moment = first_after(run.calendar.moment_ms, spec.moment, spec.moment_end, now_ms - spec.for_ms)
    while moment < spec.moment_end and run.calendar.moment_ms[moment] <= now_ms:
        moment_ms = run.calendar.moment_ms[moment]
        if run.now.head.clock_low_ms <= moment_ms and not has_begun(run, s, moment_ms):
            now.until_ms = t_ms + moment_ms + spec.for_ms - now_ms
            note_begun(run, s, moment_ms)
        moment += 1
    now.next = moment


def resume(run: RunTables, s: int, t_ms: int, now_ms: int) -> None:
    """Go on with the retained moments that a cut broke off and whose end has not come."""
    spec, now, own = run.calendar.schedules[s], run.now.schedules[s], run.plan.begun[s]
    now.resumes = 0
    for i in range(now.held):
        begun_ms = run.now.begun_ms[own.first + i]
        over_ms = begun_ms + spec.for_ms
        if begun_ms <= now_ms < over_ms:
            now.until_ms = t_ms + over_ms - now_ms


def judge_schedules(run: RunTables, t_ms: int) -> None:
    """Whether each schedule is active now: windows by the clock, moments each once and on time."""
    known = run.now.head.clock_known == 1
    now_ms = t_ms + run.now.head.clock_base_ms
    for s in range(len(run.calendar.schedules)):
        spec, now = run.calendar.schedules[s], run.now.schedules[s]
        active = 0
        if known and spec.first < spec.end:
            # Spans of a schedule are merged: apart and in order.
            at = first_after(run.calendar.span_from_ms, spec.first, spec.end, now_ms) - 1
            if at >= spec.first and now_ms < run.calendar.span_to_ms[at]:
                active = 1
        if t_ms >= now.until_ms:
            now.until_ms = NEVER
        if known and spec.catch_up == 0:
            begin_reached(run, s, t_ms, now_ms)
        elif known:
            if now.resumes == 1:
                resume(run, s, t_ms, now_ms)
            moment = max(now.next, spec.moment)
            while moment < spec.moment_end and run.calendar.moment_ms[moment] <= now_ms:
                moment_ms = run.calendar.moment_ms[moment]
                over_ms = moment_ms + spec.for_ms
                if now_ms < over_ms and not has_begun(run, s, moment_ms):
                    now.until_ms = t_ms + over_ms - now_ms
                    note_begun(run, s, moment_ms)
                moment += 1
            now.next = moment
        if now.until_ms != NEVER:
            active = 1
        elif not known:
            active = spec.unknown
        now.active = active


def sun_is_up(run: RunTables, sun: int, offset_ms: int, now_ms: int) -> bool:
    """Whether the sun is up by its last instant, plus an offset, at or before the clock."""
    spec = run.calendar.suns[sun]
    at = first_after(run.calendar.sun_ms, spec.first, spec.end, now_ms - offset_ms) - 1
    if at < spec.first:
        return spec.up == 1
    return run.calendar.sun_up[at] == 1


def next_of_calendar(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which a schedule changes, as the clock is now."""
    first = FOREVER
    base_ms = run.now.head.clock_base_ms
    now_ms = t_ms + base_ms
    for s in range(len(run.calendar.schedules)):
        spec, now = run.calendar.schedules[s], run.now.schedules[s]
        if now.until_ms != NEVER:
            first = min(first, now.until_ms)
        if run.now.head.clock_known == 0:
            continue
        at = first_after(run.calendar.span_from_ms, spec.first, spec.end, now_ms)
        if at < spec.end:
            first = min(first, run.calendar.span_from_ms[at] - base_ms)
        if at > spec.first and run.calendar.span_to_ms[at - 1] > now_ms:
            first = min(first, run.calendar.span_to_ms[at - 1] - base_ms)
        moment = max(now.next, spec.moment)
        if moment < spec.moment_end:
            first = min(first, run.calendar.moment_ms[moment] - base_ms)
    return first


def next_sun(run: RunTables, sun: int, offset_ms: int, t_ms: int) -> int:
    """The first instant after `t_ms` at which the sun, with an offset, changes."""
    spec = run.calendar.suns[sun]
    base_ms = run.now.head.clock_base_ms
    at = first_after(run.calendar.sun_ms, spec.first, spec.end, t_ms + base_ms - offset_ms)
    return run.calendar.sun_ms[at] + offset_ms - base_ms if at < spec.end else FOREVER
