"""Conditions: every one of them in every scan, members before what is made of them."""

import math

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import EVENT_CONDITION, FOREVER, NEVER, NOBODY
from aldea.core.engine.scan.arrays import (
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
    H_LISTENS,
    OutArrays,
    PlanArrays,
    StateArrays,
)
from aldea.core.engine.scan.calendar import next_sun, sun_is_up
from aldea.core.engine.scan.events import put_event
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
    ConditionPlan,
)
from aldea.core.engine.tables.loads import L_POSITION, O_BLOCKED, O_STATE
from aldea.core.engine.tables.people import D_COUNT, H_ACTIVE, Calendar
from aldea.core.engine.tables.probes import S_QUALITY, ProbeState

UNSEEN = -1  # of a member before the first scan after a boot


@kernel
def judge_value(plan: ConditionPlan, at: IntArray, probes: ProbeState, n: int, kind: int) -> None:
    """A band, or a range, on one value; while that is not good it keeps what it said."""
    signal = plan.ints[n, N_SIGNAL]
    at[n, C_LET_GO] = 0
    if probes.good[signal] == 0:
        at[n, C_GOOD] = 0
        at[n, C_DARK] = 1
        return
    at[n, C_GOOD] = 1
    at[n, C_DARK] = 0
    value = probes.values[signal]
    on, off = plan.floats[n, N_ON], plan.floats[n, N_OFF]
    if kind == NODE_WITHIN:
        inside = on <= value < off
        at[n, C_NOW] = 1 if inside else 0
        at[n, C_LET_GO] = 0 if inside else 1
        return
    rising = plan.ints[n, N_RISING] == 1
    if (value >= on) if rising else (value <= on):
        at[n, C_NOW] = 1
    elif (value <= off) if rising else (value >= off):
        at[n, C_NOW] = 0
        at[n, C_LET_GO] = 1


@kernel
def judge_delay(plan: ConditionPlan, at: IntArray, n: int, t_ms: int) -> None:
    """`true for`: a member must be unlike the result, without a break, for the delay."""
    member = plan.members[plan.ints[n, N_FIRST]]
    at[n, C_GOOD] = at[member, C_GOOD]
    if at[member, C_DARK] == 1:  # the delay begins anew when the value is good again
        at[n, C_MEMBER] = UNSEEN
        return
    now = at[member, C_NOW]
    if at[n, C_MEMBER] != now:
        at[n, C_MEMBER] = now
        at[n, C_SINCE_MS] = t_ms
    wait_ms = plan.ints[n, N_ON_MS] if now == 1 else plan.ints[n, N_OFF_MS]
    if now != at[n, C_NOW] and t_ms - at[n, C_SINCE_MS] >= wait_ms:
        at[n, C_NOW] = now
    letting = now == 0 and (at[n, C_LETTING] == 1 or at[member, C_LET_GO] == 1)
    at[n, C_LETTING] = 1 if letting else 0
    at[n, C_LET_GO] = 1 if letting and at[n, C_NOW] == 0 else 0


@kernel
def judge_members(plan: ConditionPlan, at: IntArray, n: int, kind: int, t_ms: int) -> None:
    """All, any, not, and a pulse from an edge."""
    first, end = plan.ints[n, N_FIRST], plan.ints[n, N_END]
    every, some, good, go_every, go_some = 1, 0, 1, 1, 0
    for index in range(first, end):
        member = plan.members[index]
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
        running = at[n, C_SINCE_MS] != NEVER and t_ms - at[n, C_SINCE_MS] < plan.ints[n, N_ON_MS]
        if not running:
            at[n, C_SINCE_MS] = NEVER
            if some == 1 and at[n, C_MEMBER] == 0:
                at[n, C_SINCE_MS] = t_ms
        at[n, C_MEMBER] = some
        at[n, C_NOW] = 1 if at[n, C_SINCE_MS] != NEVER else 0
        at[n, C_LET_GO] = 1 if at[n, C_NOW] == 0 and good == 1 else 0


@kernel
def read_other(
    plan: PlanArrays, state: StateArrays, calendar: Calendar, n: int, kind: int, t_ms: int
) -> bool:
    """What a condition says that reads no value of a probe."""
    rows = plan.conditions.ints
    a, b = rows[n, N_A], rows[n, N_B]
    if kind == NODE_INPUT:
        return (1 if state.people.inputs[a] != 0 else 0) == b
    if kind == NODE_MODE:
        return state.people.modes[a] == b
    if kind == NODE_LOAD:
        load_state = state.loads.ints[a, O_STATE]
        if b == LOAD_MISSED:
            return state.loads.ints[a, O_BLOCKED] != NEVER
        return load_state != 0 if b == LOAD_ANY_ON else load_state == b
    if kind == NODE_COUNT:
        return state.people.doorways[a, D_COUNT] > b
    if kind == NODE_QUALITY:
        return (b >> state.probes.ints[a, S_QUALITY]) & 1 == 1
    if kind == NODE_SCHEDULE:
        return state.calendar.schedules[a, H_ACTIVE] == 1
    known = state.head[H_CLOCK_KNOWN] == 1
    if kind == NODE_SUN:
        if not known:
            return rows[n, N_OFF_MS] == 1
        now_ms = t_ms + state.head[H_CLOCK_BASE]
        return sun_is_up(calendar, a, rows[n, N_ON_MS], now_ms) == (b == 1)
    return known if kind == NODE_CLOCK else True


