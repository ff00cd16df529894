"""Where a drive stands, by its end contacts, a distance or its travel time; who moved it."""

from aldea.core.engine.layout import (
    EVENT_MISSED,
    KIND_DRIVE,
    MISSED_ARRIVE,
    MISSED_LOCKED,
    MOVING,
    NEVER,
    NO_WISH,
    NOBODY,
    NONE,
    OPEN,
    SHUT,
    UNASKED,
    UNKNOWN,
    WANT_OPEN,
    WANT_SHUT,
)
from aldea.core.engine.scan.actions import command
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.inputs import level_at
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.memory import NO_END
from aldea.core.engine.tables.run import RunTables

OUTSIDE = 1  # the author of what is done at a drive itself


def end_of(at_open: int, at_shut: int) -> int:
    """The end that answers: open, shut, or NONE where neither or both do."""
    if at_open == at_shut:
        return NONE
    return OPEN if at_open == 1 else SHUT


def read_ends(run: RunTables, load: int, t_ms: int) -> None:
    """Which ends of a drive answer.

    Where nothing tells, it is taken to begin shut and to arrive when its travel is over.
    """
    spec, now = run.plan.loads[load], run.now.loads[load]
    if spec.position == NONE and spec.open_input == NONE:
        moving = now.move_ms != NEVER
        there = moving and t_ms - now.move_ms >= spec.travel_ms
        if run.now.head.first == 1:
            now.at_shut = 1
        elif moving:
            now.at_open = 1 if there and now.move_want == OPEN else 0
            now.at_shut = 1 if there and now.move_want == SHUT else 0
    elif spec.position == NONE:
        now.at_open = 1 if level_at(run, spec.open_input, t_ms) != 0 else 0
        now.at_shut = 1 if level_at(run, spec.shut_input, t_ms) != 0 else 0
    elif run.now.signals[spec.position].good == 1:
        value = run.now.signals[spec.position].value
        if spec.open_at > spec.shut_at:
            now.at_open = 1 if value >= spec.open_at else 0
            now.at_shut = 1 if value <= spec.shut_at else 0
        else:
            now.at_open = 1 if value <= spec.open_at else 0
            now.at_shut = 1 if value >= spec.shut_at else 0


def explained(run: RunTables, load: int, here: int, t_ms: int) -> bool:
    """Whether an end is left or reached by a pulse of ours, or is found after a boot."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if now.move_ms != NEVER and now.move_pulsed == 1:
        return True
    if now.pulsed_ms != NEVER and t_ms - now.pulsed_ms < spec.travel_ms:
        return True
    if here == NONE:
        return False
    if now.late == 1 and here == now.late_want:
        return True
    return now.unplaced == 1 and t_ms - run.now.head.booted_ms < spec.travel_ms


def sense_drives(run: RunTables, t_ms: int) -> None:
    """Which ends answer; an end left or reached that no pulse of ours explains is a command.

    A drive that others move is overridden by them: an override of the author outside, for the end
    to which it goes.
    """
    for load in range(len(run.plan.loads)):
        spec, now = run.plan.loads[load], run.now.loads[load]
        if spec.kind != KIND_DRIVE:
            continue
        was_open, was_shut = now.at_open, now.at_shut
        before = end_of(was_open, was_shut)
        read_ends(run, load, t_ms)
        here = end_of(now.at_open, now.at_shut)
        now.outside = 0
        found = run.now.head.first == 1
        if spec.position != NONE and run.now.signals[spec.position].good == 1:
            found = found or now.measured == 0
            now.measured = 1
        both = (was_open == 1 and was_shut == 1) or (now.at_open == 1 and now.at_shut == 1)
        if not found and not both and here != before and not explained(run, load, here, t_ms):
            to_open = here == OPEN if here != NONE else before == SHUT
            want = WANT_OPEN if to_open else WANT_SHUT
            command(run, t_ms, load, want, OUTSIDE, NONE, NONE, NO_END, NONE, NONE)
            now.outside = 1
        if here != NONE:
            now.late = 0
            now.unplaced = 0


def did_not_arrive(run: RunTables, load: int, author: int, t_ms: int) -> None:
    """A pulse that failed; after so many in a row the drive is locked out until a reset."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    now.failed = min(now.failed + 1, 100)
    if 0 < spec.tries <= now.failed and now.not_arriving == 0:
        now.not_arriving = 1
        put_event(run, t_ms, EVENT_MISSED, load, now.state, MISSED_LOCKED, now.chosen, author, 0.0)
        run.now.head.stirred = 1


def arrive(run: RunTables, load: int, here: int, author: int, t_ms: int) -> None:
    """A movement of ours ended at an end: the one that its pulse wanted, or back where it began."""
    now = run.now.loads[load]
    if now.move_pulsed == 0:
        return
    if here == now.move_want:
        now.failed = 0
    elif here == now.move_from and here != now.chosen_want:
        did_not_arrive(run, load, author, t_ms)


def time_is_over(run: RunTables, load: int, here: int, author: int, t_ms: int) -> int:
    """The state of a drive whose time of travel is over."""
    now = run.now.loads[load]
    want, decider = now.chosen_want, now.chosen
    stands = here if here != NONE else UNKNOWN
    if now.move_pulsed == 1:
        now.blocked = NO_STATE
        if here == NONE:
            now.late = 1
            now.late_want = now.move_want
        if stands != want:
            now.blocked = want
            now.blocked_who = decider
            now.blocked_author = author
            put_event(run, t_ms, EVENT_MISSED, load, stands, MISSED_ARRIVE, decider, author, 0.0)
            did_not_arrive(run, load, author, t_ms)
        elif here == now.move_want:
            now.failed = 0
        run.now.head.stirred = 1
    return stands


def follow_movement(run: RunTables, load: int, here: int, author: int, t_ms: int) -> int:
    """The state that its ends and its time of travel tell, before any new pulse."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    was = now.state
    if now.move_ms != NEVER:
        if here == NONE:
            now.move_left = 1
        elif now.move_left == 1 or here != now.move_from:
            now.move_ms = NEVER
            arrive(run, load, here, author, t_ms)
            return here
        if t_ms - now.move_ms < spec.travel_ms:
            return was
        now.move_ms = NEVER
        return time_is_over(run, load, here, author, t_ms)
    if here != NONE:
        return here
    if now.at_open == 1:
        return UNKNOWN  # both answer
    if was == OPEN or was == SHUT:  # it left an end, and no pulse of ours asked it to
        now.move_ms = t_ms
        now.move_from = was
        now.move_left = 1
        now.move_pulsed = 0
        now.move_who = spec.override if now.outside == 1 else UNASKED
        now.move_author = OUTSIDE if now.outside == 1 else NOBODY
        now.move_want = NO_WISH
        return MOVING
    return was
