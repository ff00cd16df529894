"""Conditions: every one of them in every scan, members before what is made of them."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import EVENT_CONDITION, FOREVER, NEVER, NOBODY
from aldea.core.engine.scan.arrays import (
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
)
from aldea.core.engine.scan.calendar import next_sun, sun_is_up
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.views import (
    CALENDAR_NOW_SCHEDULES,
    CONDITIONS_FLOATS,
    CONDITIONS_INTS,
    CONDITIONS_MEMBERS,
    LOADS_NOW_INTS,
    PEOPLE_NOW_DOORWAYS,
    PEOPLE_NOW_INPUTS,
    PEOPLE_NOW_MODES,
    PROBES_NOW_GOOD,
    PROBES_NOW_INTS,
    PROBES_NOW_VALUES,
    RUN_CONDITIONS,
    RUN_HEAD,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.conditions import (
    C_DARK,
    C_GOOD,
    C_LET_GO,
    C_LETTING,
    C_MEMBER,
    C_NOW,
    C_SEEN,
    C_SINCE_MS,
    LOAD_ANY_ON,
    LOAD_MISSED,
    N_A,
    N_B,
    N_END,
    N_FIRST,
    N_KIND,
    N_NAMED,
    N_OFF,
    N_OFF_MS,
    N_ON,
    N_ON_MS,
    N_RISING,
    N_SIGNAL,
    NODE_ALL,
    NODE_ANY,
    NODE_CLOCK,
    NODE_COUNT,
    NODE_FOR,
    NODE_INPUT,
    NODE_LOAD,
    NODE_MODE,
    NODE_NOT,
    NODE_PULSE,
    NODE_QUALITY,
    NODE_SCHEDULE,
    NODE_SUN,
    NODE_WITHIN,
    UNSEEN,
)
from aldea.core.engine.tables.loads import O_BLOCKED, O_STATE
from aldea.core.engine.tables.people import D_COUNT, H_ACTIVE
from aldea.core.engine.tables.probes import S_QUALITY


@kernel
def judge_value(run: int, at: IntArray, n: int, kind: int) -> None:
    """A band, or a range, on one value; while that is not good it keeps what it said."""
    signal = int_table(run, CONDITIONS_INTS)[n, N_SIGNAL]
    at[n, C_LET_GO] = 0
    if int_row(run, PROBES_NOW_GOOD)[signal] == 0:
        at[n, C_GOOD] = 0
        at[n, C_DARK] = 1
        return
    at[n, C_GOOD] = 1
    at[n, C_DARK] = 0
    value = float_row(run, PROBES_NOW_VALUES)[signal]
    on, off = (
        float_table(run, CONDITIONS_FLOATS)[n, N_ON],
        float_table(run, CONDITIONS_FLOATS)[n, N_OFF],
    )
    if kind == NODE_WITHIN:
        inside = on <= value < off
        at[n, C_NOW] = 1 if inside else 0
        at[n, C_LET_GO] = 0 if inside else 1
        return
    rising = int_table(run, CONDITIONS_INTS)[n, N_RISING] == 1
    if (value >= on) if rising else (value <= on):
        at[n, C_NOW] = 1
    elif (value <= off) if rising else (value >= off):
        at[n, C_NOW] = 0
        at[n, C_LET_GO] = 1


@kernel
def judge_delay(run: int, at: IntArray, n: int, t_ms: int) -> None:
    """`true for`: a member must be unlike the result, without a break, for the delay."""
    member = int_row(run, CONDITIONS_MEMBERS)[int_table(run, CONDITIONS_INTS)[n, N_FIRST]]
    at[n, C_GOOD] = at[member, C_GOOD]
    if at[member, C_DARK] == 1:  # the delay begins anew when the value is good again
        at[n, C_MEMBER] = UNSEEN
        return
    now = at[member, C_NOW]
    if at[n, C_MEMBER] != now:
        at[n, C_MEMBER] = now
        at[n, C_SINCE_MS] = t_ms
    wait_ms = (
        int_table(run, CONDITIONS_INTS)[n, N_ON_MS]
        if now == 1
        else int_table(run, CONDITIONS_INTS)[n, N_OFF_MS]
    )
    if now != at[n, C_NOW] and t_ms - at[n, C_SINCE_MS] >= wait_ms:
        at[n, C_NOW] = now
    letting = now == 0 and (at[n, C_LETTING] == 1 or at[member, C_LET_GO] == 1)
    at[n, C_LETTING] = 1 if letting else 0
    at[n, C_LET_GO] = 1 if letting and at[n, C_NOW] == 0 else 0


@kernel
def judge_members(run: int, at: IntArray, n: int, kind: int, t_ms: int) -> None:
    """All, any, not, and a pulse from an edge."""
    first, end = (
        int_table(run, CONDITIONS_INTS)[n, N_FIRST],
        int_table(run, CONDITIONS_INTS)[n, N_END],
    )
    every, some, good, go_every, go_some = 1, 0, 1, 1, 0
    for index in range(first, end):
        member = int_row(run, CONDITIONS_MEMBERS)[index]
        every = min(every, at[member, C_NOW])
        some = max(some, at[member, C_NOW])
        good = min(good, at[member, C_GOOD])
        go_every = min(go_every, at[member, C_LET_GO])
        go_some = max(go_some, at[member, C_LET_GO])
    at[n, C_GOOD] = good
    if kind == NODE_ALL:
        at[n, C_NOW] = every
        at[n, C_LET_GO] = go_some
    elif kind == NODE_ANY:
        at[n, C_NOW] = some
        at[n, C_LET_GO] = go_every
    elif kind == NODE_NOT:
        at[n, C_NOW] = 1 - some
        at[n, C_LET_GO] = 1 if some == 1 and good == 1 else 0
    else:
        running = (
            at[n, C_SINCE_MS] != NEVER
            and t_ms - at[n, C_SINCE_MS] < int_table(run, CONDITIONS_INTS)[n, N_ON_MS]
        )
        if not running:
            at[n, C_SINCE_MS] = NEVER
            if some == 1 and at[n, C_MEMBER] == 0:
                at[n, C_SINCE_MS] = t_ms
        at[n, C_MEMBER] = some
        at[n, C_NOW] = 1 if at[n, C_SINCE_MS] != NEVER else 0
        at[n, C_LET_GO] = 1 if at[n, C_NOW] == 0 and good == 1 else 0


@kernel
def read_other(run: int, n: int, kind: int, t_ms: int) -> bool:
    """What a condition says that reads no value of a probe."""
    rows = int_table(run, CONDITIONS_INTS)
    a, b = rows[n, N_A], rows[n, N_B]
    if kind == NODE_INPUT:
        return (1 if int_row(run, PEOPLE_NOW_INPUTS)[a] != 0 else 0) == b
    if kind == NODE_MODE:
        return int_row(run, PEOPLE_NOW_MODES)[a] == b
    if kind == NODE_LOAD:
        load_state = int_table(run, LOADS_NOW_INTS)[a, O_STATE]
        if b == LOAD_MISSED:
            return int_table(run, LOADS_NOW_INTS)[a, O_BLOCKED] != NEVER
        return load_state != 0 if b == LOAD_ANY_ON else load_state == b
    if kind == NODE_COUNT:
        return int_table(run, PEOPLE_NOW_DOORWAYS)[a, D_COUNT] > b
    if kind == NODE_QUALITY:
        return (b >> int_table(run, PROBES_NOW_INTS)[a, S_QUALITY]) & 1 == 1
    if kind == NODE_SCHEDULE:
        return int_table(run, CALENDAR_NOW_SCHEDULES)[a, H_ACTIVE] == 1
    known = int_row(run, RUN_HEAD)[H_CLOCK_KNOWN] == 1
    if kind == NODE_SUN:
        if not known:
            return rows[n, N_OFF_MS] == 1
        now_ms = t_ms + int_row(run, RUN_HEAD)[H_CLOCK_BASE]
        return sun_is_up(run, a, rows[n, N_ON_MS], now_ms) == (b == 1)
    return known if kind == NODE_CLOCK else True


@kernel
def judge_conditions(run: int, t_ms: int) -> bool:
    """What every condition says in this scan, and whether it has let go; whether one is new."""
    at = int_table(run, RUN_CONDITIONS)
    changed = False
    for n in range(at.shape[0]):
        now, good, lets_go, dark = at[n, C_NOW], at[n, C_GOOD], at[n, C_LET_GO], at[n, C_DARK]
        kind = int_table(run, CONDITIONS_INTS)[n, N_KIND]
        if kind <= NODE_WITHIN:
            judge_value(run, at, n, kind)
        elif kind == NODE_FOR:
            judge_delay(run, at, n, t_ms)
        elif kind in (NODE_ALL, NODE_ANY, NODE_NOT, NODE_PULSE):
            judge_members(run, at, n, kind, t_ms)
        else:
            holds = 1 if read_other(run, n, kind, t_ms) else 0
            at[n, C_NOW] = holds
            at[n, C_GOOD] = 1
            at[n, C_LET_GO] = 1 - holds
        if int_table(run, CONDITIONS_INTS)[n, N_NAMED] == 1 and at[n, C_NOW] != at[n, C_SEEN]:
            put_event(run, t_ms, EVENT_CONDITION, n, at[n, C_SEEN], at[n, C_NOW], 0, NOBODY, 0.0)
            at[n, C_SEEN] = at[n, C_NOW]
        if now != at[n, C_NOW] or good != at[n, C_GOOD]:
            changed = True
        elif lets_go != at[n, C_LET_GO] or dark != at[n, C_DARK]:
            changed = True
    return changed


@kernel
def next_of_conditions(run: int, t_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which a delay, a pulse or the sun speaks."""
    rows, at = int_table(run, CONDITIONS_INTS), int_table(run, RUN_CONDITIONS)
    first = FOREVER
    for n in range(at.shape[0]):
        kind = rows[n, N_KIND]
        if kind == NODE_FOR:
            now = at[n, C_MEMBER]
            if now != UNSEEN and now != at[n, C_NOW]:
                wait_ms = rows[n, N_ON_MS] if now == 1 else rows[n, N_OFF_MS]
                first = min(first, at[n, C_SINCE_MS] + wait_ms)
        elif kind == NODE_PULSE:
            if at[n, C_SINCE_MS] != NEVER:
                first = min(first, at[n, C_SINCE_MS] + rows[n, N_ON_MS])
        elif kind == NODE_SUN and int_row(run, RUN_HEAD)[H_CLOCK_KNOWN] == 1:
            base_ms = int_row(run, RUN_HEAD)[H_CLOCK_BASE]
            first = min(first, next_sun(run, rows[n, N_A], rows[n, N_ON_MS], base_ms, t_ms))
    return first
