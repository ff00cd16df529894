"""What may hold a wanted change, in the order of ENGINE.md; and what a load takes on."""

import math

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_LOAD,
    FOREVER,
    INHIBIT_BOOT_DELAY,
    INHIBIT_MAX_ON,
    INHIBIT_MIN_OFF,
    INHIBIT_MIN_ON,
    INHIBIT_NONE,
    INHIBIT_RETURN_OFF,
    INHIBIT_STARTS,
    NEVER,
    NOBODY,
    NONE,
    OFF,
    POLICY_OFF,
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
from aldea.core.engine.scan.events import put_row
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    LOADS_NOW_STARTS_MS,
    PROBES_NOW_VALUES,
    RUN_HEAD,
    float_row,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    K_SIGNAL,
    L_BOOT_MS,
    L_FIRST,
    L_HAND,
    L_LAST,
    L_MAX_ON_MS,
    L_MIN_OFF_MS,
    L_MIN_ON_MS,
    L_POLICY,
    L_REST,
    L_REST_MS,
    L_RING,
    L_STARTS,
    O_ASKED,
    O_AUTHOR,
    O_CITED,
    O_DECIDER,
    O_HAND_AUTHOR,
    O_INHIBIT,
    O_KEPT,
    O_KEPT_FOR,
    O_LOCK_AUTHOR,
    O_LOCK_MS,
    O_LOCKED,
    O_OFF_MS,
    O_ON_MS,
    O_PATTERN_MS,
    O_RELOCK,
    O_STARTS_HELD,
    O_STARTS_NEXT,
    O_STATE,
    O_WANT,
    Q_ASKING,
    Q_FRESH,
    Q_NOTED,
)

HOUR_MS = 3_600_000


@kernel
def let_go_of_lock(run: int, load: int, t_ms: int) -> None:
    """End a lock-out when each claim that was noted has let go, and the rest has passed."""
    li, oi, claims = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_table(run, LOADS_NOW_CLAIMS),
    )
    hand = li[load, L_HAND]
    waits = False
    for k in range(li[load, L_FIRST], li[load, L_LAST] + 1):
        if claims[k, Q_NOTED] == 1:
            other = k == hand and oi[load, O_LOCK_AUTHOR] != oi[load, O_HAND_AUTHOR]
            if claims[k, Q_ASKING] == 0 or other:
                claims[k, Q_NOTED] = 0
            else:
                waits = True
    if not waits and t_ms - oi[load, O_LOCK_MS] >= li[load, L_REST_MS]:
        oi[load, O_LOCKED] = 0
        oi[load, O_RELOCK] = 0


@kernel
def lock_out(run: int, load: int, t_ms: int) -> None:
    """Begin a lock-out: every claim that wants the load on now is noted."""
    li, oi, claims = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_table(run, LOADS_NOW_CLAIMS),
    )
    for k in range(li[load, L_FIRST], li[load, L_LAST] + 1):
        claims[k, Q_NOTED] = claims[k, Q_ASKING]
    oi[load, O_LOCK_AUTHOR] = oi[load, O_HAND_AUTHOR]
    oi[load, O_LOCKED] = 1
    oi[load, O_LOCK_MS] = t_ms
    oi[load, O_RELOCK] = 0


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
def run_out(run: int, load: int, want: int, rank: int, target: int, t_ms: int) -> bool:
    """Whether its longest run ends the load in this scan: against all but a trip that wants on."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    if li[load, L_MAX_ON_MS] == NONE or oi[load, O_STATE] == OFF or target == OFF:
        return False
    if rank == RANK_TRIP and want != OFF:
        return False
    return t_ms - oi[load, O_ON_MS] >= li[load, L_MAX_ON_MS]


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
def unheard_claim(run: int, load: int) -> int:
    """The first claim that is not heard since the boot, as its load returns with policy off."""
    li = int_table(run, LOADS_INTS)
    if li[load, L_POLICY] == POLICY_OFF and int_row(run, RUN_HEAD)[H_FREE] == 0:
        for k in range(li[load, L_FIRST], li[load, L_HAND]):
            below = int_table(run, LOADS_CLAIMS)[k, K_RANK] > RANK_HAND
            if below and int_table(run, LOADS_NOW_CLAIMS)[k, Q_FRESH] == 0:
                return k
    return NOBODY


@kernel
def note_change(
    run: int,
    load: int,
    was: int,
    now: int,
    claim: int,
    author: int,
    decider: int,
    want: int,
    inhibit: int,
    kept: int,
    t_ms: int,
) -> None:
    """Write a row where the state, who decides, what is wanted, what delays or the cause changed.

    The cause (`cited`) is the claim that decides. Where nobody asks it is the one that matters: the
    first that is not heard since the power cut, else the one that asked last.
    """
    li, oi, ki = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_table(run, LOADS_CLAIMS),
    )
    decided_by = oi[load, O_HAND_AUTHOR] if decider == li[load, L_HAND] else NOBODY
    cited = decider
    if decider >= li[load, L_REST]:
        unheard = unheard_claim(run, load)
        cited = oi[load, O_ASKED]
        if unheard != NOBODY:
            cited = unheard
            if inhibit == INHIBIT_NONE:
                inhibit = INHIBIT_RETURN_OFF
    elif ki[decider, K_RANK] > RANK_HAND:
        oi[load, O_ASKED] = decider
    if (
        now == was
        and decider == oi[load, O_DECIDER]
        and decided_by == oi[load, O_AUTHOR]
        and want == oi[load, O_WANT]
        and inhibit == oi[load, O_INHIBIT]
        and cited == oi[load, O_CITED]
    ):
        return
    value = math.nan
    if cited >= 0 and ki[cited, K_SIGNAL] != NONE:
        value = float_row(run, PROBES_NOW_VALUES)[ki[cited, K_SIGNAL]]
    put_row(
        run,
        t_ms,
        EVENT_LOAD,
        load,
        was,
        now,
        claim,
        author,
        decider,
        decided_by,
        want,
        inhibit,
        kept,
        cited,
        value,
    )
    oi[load, O_DECIDER] = decider
    oi[load, O_AUTHOR] = decided_by
    oi[load, O_WANT] = want
    oi[load, O_INHIBIT] = inhibit
    oi[load, O_CITED] = cited
    if now != was:
        int_row(run, RUN_HEAD)[H_STIRRED] = 1


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