@kernel
def judge_conditions(
    plan: PlanArrays, state: StateArrays, calendar: Calendar, t_ms: int, out: OutArrays
) -> None:
    """What every condition says in this scan, and whether it has let go."""
    table, at = plan.conditions, state.conditions
    for n in range(at.shape[0]):
        kind = table.ints[n, N_KIND]
        if kind <= NODE_WITHIN:
            judge_value(table, at, state.probes, n, kind)
        elif kind == NODE_FOR:
            judge_delay(table, at, n, t_ms)
        elif kind in (NODE_ALL, NODE_ANY, NODE_NOT, NODE_PULSE):
            judge_members(table, at, n, kind, t_ms)
        else:
            now = 1 if read_other(plan, state, calendar, n, kind, t_ms) else 0
            at[n, C_NOW] = now
            at[n, C_GOOD] = 1
            at[n, C_LET_GO] = 1 - now
        if table.ints[n, N_NAMED] == 1 and at[n, C_NOW] != at[n, C_SEEN]:
            put_event(out, t_ms, EVENT_CONDITION, n, at[n, C_SEEN], at[n, C_NOW], 0, NOBODY, 0.0)
            at[n, C_SEEN] = at[n, C_NOW]


@kernel
def next_of_conditions(plan: PlanArrays, state: StateArrays, calendar: Calendar, t_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which a delay, a pulse or the sun speaks."""
    rows, at = plan.conditions.ints, state.conditions
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
        elif kind == NODE_SUN and state.head[H_CLOCK_KNOWN] == 1:
            base_ms = state.head[H_CLOCK_BASE]
            first = min(first, next_sun(calendar, rows[n, N_A], rows[n, N_ON_MS], base_ms, t_ms))
    return first


@kernel
def quiet_bounds(plan: PlanArrays, state: StateArrays) -> None:
    """Per probe the open interval (low, high) inside which no condition on it can change.

    A probe that a derived signal reads has none: each of its readings may change something. While
    somebody listens for a condition to let go, that counts as a change.
    """
    listens = state.head[H_LISTENS] == 1
    table, at, quiet = plan.conditions, state.conditions, state.probes.quiet
    probes = quiet.shape[0]
    for p in range(probes):
        quiet[p, 0] = -math.inf
        quiet[p, 1] = math.inf
    for index in range(plan.probes.members.shape[0]):
        p = plan.probes.members[index]
        if p < probes:
            quiet[p, 0] = math.inf
    for load in range(plan.loads.ints.shape[0]):
        p = plan.loads.ints[load, L_POSITION]
        if 0 <= p < probes:
            quiet[p, 0] = math.inf
    for n in range(at.shape[0]):
        kind, p = table.ints[n, N_KIND], table.ints[n, N_SIGNAL]
        if kind > NODE_WITHIN or p >= probes:
            continue
        on, off = table.floats[n, N_ON], table.floats[n, N_OFF]
        low, high = -math.inf, math.inf
        if kind == NODE_WITHIN:
            value = state.probes.values[p]
            if at[n, C_NOW] == 1:
                low, high = on, off
            elif value < on:
                high = on
            else:
                low = off
        elif table.ints[n, N_RISING] == 1:
            if at[n, C_NOW] == 1 or (listens and at[n, C_LET_GO] == 0):
                low = off
            if at[n, C_NOW] == 0:
                high = off if listens and at[n, C_LET_GO] == 1 else on
        else:
            if at[n, C_NOW] == 1 or (listens and at[n, C_LET_GO] == 0):
                high = off
            if at[n, C_NOW] == 0:
                low = off if listens and at[n, C_LET_GO] == 1 else on
        quiet[p, 0] = max(quiet[p, 0], low)
        quiet[p, 1] = min(quiet[p, 1], high)


@kernel
def boot_conditions(plan: ConditionPlan, at: IntArray) -> None:
    """After a boot every condition is off, no delay runs, and what is found is no edge."""
    for n in range(at.shape[0]):
        at[n, C_NOW] = 0
        at[n, C_MEMBER] = UNSEEN
        at[n, C_SINCE_MS] = NEVER
        at[n, C_LET_GO] = 0
        at[n, C_GOOD] = 0
        at[n, C_DARK] = 0
        at[n, C_LETTING] = 0
