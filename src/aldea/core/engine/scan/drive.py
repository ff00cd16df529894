"""A drive by pulses: it moves, arrives, is found moved, or does not arrive."""

from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_BOOT_DELAY,
    INHIBIT_MOVING,
    INHIBIT_NONE,
    INHIBIT_NOT_ARRIVING,
    INHIBIT_SELECTOR,
    KIND_DRIVE,
    MOVING,
    NEVER,
    NO_WISH,
    NOBODY,
    NONE,
    PRIORITY_FAULT,
    PRIORITY_OVERRIDE,
    PRIORITY_TRIP,
    UNASKED,
    UNKNOWN,
)
from aldea.core.engine.scan.holds import waits_for_dial
from aldea.core.engine.scan.movement import OUTSIDE, end_of, follow_movement
from aldea.core.engine.scan.noting import note_change
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.run import RunTables


def hold_drive(run: RunTables, load: int, t_ms: int) -> None:
    """One scan of a drive: where it stands, then one pulse where it is to move and may."""
    spec, now, head = run.plan.loads[load], run.now.loads[load], run.now.head
    decider, want = now.chosen, now.chosen_want
    priority = run.plan.rules[decider].priority
    author = now.override_author if priority == PRIORITY_OVERRIDE else NOBODY
    here = end_of(now.at_open, now.at_shut)
    if head.first == 1:  # what is found at boot is no movement
        now.state = here if here != NONE else UNKNOWN
    else:
        was = now.state
        moving = now.move_ms != NEVER
        who = now.move_who if moving else UNASKED
        moved_by = now.move_author if moving else NOBODY
        if now.outside == 1:
            who = spec.override
            moved_by = OUTSIDE
        followed = follow_movement(run, load, here, author, t_ms)
        if followed != was:
            now.state = followed
            note_change(run, load, was, followed, who, moved_by, now.kept, INHIBIT_NONE, t_ms)
    state = now.state
    if now.blocked != NO_STATE:
        same = now.blocked_who == decider and now.blocked_author == author
        if not same or now.blocked != want or state == want:
            now.blocked = NO_STATE
            head.stirred = 1
    waits = priority != PRIORITY_TRIP and head.free == 0
    waits = waits and t_ms < head.booted_ms + spec.boot_ms
    both = now.at_open == 1 and now.at_shut == 1
    wants_move = (
        want != NO_WISH and state != want and author != OUTSIDE
    )  # who moved it needs no pulse
    still = now.move_ms == NEVER
    ready = now.blocked == NO_STATE and now.pulse_ms == NEVER
    before, kept = state, INHIBIT_NONE
    dials = waits_for_dial(run, load, priority)
    locked = now.not_arriving == 1
    if wants_move and still and ready and not (waits or dials or locked or both):
        run.now.lines[spec.line].closed = 1
        head.lines = 1
        now.pulse_ms = t_ms
        now.pulsed_ms = t_ms
        now.late = 0
        now.move_ms = t_ms
        now.move_from = state
        now.move_left = 1 if here == NONE else 0
        now.move_pulsed = 1
        now.move_who = decider
        now.move_author = author
        now.move_want = want
        kept = now.kept
        if kept == INHIBIT_BOOT_DELAY and priority == PRIORITY_TRIP:
            kept = INHIBIT_NONE
        if kept == INHIBIT_SELECTOR and priority <= PRIORITY_FAULT:
            kept = INHIBIT_NONE
        now.kept = INHIBIT_NONE
        now.state = MOVING
        state = MOVING
    elif wants_move:
        now.kept = INHIBIT_NONE
        if not still and now.move_want != want:
            now.kept = INHIBIT_MOVING
        elif still and waits:
            now.kept = INHIBIT_BOOT_DELAY
        elif still and dials:
            now.kept = INHIBIT_SELECTOR
        elif still and locked:
            now.kept = INHIBIT_NOT_ARRIVING
    else:
        now.kept = INHIBIT_NONE
    note_change(run, load, before, state, decider, author, now.kept, kept, t_ms)
    if now.pulse_ms != NEVER and t_ms - now.pulse_ms >= spec.pulse_ms:
        run.now.lines[spec.line].closed = 0
        head.lines = 1
        now.pulse_ms = NEVER
        head.stirred = 1


def next_of_drives(run: RunTables) -> int:
    """The first instant at which a pulse or a travel is over."""
    first = FOREVER
    for load in range(len(run.plan.loads)):
        spec, now = run.plan.loads[load], run.now.loads[load]
        if spec.kind != KIND_DRIVE:
            continue
        if now.move_ms != NEVER:
            first = min(first, now.move_ms + spec.travel_ms)
        if now.pulse_ms != NEVER:
            first = min(first, now.pulse_ms + spec.pulse_ms)
        if now.kept == INHIBIT_BOOT_DELAY:
            first = min(first, run.now.head.booted_ms + spec.boot_ms)
    return first
