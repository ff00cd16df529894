"""A two-way circuit: the relay changes over where the state wanted is not the one sensed."""

from aldea.core.engine.layout import (
    EVENT_MISSED,
    FOREVER,
    INHIBIT_NONE,
    KIND_TWO_WAY,
    MISSED_FOLLOW,
    NEVER,
    NOBODY,
    NONE,
    OFF,
    PRIORITY_OVERRIDE,
    WANT_OFF,
    WANT_ON,
)
from aldea.core.engine.scan.actions import command
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.holds import enter, held_back, kept_back
from aldea.core.engine.scan.inputs import level_at
from aldea.core.engine.scan.lock_out import let_go_of_lock, lock_out, run_out
from aldea.core.engine.scan.noting import note_change
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.memory import NO_END
from aldea.core.engine.tables.run import RunTables

WALL = 0  # the author of what is done at a wall switch
UNSENSED = -1


def sensed_now(run: RunTables, load: int, t_ms: int) -> int:
    """What is sensed now; where nothing senses it, the lamp follows its relay when it settles."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if spec.sense != NONE:
        return 1 if level_at(run, spec.sense, t_ms) != 0 else 0
    if now.sensed == UNSENSED:
        return 0
    if now.toggled_ms != NEVER and t_ms - now.toggled_ms >= spec.dead_ms:
        return now.tried
    return now.sensed


def sense_two_way(run: RunTables, t_ms: int) -> None:
    """What is sensed; a change that the relay did not make is a person at the wall switch."""
    for load in range(len(run.plan.loads)):
        if run.plan.loads[load].kind != KIND_TWO_WAY:
            continue
        now, found = run.now.loads[load], sensed_now(run, load, t_ms)
        if now.sensed == UNSENSED:  # what is found at boot is no command
            now.sensed = found
            now.state = found
            now.on_ms = t_ms
            now.off_ms = NEVER if run.now.head.free == 1 else t_ms
        elif found != now.sensed:
            now.sensed = found
            if now.toggled_ms == NEVER:
                want = WANT_ON if found == 1 else WANT_OFF
                command(run, t_ms, load, want, WALL, NONE, NONE, NO_END, NONE, NONE)
                now.unasked = 1
            now.toggled_ms = NEVER


def hold_two_way(run: RunTables, load: int, t_ms: int) -> None:
    """One scan of a two-way circuit: its state is the sensed one."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    decider, want = now.chosen, now.chosen_want
    priority = run.plan.rules[decider].priority
    author = now.override_author if priority == PRIORITY_OVERRIDE else NOBODY
    was, kept, rule = now.state, INHIBIT_NONE, decider
    state = now.sensed
    if state != was:
        if now.unasked == 1:
            rule, author = spec.override, WALL
            kept = kept_back(run, load, state, PRIORITY_OVERRIDE)
        else:
            kept = kept_back(run, load, state, priority)
        now.unasked = 0
        enter(run, load, state, t_ms)
        now.kept = INHIBIT_NONE
        now.kept_for = NO_STATE
    if now.locked == 1:
        let_go_of_lock(run, load, t_ms)
    inhibit = held_back(run, load, want, priority, t_ms)
    target = state if inhibit != INHIBIT_NONE else want
    if run_out(run, load, want, priority, target, t_ms):
        target = OFF
        lock_out(run, load, t_ms)
        run.now.head.stirred = 1  # until it is sensed off, each scan begins it anew
    if now.toggled_ms != NEVER and t_ms - now.toggled_ms >= spec.travel_ms:
        now.toggled_ms = NEVER
        now.blocked = now.tried
        put_event(run, t_ms, EVENT_MISSED, load, state, MISSED_FOLLOW, decider, author, 0.0)
        run.now.head.stirred = 1
    if now.blocked != NO_STATE and now.blocked != target:
        now.blocked = NO_STATE
        run.now.head.stirred = 1
    if now.toggled_ms == NEVER:
        if target != state and now.blocked == NO_STATE:
            relay = run.now.lines[spec.line]
            relay.closed = 1 - relay.closed
            run.now.head.lines = 1
            now.toggled_ms = t_ms
            now.tried = target
            run.now.head.stirred = 1
        else:
            now.kept = inhibit
            now.kept_for = 1 - target if inhibit != INHIBIT_NONE else NO_STATE
    note_change(run, load, was, state, rule, author, inhibit, kept, t_ms)


def next_of_two_way(run: RunTables) -> int:
    """The first instant at which a lamp should have followed its relay."""
    first = FOREVER
    for load in range(len(run.plan.loads)):
        spec, now = run.plan.loads[load], run.now.loads[load]
        if spec.kind == KIND_TWO_WAY and now.toggled_ms != NEVER:
            wait_ms = spec.dead_ms if spec.sense == NONE else spec.travel_ms
            first = min(first, now.toggled_ms + wait_ms)
    return first
