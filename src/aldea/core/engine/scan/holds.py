"""What may hold a wanted change, in the order of ENGINE.md; and what a load takes on."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    FOREVER,
    INHIBIT_BOOT_DELAY,
    INHIBIT_MAX_ON,
    INHIBIT_MIN_OFF,
    INHIBIT_MIN_ON,
    INHIBIT_NONE,
    INHIBIT_STARTS,
    NEVER,
    NOBODY,
    NONE,
    OFF,
    RANK_FAULT,
    RANK_HAND,
    RANK_TRIP,
)
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_FREE,
    H_STIRRED,
)
from aldea.core.engine.scan.contacts import close_contacts
from aldea.core.engine.scan.lock_out import let_go_of_lock, lock_out, run_out
from aldea.core.engine.scan.noting import note_change
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_INTS,
    LOADS_NOW_STARTS_MS,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    L_BOOT_MS,
    L_MAX_ON_MS,
    L_MIN_OFF_MS,
    L_MIN_ON_MS,
    L_REST_MS,
    L_RING,
    L_STARTS,
    O_HAND_AUTHOR,
    O_KEPT,
    O_KEPT_FOR,
    O_LOCK_MS,
    O_LOCKED,
    O_OFF_MS,
    O_ON_MS,
    O_PATTERN_MS,
    O_STARTS_HELD,
    O_STARTS_NEXT,
    O_STATE,
)

HOUR_MS = 3_600_000


@kernel
def starts_in_hour(run: int, load: int, t_ms: int) -> int:
    """How often the load went on within the hour before, as far as that counts."""
    li, oi, starts = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_row(run, LOADS_NOW_STARTS_MS),
    )
    count = 0
    for i in range(oi[load, O_STARTS_HELD]):
        if t_ms - starts[li[load, L_RING] + i] < HOUR_MS:
            count += 1
    return count


@kernel
def held_back(run: int, load: int, want: int, rank: int, t_ms: int) -> int:
    """The first rule that keeps a load from what is wanted; 0 where none does."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    was = oi[load, O_STATE]
    if was == OFF and want != OFF:
        if t_ms - oi[load, O_OFF_MS] < li[load, L_MIN_OFF_MS]:
            return INHIBIT_MIN_OFF
        if rank != RANK_TRIP and oi[load, O_LOCKED] == 1:
            return INHIBIT_MAX_ON
        if li[load, L_STARTS] != NONE:
            if starts_in_hour(run, load, t_ms) >= li[load, L_STARTS]:
                return INHIBIT_STARTS
        if rank != RANK_TRIP and int_row(run, RUN_HEAD)[H_FREE] == 0:
            if t_ms < int_row(run, RUN_HEAD)[H_BOOTED_MS] + li[load, L_BOOT_MS]:
                return INHIBIT_BOOT_DELAY
    elif was != OFF and want == OFF and rank > RANK_FAULT:
        if t_ms - oi[load, O_ON_MS] < li[load, L_MIN_ON_MS]:
            return INHIBIT_MIN_ON
    return INHIBIT_NONE


@kernel
def enter(run: int, load: int, now: int, t_ms: int) -> None:
    """Take on a new state, and begin what is counted from it."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    was = oi[load, O_STATE]
    if was == OFF and now != OFF:
        oi[load, O_ON_MS] = t_ms
        room = li[load, L_STARTS]
        if room > 0:
            int_row(run, LOADS_NOW_STARTS_MS)[li[load, L_RING] + oi[load, O_STARTS_NEXT]] = t_ms
            oi[load, O_STARTS_NEXT] = (oi[load, O_STARTS_NEXT] + 1) % room
            oi[load, O_STARTS_HELD] = min(oi[load, O_STARTS_HELD] + 1, room)
    elif was != OFF and now == OFF:
        oi[load, O_OFF_MS] = t_ms
    oi[load, O_STATE] = now
    oi[load, O_PATTERN_MS] = t_ms


@kernel
def kept_back(oi: IntArray, load: int, now: int, rank: int) -> int:
    """What kept this same change back in the scan before, unless the deciding rank breaks it."""
    kept = oi[load, O_KEPT] if oi[load, O_KEPT_FOR] == now else INHIBIT_NONE
    if kept == INHIBIT_MIN_ON and rank < RANK_HAND:
        return INHIBIT_NONE
    if rank == RANK_TRIP and (kept == INHIBIT_MAX_ON or kept == INHIBIT_BOOT_DELAY):
        return INHIBIT_NONE
    return kept


@kernel
def hold_steady(
    run: int,
    load: int,
    decider: int,
    want: int,
    t_ms: int,
    period_ms: int,
) -> None:
    """One scan of a load whose contacts hold a combination for each state."""
    oi = int_table(run, LOADS_NOW_INTS)
    rank = int_table(run, LOADS_CLAIMS)[decider, K_RANK]
    author = oi[load, O_HAND_AUTHOR] if rank == RANK_HAND else NOBODY
    if oi[load, O_LOCKED] == 1:
        let_go_of_lock(run, load, t_ms)
    was = oi[load, O_STATE]
    inhibit = held_back(run, load, want, rank, t_ms)
    target = was if inhibit != INHIBIT_NONE else want
    cause = INHIBIT_NONE
    if run_out(run, load, want, rank, target, t_ms):
        target = OFF
        cause = INHIBIT_MAX_ON
        lock_out(run, load, t_ms)
        int_row(run, RUN_HEAD)[H_STIRRED] = 1  # while it cannot open, each scan begins it anew
    missing = close_contacts(run, load, target, t_ms, period_ms)
    now = target
    if missing != INHIBIT_NONE:
        now = was
        if inhibit == INHIBIT_NONE:
            inhibit = missing
    kept = INHIBIT_NONE
    if now != was:
        kept = cause if cause != INHIBIT_NONE else kept_back(oi, load, now, rank)
        enter(run, load, now, t_ms)
    oi[load, O_KEPT] = inhibit
    oi[load, O_KEPT_FOR] = want if inhibit != INHIBIT_NONE else NEVER
    note_change(run, load, was, now, decider, author, decider, want, inhibit, kept, t_ms)


@kernel
def next_of_holds(run: int, t_ms: int) -> int:
    """The first instant after `t_ms` at which something that holds a load is over."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    first = FOREVER
    for load in range(li.shape[0]):
        inhibit = oi[load, O_KEPT]
        if inhibit == INHIBIT_MIN_ON:
            first = min(first, oi[load, O_ON_MS] + li[load, L_MIN_ON_MS])
        elif inhibit == INHIBIT_MIN_OFF:
            first = min(first, oi[load, O_OFF_MS] + li[load, L_MIN_OFF_MS])
        elif inhibit == INHIBIT_BOOT_DELAY:
            first = min(first, int_row(run, RUN_HEAD)[H_BOOTED_MS] + li[load, L_BOOT_MS])
        elif inhibit == INHIBIT_STARTS:
            for i in range(oi[load, O_STARTS_HELD]):
                at = int_row(run, LOADS_NOW_STARTS_MS)[li[load, L_RING] + i] + HOUR_MS
                if at > t_ms:
                    first = min(first, at)
        if oi[load, O_LOCKED] == 1:
            at = oi[load, O_LOCK_MS] + li[load, L_REST_MS]
            if at > t_ms:
                first = min(first, at)
        if li[load, L_MAX_ON_MS] != NONE and oi[load, O_STATE] != OFF:
            at = oi[load, O_ON_MS] + li[load, L_MAX_ON_MS]
            if at > t_ms:
                first = min(first, at)
    return first
