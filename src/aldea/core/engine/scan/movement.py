"""Where a drive stands, by its end contacts, a distance or its travel time; what it is found as."""

from aldea.core.base.jit import kernel
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
from aldea.core.engine.scan.arrays import (
    H_FIRST,
    H_STIRRED,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.views import (
    LOADS_FLOATS,
    LOADS_INTS,
    LOADS_NOW_INTS,
    PEOPLE_NOW_INPUTS,
    PROBES_NOW_GOOD,
    PROBES_NOW_VALUES,
    RUN_HEAD,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    L_OPEN_AT,
    L_OPEN_INPUT,
    L_POSITION,
    L_SHUT_AT,
    L_SHUT_INPUT,
    L_TRAVEL_MS,
    O_AT_OPEN,
    O_AT_SHUT,
    O_BLOCKED,
    O_BLOCKED_AUTHOR,
    O_BLOCKED_WHO,
    O_MOVE_AUTHOR,
    O_MOVE_FROM,
    O_MOVE_LEFT,
    O_MOVE_MS,
    O_MOVE_PULSED,
    O_MOVE_WANT,
    O_MOVE_WHO,
    O_STATE,
)


@kernel
def read_ends(run: int, load: int, t_ms: int) -> int:
    """The end at which the drive stands: open, shut, or NONE where neither or both answer.

    Where nothing tells, it is taken to begin shut and to arrive when its travel is over.
    """
    li, lf, oi = (
        int_table(run, LOADS_INTS),
        float_table(run, LOADS_FLOATS),
        int_table(run, LOADS_NOW_INTS),
    )
    position = li[load, L_POSITION]
    if position == NONE and li[load, L_OPEN_INPUT] == NONE:
        moving = oi[load, O_MOVE_MS] != NEVER
        there = moving and t_ms - oi[load, O_MOVE_MS] >= li[load, L_TRAVEL_MS]
        if int_row(run, RUN_HEAD)[H_FIRST] == 1:
            oi[load, O_AT_SHUT] = 1
        elif moving:
            oi[load, O_AT_OPEN] = 1 if there and oi[load, O_MOVE_WANT] == OPEN else 0
            oi[load, O_AT_SHUT] = 1 if there and oi[load, O_MOVE_WANT] == SHUT else 0
    elif position == NONE:
        inputs = int_row(run, PEOPLE_NOW_INPUTS)
        oi[load, O_AT_OPEN] = 1 if inputs[li[load, L_OPEN_INPUT]] != 0 else 0
        oi[load, O_AT_SHUT] = 1 if inputs[li[load, L_SHUT_INPUT]] != 0 else 0
    elif int_row(run, PROBES_NOW_GOOD)[position] == 1:
        value = float_row(run, PROBES_NOW_VALUES)[position]
        open_at, shut_at = lf[load, L_OPEN_AT], lf[load, L_SHUT_AT]
        far_open = open_at > shut_at
        oi[load, O_AT_OPEN] = 1 if (value >= open_at if far_open else value <= open_at) else 0
        oi[load, O_AT_SHUT] = 1 if (value <= shut_at if far_open else value >= shut_at) else 0
    if oi[load, O_AT_OPEN] == oi[load, O_AT_SHUT]:
        return NONE
    return OPEN if oi[load, O_AT_OPEN] == 1 else SHUT


@kernel
def follow_movement(
    run: int,
    load: int,
    here: int,
    decider: int,
    author: int,
    want: int,
    t_ms: int,
) -> int:
    """The state that its ends and its time of travel tell, before any new pulse."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    was = oi[load, O_STATE]
    stands = here if here != NONE else UNKNOWN
    if oi[load, O_MOVE_MS] != NEVER:
        if here == NONE:
            oi[load, O_MOVE_LEFT] = 1
        elif oi[load, O_MOVE_LEFT] == 1 or here != oi[load, O_MOVE_FROM]:
            oi[load, O_MOVE_MS] = NEVER
            return here
        if t_ms - oi[load, O_MOVE_MS] < li[load, L_TRAVEL_MS]:
            return was
        oi[load, O_MOVE_MS] = NEVER
        if oi[load, O_MOVE_PULSED] == 1:
            oi[load, O_BLOCKED] = NEVER
            if stands != want:
                oi[load, O_BLOCKED] = want
                oi[load, O_BLOCKED_WHO] = decider
                oi[load, O_BLOCKED_AUTHOR] = author
                put_event(
                    run, t_ms, EVENT_MISSED, load, stands, MISSED_ARRIVE, decider, author, 0.0
                )
            int_row(run, RUN_HEAD)[H_STIRRED] = 1
        return stands
    if here != NONE:
        return here
    if oi[load, O_AT_OPEN] == 1:
        return UNKNOWN  # both answer
    if was == OPEN or was == SHUT:  # it left an end, and nobody here asked it to
        oi[load, O_MOVE_MS] = t_ms
        oi[load, O_MOVE_FROM] = was
        oi[load, O_MOVE_LEFT] = 1
        oi[load, O_MOVE_PULSED] = 0
        oi[load, O_MOVE_WHO] = UNASKED
        oi[load, O_MOVE_AUTHOR] = NOBODY
        oi[load, O_MOVE_WANT] = NO_WISH
        return MOVING
    return was
