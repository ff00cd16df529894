"""What may hold a wanted change, in the order of ENGINE.md; and what a load takes on."""

from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_BOOT_DELAY,
    INHIBIT_MAX_ON,
    INHIBIT_MIN_OFF,
    INHIBIT_MIN_ON,
    INHIBIT_NONE,
    INHIBIT_SELECTOR,
    INHIBIT_STARTS,
    NOBODY,
    NONE,
    OFF,
    PRIORITY_FAULT,
    PRIORITY_OVERRIDE,
    PRIORITY_TRIP,
)
from aldea.core.engine.scan.contacts import close_contacts
from aldea.core.engine.scan.lock_out import let_go_of_lock, lock_out, run_out
from aldea.core.engine.scan.noting import note_change
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.people import UNREAD
from aldea.core.engine.tables.run import RunTables

HOUR_MS = 3_600_000


def starts_in_hour(run: RunTables, load: int, t_ms: int) -> int:
    """How often the load went on within the hour before, as far as that counts."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    count = 0
    for i in range(now.starts_held):
        if t_ms - run.now.starts_ms[spec.ring + i] < HOUR_MS:
            count += 1
    return count


def waits_for_dial(run: RunTables, load: int, priority: int) -> bool:
    """Whether the selector whose position rules a load was not read yet since the boot."""
    dial = run.plan.loads[load].dial
    if dial == NONE or priority <= PRIORITY_FAULT or run.now.head.free == 1:
        return False
    return run.now.selectors[dial].spoken == UNREAD


def held_back(run: RunTables, load: int, want: int, priority: int, t_ms: int) -> int:
    """The first rule that keeps a load from what is wanted; 0 where none does."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if now.state == OFF and want != OFF:
        if t_ms - now.off_ms < spec.min_off_ms:
            return INHIBIT_MIN_OFF
        if priority != PRIORITY_TRIP and now.locked == 1:
            return INHIBIT_MAX_ON
        if spec.starts != NONE:
            if starts_in_hour(run, load, t_ms) >= spec.starts:
                return INHIBIT_STARTS
        if priority != PRIORITY_TRIP and run.now.head.free == 0:
            if t_ms < run.now.head.booted_ms + spec.boot_ms:
                return INHIBIT_BOOT_DELAY
        if waits_for_dial(run, load, priority):
            return INHIBIT_SELECTOR
    elif now.state != OFF and want == OFF and priority > PRIORITY_FAULT:
        if t_ms - now.on_ms < spec.min_on_ms:
            return INHIBIT_MIN_ON
    return INHIBIT_NONE


def enter(run: RunTables, load: int, state: int, t_ms: int) -> None:
    """Take on a new state, and begin what is counted from it."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if now.state == OFF and state != OFF:
        now.on_ms = t_ms
        room = spec.starts
        if room > 0:
            run.now.starts_ms[spec.ring + now.starts_next] = t_ms
            now.starts_next = (now.starts_next + 1) % room
            now.starts_held = min(now.starts_held + 1, room)
    elif now.state != OFF and state == OFF:
        now.off_ms = t_ms
    now.state = state
    now.pattern_ms = t_ms


def kept_back(run: RunTables, load: int, state: int, priority: int) -> int:
    """What kept this same change back in the scan before, unless what decides breaks it."""
    now = run.now.loads[load]
    kept = now.kept if now.kept_for == state else INHIBIT_NONE
    if kept == INHIBIT_MIN_ON and priority < PRIORITY_OVERRIDE:
        return INHIBIT_NONE
    if kept == INHIBIT_SELECTOR and priority <= PRIORITY_FAULT:
        return INHIBIT_NONE
    if priority == PRIORITY_TRIP and (kept == INHIBIT_MAX_ON or kept == INHIBIT_BOOT_DELAY):
        return INHIBIT_NONE
    return kept


def hold_steady(run: RunTables, load: int, t_ms: int, period_ms: int) -> None:
    """One scan of a load whose contacts hold a combination for each state."""
    now = run.now.loads[load]
    decider, want = now.chosen, now.chosen_want
    priority = run.plan.rules[decider].priority
    author = now.override_author if priority == PRIORITY_OVERRIDE else NOBODY
    if now.locked == 1:
        let_go_of_lock(run, load, t_ms)
    was = now.state
    inhibit = held_back(run, load, want, priority, t_ms)
    target = was if inhibit != INHIBIT_NONE else want
    cause = INHIBIT_NONE
    if run_out(run, load, want, priority, target, t_ms):
        target = OFF
        cause = INHIBIT_MAX_ON
        lock_out(run, load, t_ms)
        run.now.head.stirred = 1  # while it cannot open, each scan begins it anew
    missing = close_contacts(run, load, target, t_ms, period_ms)
    state = target
    if missing != INHIBIT_NONE:
        state = was
        if inhibit == INHIBIT_NONE:
            inhibit = missing
    kept = INHIBIT_NONE
    if state != was:
        kept = cause if cause != INHIBIT_NONE else kept_back(run, load, state, priority)
        enter(run, load, state, t_ms)
    now.kept = inhibit
    now.kept_for = want if inhibit != INHIBIT_NONE else NO_STATE
    note_change(run, load, was, state, decider, author, inhibit, kept, t_ms)


def next_of_holds(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which something that holds a load is over."""
    first = FOREVER
    for load in range(len(run.plan.loads)):
        spec, now = run.plan.loads[load], run.now.loads[load]
        inhibit = now.kept
        if inhibit == INHIBIT_MIN_ON:
            first = min(first, now.on_ms + spec.min_on_ms)
        elif inhibit == INHIBIT_MIN_OFF:
            first = min(first, now.off_ms + spec.min_off_ms)
        elif inhibit == INHIBIT_BOOT_DELAY:
            first = min(first, run.now.head.booted_ms + spec.boot_ms)
        elif inhibit == INHIBIT_STARTS:
            for i in range(now.starts_held):
                over_ms = run.now.starts_ms[spec.ring + i] + HOUR_MS
                if over_ms > t_ms:
                    first = min(first, over_ms)
        if now.locked == 1:
            rested_ms = now.lock_ms + spec.rest_ms
            if rested_ms > t_ms:
                first = min(first, rested_ms)
        if spec.max_on_ms != NONE and now.state != OFF:
            longest_ms = now.on_ms + spec.max_on_ms
            if longest_ms > t_ms:
                first = min(first, longest_ms)
    return first
