"""A drive by pulses: it moves, arrives, is found moved, or does not arrive."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_MISSED,
    FOREVER,
    INHIBIT_BOOT_DELAY,
    INHIBIT_MOVING,
    INHIBIT_NONE,
    KIND_DRIVE,
    MISSED_ARRIVE,
    MOVING,
    NEVER,
    NO_WISH,
    NOBODY,
    NONE,
    OPEN,
    RANK_HAND,
    RANK_TRIP,
    SHUT,
    UNASKED,
    UNKNOWN,
)
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FIRST,
    H_FREE,
    H_LINES,
    H_STIRRED,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.holds import note_change
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_FLOATS,
    LOADS_INTS,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
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
    K_RANK,
    L_BOOT_MS,
    L_KIND,
    L_LINE,
    L_OPEN_AT,
    L_OPEN_INPUT,
    L_POSITION,
    L_PULSE_MS,
    L_SHUT_AT,
    L_SHUT_INPUT,
    L_TRAVEL_MS,
    O_AT_OPEN,
    O_AT_SHUT,
    O_BLOCKED,
    O_BLOCKED_AUTHOR,
    O_BLOCKED_WHO,
    O_HAND_AUTHOR,
    O_KEPT,
    O_MOVE_AUTHOR,
    O_MOVE_FROM,
    O_MOVE_LEFT,
    O_MOVE_MS,
    O_MOVE_PULSED,
    O_MOVE_WANT,
    O_MOVE_WHO,
    O_PULSE_MS,
    O_STATE,
    W_CLOSED,
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


@kernel
def hold_drive(
    run: int,
    load: int,
    decider: int,
    want: int,
    t_ms: int,
) -> None:
    """One scan of a drive: where it stands, then one pulse where it is to move and may."""
    li, oi, head = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_row(run, RUN_HEAD),
    )
    rank = int_table(run, LOADS_CLAIMS)[decider, K_RANK]
    author = oi[load, O_HAND_AUTHOR] if rank == RANK_HAND else NOBODY
    here = read_ends(run, load, t_ms)
    line = li[load, L_LINE]
    if head[H_FIRST] == 1:  # what is found at boot is no movement
        oi[load, O_STATE] = here if here != NONE else UNKNOWN
    else:
        was = oi[load, O_STATE]
        who = oi[load, O_MOVE_WHO] if oi[load, O_MOVE_MS] != NEVER else UNASKED
        moved_by = oi[load, O_MOVE_AUTHOR] if oi[load, O_MOVE_MS] != NEVER else NOBODY
        now = follow_movement(run, load, here, decider, author, want, t_ms)
        if now != was:
            oi[load, O_STATE] = now
            note_change(
                run,
                load,
                was,
                now,
                who,
                moved_by,
                decider,
                want,
                oi[load, O_KEPT],
                INHIBIT_NONE,
                t_ms,
            )
    now = oi[load, O_STATE]
    if oi[load, O_BLOCKED] != NEVER:
        same = oi[load, O_BLOCKED_WHO] == decider and oi[load, O_BLOCKED_AUTHOR] == author
        if not same or oi[load, O_BLOCKED] != want or now == want:
            oi[load, O_BLOCKED] = NEVER
            head[H_STIRRED] = 1
    waits = rank != RANK_TRIP and head[H_FREE] == 0
    waits = waits and t_ms < head[H_BOOTED_MS] + li[load, L_BOOT_MS]
    both = oi[load, O_AT_OPEN] == 1 and oi[load, O_AT_SHUT] == 1
    asked = want != NO_WISH and now != want
    still = oi[load, O_MOVE_MS] == NEVER
    before, kept = now, INHIBIT_NONE
    if (
        asked
        and still
        and oi[load, O_BLOCKED] == NEVER
        and oi[load, O_PULSE_MS] == NEVER
        and not waits
        and not both
    ):
        int_table(run, LOADS_NOW_LINES)[line, W_CLOSED] = 1
        head[H_LINES] = 1
        oi[load, O_PULSE_MS] = t_ms
        oi[load, O_MOVE_MS] = t_ms
        oi[load, O_MOVE_FROM] = now
        oi[load, O_MOVE_LEFT] = 1 if here == NONE else 0
        oi[load, O_MOVE_PULSED] = 1
        oi[load, O_MOVE_WHO] = decider
        oi[load, O_MOVE_AUTHOR] = author
        oi[load, O_MOVE_WANT] = want
        kept = oi[load, O_KEPT]
        if kept == INHIBIT_BOOT_DELAY and rank == RANK_TRIP:
            kept = INHIBIT_NONE
        oi[load, O_KEPT] = INHIBIT_NONE
        oi[load, O_STATE] = MOVING
        now = MOVING
    elif asked:
        if not still and oi[load, O_MOVE_WANT] != want:
            oi[load, O_KEPT] = INHIBIT_MOVING
        elif still and waits:
            oi[load, O_KEPT] = INHIBIT_BOOT_DELAY
    else:
        oi[load, O_KEPT] = INHIBIT_NONE
    note_change(
        run,
        load,
        before,
        now,
        decider,
        author,
        decider,
        want,
        oi[load, O_KEPT],
        kept,
        t_ms,
    )
    if oi[load, O_PULSE_MS] != NEVER:
        if t_ms - oi[load, O_PULSE_MS] >= li[load, L_PULSE_MS]:
            int_table(run, LOADS_NOW_LINES)[line, W_CLOSED] = 0
            head[H_LINES] = 1
            oi[load, O_PULSE_MS] = NEVER
            head[H_STIRRED] = 1


@kernel
def next_of_drives(run: int) -> int:
    """The first instant at which a pulse or a travel is over."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    first = FOREVER
    for load in range(li.shape[0]):
        if li[load, L_KIND] != KIND_DRIVE:
            continue
        if oi[load, O_MOVE_MS] != NEVER:
            first = min(first, oi[load, O_MOVE_MS] + li[load, L_TRAVEL_MS])
        if oi[load, O_PULSE_MS] != NEVER:
            first = min(first, oi[load, O_PULSE_MS] + li[load, L_PULSE_MS])
        if oi[load, O_KEPT] == INHIBIT_BOOT_DELAY:
            first = min(first, int_row(run, RUN_HEAD)[H_BOOTED_MS] + li[load, L_BOOT_MS])
    return first
