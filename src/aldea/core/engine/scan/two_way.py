"""A two-way circuit: the relay changes over where the state wanted is not the one sensed."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
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
    RANK_HAND,
    WANT_OFF,
    WANT_ON,
)
from aldea.core.engine.scan.actions import command
from aldea.core.engine.scan.arrays import (
    H_FREE,
    H_LINES,
    H_STIRRED,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.holds import enter, held_back, kept_back
from aldea.core.engine.scan.lock_out import let_go_of_lock, lock_out, run_out
from aldea.core.engine.scan.noting import note_change
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
    PEOPLE_NOW_INPUTS,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    L_DEAD_MS,
    L_HAND,
    L_KIND,
    L_LINE,
    L_SENSE,
    L_TRAVEL_MS,
    O_BLOCKED,
    O_HAND_AUTHOR,
    O_KEPT,
    O_KEPT_FOR,
    O_LOCKED,
    O_OFF_MS,
    O_ON_MS,
    O_SENSED,
    O_STATE,
    O_TOGGLED_MS,
    O_TRIED,
    O_UNASKED,
    W_CLOSED,
)
from aldea.core.engine.tables.memory import NO_END

WALL = 0  # the author of what is done at a wall switch
UNSENSED = -1


@kernel
def sensed_now(li: IntArray, oi: IntArray, inputs: IntArray, load: int, t_ms: int) -> int:
    """What is sensed now; where nothing senses it, the lamp follows its relay when it settles."""
    if li[load, L_SENSE] != NONE:
        return 1 if inputs[li[load, L_SENSE]] != 0 else 0
    if oi[load, O_SENSED] == UNSENSED:
        return 0
    if oi[load, O_TOGGLED_MS] != NEVER and t_ms - oi[load, O_TOGGLED_MS] >= li[load, L_DEAD_MS]:
        return oi[load, O_TRIED]
    return oi[load, O_SENSED]


@kernel
def sense_two_way(run: int, t_ms: int) -> None:
    """What is sensed; a change that the relay did not make is a person at the wall switch."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    for load in range(li.shape[0]):
        if li[load, L_KIND] != KIND_TWO_WAY:
            continue
        now = sensed_now(li, oi, int_row(run, PEOPLE_NOW_INPUTS), load, t_ms)
        if oi[load, O_SENSED] == UNSENSED:  # what is found at boot is no command
            oi[load, O_SENSED] = now
            oi[load, O_STATE] = now
            oi[load, O_ON_MS] = t_ms
            oi[load, O_OFF_MS] = NEVER if int_row(run, RUN_HEAD)[H_FREE] == 1 else t_ms
        elif now != oi[load, O_SENSED]:
            oi[load, O_SENSED] = now
            if oi[load, O_TOGGLED_MS] == NEVER:
                want = WANT_ON if now == 1 else WANT_OFF
                command(run, t_ms, load, want, WALL, NONE, NONE, NO_END)
                oi[load, O_UNASKED] = 1
            oi[load, O_TOGGLED_MS] = NEVER


@kernel
def hold_two_way(
    run: int,
    load: int,
    decider: int,
    want: int,
    t_ms: int,
) -> None:
    """One scan of a two-way circuit: its state is the sensed one."""
    li, oi, lines = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_table(run, LOADS_NOW_LINES),
    )
    rank = int_table(run, LOADS_CLAIMS)[decider, K_RANK]
    author = oi[load, O_HAND_AUTHOR] if rank == RANK_HAND else NOBODY
    was, kept, claim = oi[load, O_STATE], INHIBIT_NONE, decider
    now = oi[load, O_SENSED]
    if now != was:
        if oi[load, O_UNASKED] == 1:
            claim, author = li[load, L_HAND], WALL
            kept = kept_back(oi, load, now, RANK_HAND)
        else:
            kept = kept_back(oi, load, now, rank)
        oi[load, O_UNASKED] = 0
        enter(run, load, now, t_ms)
        oi[load, O_KEPT] = INHIBIT_NONE
        oi[load, O_KEPT_FOR] = NEVER
    if oi[load, O_LOCKED] == 1:
        let_go_of_lock(run, load, t_ms)
    inhibit = held_back(run, load, want, rank, t_ms)
    target = now if inhibit != INHIBIT_NONE else want
    if run_out(run, load, want, rank, target, t_ms):
        target = OFF
        lock_out(run, load, t_ms)
        int_row(run, RUN_HEAD)[H_STIRRED] = 1  # until it is sensed off, each scan begins it anew
    if oi[load, O_TOGGLED_MS] != NEVER:
        if t_ms - oi[load, O_TOGGLED_MS] >= li[load, L_TRAVEL_MS]:
            oi[load, O_TOGGLED_MS] = NEVER
            oi[load, O_BLOCKED] = oi[load, O_TRIED]
            put_event(run, t_ms, EVENT_MISSED, load, now, MISSED_FOLLOW, decider, author, 0.0)
            int_row(run, RUN_HEAD)[H_STIRRED] = 1
    if oi[load, O_BLOCKED] != NEVER and oi[load, O_BLOCKED] != target:
        oi[load, O_BLOCKED] = NEVER
        int_row(run, RUN_HEAD)[H_STIRRED] = 1
    if oi[load, O_TOGGLED_MS] == NEVER:
        if target != now and oi[load, O_BLOCKED] == NEVER:
            line = li[load, L_LINE]
            lines[line, W_CLOSED] = 1 - lines[line, W_CLOSED]
            int_row(run, RUN_HEAD)[H_LINES] = 1
            oi[load, O_TOGGLED_MS] = t_ms
            oi[load, O_TRIED] = target
            int_row(run, RUN_HEAD)[H_STIRRED] = 1
        else:
            oi[load, O_KEPT] = inhibit
            oi[load, O_KEPT_FOR] = 1 - target if inhibit != INHIBIT_NONE else NEVER
    note_change(run, load, was, now, claim, author, decider, want, inhibit, kept, t_ms)


@kernel
def next_of_two_way(run: int) -> int:
    """The first instant at which a lamp should have followed its relay."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    first = FOREVER
    for load in range(li.shape[0]):
        if li[load, L_KIND] == KIND_TWO_WAY and oi[load, O_TOGGLED_MS] != NEVER:
            wait_ms = li[load, L_DEAD_MS] if li[load, L_SENSE] == NONE else li[load, L_TRAVEL_MS]
            first = min(first, oi[load, O_TOGGLED_MS] + wait_ms)
    return first
