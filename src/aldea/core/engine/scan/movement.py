"""Where a drive stands, by its end contacts, a distance or its travel time; what it is found as."""

from aldea.core.engine.layout import (
    EVENT_MISSED,
    MISSED_ARRIVE,
    MOVING,
    NEVER,
    NO_WISH,
    NOBODY,
    NONE,
    OPEN,
    SHUT,
    UNASKED,
    UNKNOWN,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.inputs import is_high
from aldea.core.engine.tables.loads import NO_STATE
from aldea.core.engine.tables.run import RunTables


def read_ends(run: RunTables, load: int, t_ms: int) -> int:
    """The end at which the drive stands: open, shut, or NONE where neither or both answer.

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
        now.at_open = 1 if is_high(run, spec.open_input) else 0
        now.at_shut = 1 if is_high(run, spec.shut_input) else 0
    elif run.now.signals[spec.position].good == 1:
        value = run.now.signals[spec.position].value
        if spec.open_at > spec.shut_at:
            now.at_open = 1 if value >= spec.open_at else 0
            now.at_shut = 1 if value <= spec.shut_at else 0
        else:
            now.at_open = 1 if value <= spec.open_at else 0
            now.at_shut = 1 if value >= spec.shut_at else 0
    if now.at_open == now.at_shut:
        return NONE
    return OPEN if now.at_open == 1 else SHUT


def follow_movement(run: RunTables, load: int, here: int, author: int, t_ms: int) -> int:
    """The state that its ends and its time of travel tell, before any new pulse."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    decider, want = now.chosen, now.chosen_want
    was = now.state
    stands = here if here != NONE else UNKNOWN
    if now.move_ms != NEVER:
        if here == NONE:
            now.move_left = 1
        elif now.move_left == 1 or here != now.move_from:
            now.move_ms = NEVER
            return here
        if t_ms - now.move_ms < spec.travel_ms:
            return was
        now.move_ms = NEVER
        if now.move_pulsed == 1:
            now.blocked = NO_STATE
            if stands != want:
                now.blocked = want
                now.blocked_who = decider
                now.blocked_author = author
                put_event(
                    run, t_ms, EVENT_MISSED, load, stands, MISSED_ARRIVE, decider, author, 0.0
                )
            run.now.head.stirred = 1
        return stands
    if here != NONE:
        return here
    if now.at_open == 1:
        return UNKNOWN  # both answer
    if was == OPEN or was == SHUT:  # it left an end, and nobody here asked it to
        now.move_ms = t_ms
        now.move_from = was
        now.move_left = 1
        now.move_pulsed = 0
        now.move_who = UNASKED
        now.move_author = NOBODY
        now.move_want = NO_WISH
        return MOVING
    return was
