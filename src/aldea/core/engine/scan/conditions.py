"""Conditions: every one of them in every scan, members before what is made of them."""

from aldea.core.engine.layout import EVENT_CONDITION, FOREVER, NEVER, NOBODY
from aldea.core.engine.scan.calendar import next_sun, sun_is_up
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.inputs import shown_high
from aldea.core.engine.scan.mode_changes import change_modes
from aldea.core.engine.tables.conditions import (
    KEEP,
    KEPT,
    LIT,
    LOAD_ANY_ON,
    LOAD_MISSED,
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
    ON_STATED,
    STATED,
    STATED_TRUE,
    UNSEEN,
)
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.run import RunTables


def judge_unread(run: RunTables, n: int, t_ms: int) -> None:
    """While its value is not good a condition keeps what it said, or counts as is stated."""
    spec, now = run.plan.conditions[n], run.now.conditions[n]
    now.good = 0
    if spec.without == KEEP or t_ms - run.now.signals[spec.signal].good_ms < spec.keep_ms:
        now.dark = KEPT
        now.now = now.own
        return
    now.dark = STATED
    now.own = 0
    now.now = 1 if spec.without == STATED_TRUE else 0


def judge_value(run: RunTables, n: int, t_ms: int) -> None:
    """A band, or a range, on one value."""
    spec, now = run.plan.conditions[n], run.now.conditions[n]
    signal = run.now.signals[spec.signal]
    now.let_go = 0
    if signal.good == 0:
        judge_unread(run, n, t_ms)
        return
    now.good = 1
    now.dark = LIT
    value = signal.value
    if spec.kind == NODE_WITHIN:
        inside = spec.on <= value < spec.off
        now.own = 1 if inside else 0
        now.now = now.own
        now.let_go = 0 if inside else 1
        return
    rising = spec.rising == 1
    if (value >= spec.on) if rising else (value <= spec.on):
        now.own = 1
    elif (value <= spec.off) if rising else (value >= spec.off):
        now.own = 0
        now.let_go = 1
    now.now = now.own


def judge_delay(run: RunTables, n: int, t_ms: int) -> None:
    """`true for`: a member must be unlike the result, without a break, for the delay."""
    spec, now = run.plan.conditions[n], run.now.conditions[n]
    member = run.now.conditions[run.plan.condition_members[spec.first]]
    now.good = member.good
    if member.dark == KEPT:  # the delay begins anew when the value is good again
        now.member = UNSEEN
        return
    says = member.now
    state = says + ON_STATED if member.dark == STATED else says  # a stated result begins it anew
    if now.member != state:
        now.member = state
        now.since_ms = t_ms
    wait_ms = spec.on_ms if says == 1 else spec.off_ms
    if says != now.now and t_ms - now.since_ms >= wait_ms:
        now.now = says
    letting = says == 0 and (now.letting == 1 or member.let_go == 1)
    now.letting = 1 if letting else 0
    now.let_go = 1 if letting and now.now == 0 else 0


def judge_members(run: RunTables, n: int, t_ms: int) -> None:
    """All, any, not, and a pulse from an edge."""
    spec, now = run.plan.conditions[n], run.now.conditions[n]
    every, some, good, go_every, go_some = True, False, True, True, False
    for index in range(spec.first, spec.end):
        member = run.now.conditions[run.plan.condition_members[index]]
        if member.now == 1:
            some = True
        else:
            every = False
        if member.good == 0:
            good = False
        if member.let_go == 1:
            go_some = True
        else:
            go_every = False
    now.good = 1 if good else 0
    if spec.kind == NODE_ALL:
        now.now = 1 if every else 0
        now.let_go = 1 if go_some else 0
    elif spec.kind == NODE_ANY:
        now.now = 1 if some else 0
        now.let_go = 1 if go_every else 0
    elif spec.kind == NODE_NOT:
        now.now = 0 if some else 1
        now.let_go = 1 if some and good else 0
    else:
        if now.since_ms == NEVER or t_ms - now.since_ms >= spec.on_ms:
            now.since_ms = NEVER
            if some and now.member == 0:
                now.since_ms = t_ms
        now.member = 1 if some else 0
        now.now = 1 if now.since_ms != NEVER else 0
        now.let_go = 1 if now.now == 0 and good else 0


