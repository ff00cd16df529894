"""A drive by pulses: it moves, arrives, is found moved, or does not arrive."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_BOOT_DELAY,
    INHIBIT_MOVING,
    INHIBIT_NONE,
    KIND_DRIVE,
    MOVING,
    NEVER,
    NO_WISH,
    NOBODY,
    NONE,
    RANK_HAND,
    RANK_TRIP,
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
from aldea.core.engine.scan.movement import follow_movement, read_ends
from aldea.core.engine.scan.noting import note_change
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    L_BOOT_MS,
    L_KIND,
    L_LINE,
    L_PULSE_MS,
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