def load_is(run: RunTables, load: int, state: int) -> bool:
    """Whether a load is in a state, on at all, or missed what it was told."""
    now = run.now.loads[load]
    if state == LOAD_MISSED:
        return now.blocked != NO_STATE or now.not_arriving == 1
    return now.state != 0 if state == LOAD_ANY_ON else now.state == state


def read_other(run: RunTables, n: int, t_ms: int) -> bool:
    """What a condition says that reads no value of a probe."""
    spec = run.plan.conditions[n]
    kind, a, b = spec.kind, spec.a, spec.b
    if kind == NODE_INPUT:
        return shown_high(run, a) == (b == 1)
    if kind == NODE_MODE:
        return run.now.modes[a] == b
    if kind == NODE_LOAD:
        return load_is(run, a, b)
    if kind == NODE_COUNT:
        return run.now.doorways[a].count > b
    if kind == NODE_QUALITY:
        return (b >> run.now.probes[a].quality) & 1 == 1
    if kind == NODE_SCHEDULE:
        return run.now.schedules[a].active == 1
    known = run.now.head.clock_known == 1
    if kind == NODE_SUN:
        if not known:
            return spec.off_ms == 1
        now_ms = t_ms + run.now.head.clock_base_ms
        return sun_is_up(run, a, spec.on_ms, now_ms) == (b == 1)
    return known if kind == NODE_CLOCK else True


def judge_some(run: RunTables, t_ms: int, first: int, end: int) -> bool:
    """The results of the conditions from row `first` up to but not `end`; whether one is new."""
    changed = False
    for n in range(first, end):
        spec, now = run.plan.conditions[n], run.now.conditions[n]
        says, good, let_go, dark = now.now, now.good, now.let_go, now.dark
        if spec.kind <= NODE_WITHIN:
            judge_value(run, n, t_ms)
        elif spec.kind == NODE_FOR:
            judge_delay(run, n, t_ms)
        elif spec.kind in (NODE_ALL, NODE_ANY, NODE_NOT, NODE_PULSE):
            judge_members(run, n, t_ms)
        else:
            holds = read_other(run, n, t_ms)
            now.now = 1 if holds else 0
            now.good = 1
            now.let_go = 0 if holds else 1
        if spec.named == 1 and now.now != now.seen:
            put_event(run, t_ms, EVENT_CONDITION, n, now.seen, now.now, 0, NOBODY, 0.0)
            now.seen = now.now
        if says != now.now or good != now.good or let_go != now.let_go or dark != now.dark:
            changed = True
    return changed


def judge_conditions(run: RunTables, t_ms: int) -> bool:
    """The result of every condition in this scan; whether one is new, or a mode is set.

    Those that set a mode come first, so that all others see the mode of this scan.
    """
    end = len(run.plan.conditions)
    if len(run.plan.mode_changes) == 0:
        return judge_some(run, t_ms, 0, end)
    before = run.plan.mode_changes[0].before
    changed = judge_some(run, t_ms, 0, before)
    if change_modes(run, t_ms):
        changed = True
    if judge_some(run, t_ms, before, end):
        changed = True
    return changed


def next_of_conditions(run: RunTables, t_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which a delay, a pulse or the sun speaks."""
    first = FOREVER
    for n in range(len(run.plan.conditions)):
        spec, now = run.plan.conditions[n], run.now.conditions[n]
        if spec.kind <= NODE_WITHIN:
            if now.dark == KEPT and spec.without != KEEP:
                first = min(first, run.now.signals[spec.signal].good_ms + spec.keep_ms)
        elif spec.kind == NODE_FOR:
            says = now.member % ON_STATED
            if now.member != UNSEEN and says != now.now:
                wait_ms = spec.on_ms if says == 1 else spec.off_ms
                first = min(first, now.since_ms + wait_ms)
        elif spec.kind == NODE_PULSE:
            if now.since_ms != NEVER:
                first = min(first, now.since_ms + spec.on_ms)
        elif spec.kind == NODE_SUN and run.now.head.clock_known == 1:
            first = min(first, next_sun(run, spec.a, spec.on_ms, t_ms))
    return first
