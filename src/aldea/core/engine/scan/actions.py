"""What a press, a code, a position or a page does: hand claims, modes, resets."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_MODE,
    FOREVER,
    KIND_DRIVE,
    NEVER,
    NONE,
    RANK_TRIP,
    SCHOOL_TIME,
    WANT_LEVEL,
    WANT_OFF,
    WANT_ON,
    WANT_OPEN,
    WANT_SHUT,
)
from aldea.core.engine.scan.arrays import (
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
    H_STIRRED,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    PEOPLE_ACTIONS,
    PEOPLE_MODES,
    PEOPLE_NOW_MODES,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_RANK,
    L_FIRST,
    L_HAND,
    L_HAND_MS,
    L_KIND,
    L_SCHOOL,
    L_STEPS,
    L_VALVE,
    O_BELOW,
    O_BLOCKED,
    O_HAND,
    O_HAND_ASLEEP,
    O_HAND_AUTHOR,
    O_HAND_END_MS,
    O_HAND_SCHOOL,
    O_HAND_STORED_MS,
    O_HAND_UNTIL_MS,
    O_STATE,
    O_WAIT,
    O_WAIT_AUTHOR,
    O_WAIT_FOR_MS,
    O_WAIT_MS,
    O_WAIT_SCHOOL,
    O_WAIT_UNTIL_MS,
    Q_RESET,
    Q_TRIPPED,
)
from aldea.core.engine.tables.memory import NO_END
from aldea.core.engine.tables.people import (
    A_BY,
    A_DELAY_MS,
    A_FOR_MS,
    A_KIND,
    A_SCHOOL,
    A_UNTIL_MS,
    A_WANT,
    A_WHO,
    ACT_GIVE_BACK,
    ACT_HAND,
    ACT_MODE,
    ACT_ONLY,
    ACT_RESET,
    ACT_STEP,
    ACT_TOGGLE,
    ALL_TRIPS,
    M_VALUES,
    NEXT_VALUE,
)


@kernel
def command(
    run: int,
    t_ms: int,
    load: int,
    want: int,
    author: int,
    school: int,
    for_ms: int,
    until_ms: int,
) -> None:
    """A hand claim on a load, in place of the one that was there."""
    li, oi, head = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_row(run, RUN_HEAD),
    )
    if school == NONE:
        school = li[load, L_SCHOOL]
    end_ms, until = FOREVER, NO_END
    if school == SCHOOL_TIME:
        if until_ms != NO_END:
            until = until_ms
        else:
            end_ms = t_ms + (li[load, L_HAND_MS] if for_ms == NONE else for_ms)
    stored = until
    if end_ms != FOREVER and head[H_CLOCK_KNOWN] == 1:
        stored = end_ms + head[H_CLOCK_BASE]
    oi[load, O_HAND] = want
    oi[load, O_HAND_AUTHOR] = author
    oi[load, O_HAND_SCHOOL] = school
    oi[load, O_HAND_END_MS] = end_ms
    oi[load, O_HAND_UNTIL_MS] = until
    oi[load, O_HAND_ASLEEP] = 0
    oi[load, O_HAND_STORED_MS] = stored
    oi[load, O_BELOW] = NEVER
    oi[load, O_BLOCKED] = NEVER
    oi[load, O_WAIT_MS] = FOREVER


@kernel
def later(run: int, t_ms: int, load: int, want: int, author: int, row: int) -> None:
    """A command to a load of a group, in its turn."""
    actions = int_table(run, PEOPLE_ACTIONS)
    oi = int_table(run, LOADS_NOW_INTS)
    if actions[row, A_DELAY_MS] == 0:
        command(
            run,
            t_ms,
            load,
            want,
            author,
            actions[row, A_SCHOOL],
            actions[row, A_FOR_MS],
            actions[row, A_UNTIL_MS],
        )
        return
    oi[load, O_WAIT_MS] = t_ms + actions[row, A_DELAY_MS]
    oi[load, O_WAIT] = want
    oi[load, O_WAIT_AUTHOR] = author
    oi[load, O_WAIT_SCHOOL] = actions[row, A_SCHOOL]
    oi[load, O_WAIT_FOR_MS] = actions[row, A_FOR_MS]
    oi[load, O_WAIT_UNTIL_MS] = actions[row, A_UNTIL_MS]


@kernel
def waiting_commands(run: int, t_ms: int) -> None:
    """What a group was told, taken by the loads whose turn has come."""
    oi = int_table(run, LOADS_NOW_INTS)
    for load in range(oi.shape[0]):
        if t_ms >= oi[load, O_WAIT_MS]:
            command(
                run,
                t_ms,
                load,
                oi[load, O_WAIT],
                oi[load, O_WAIT_AUTHOR],
                oi[load, O_WAIT_SCHOOL],
                oi[load, O_WAIT_FOR_MS],
                oi[load, O_WAIT_UNTIL_MS],
            )


@kernel
def act(
    run: int,
    t_ms: int,
    first: int,
    end: int,
    author: int,
) -> None:
    """All that one press, code, position or message does."""
    li, oi, modes = (
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
        int_row(run, PEOPLE_NOW_MODES),
    )
    actions = int_table(run, PEOPLE_ACTIONS)
    for row in range(first, end):
        kind, who = actions[row, A_KIND], actions[row, A_WHO]
        if kind == ACT_ONLY:
            if modes[who] != actions[row, A_WANT]:
                return
        elif kind == ACT_HAND:
            later(run, t_ms, who, actions[row, A_WANT], author, row)
        elif kind == ACT_TOGGLE:
            ends = li[who, L_VALVE] == 1 or li[who, L_KIND] == KIND_DRIVE
            if oi[who, O_STATE] == 0:
                later(run, t_ms, who, WANT_OPEN if ends else WANT_ON, author, row)
            else:
                later(run, t_ms, who, WANT_SHUT if ends else WANT_OFF, author, row)
        elif kind == ACT_GIVE_BACK:
            oi[who, O_HAND] = NONE
            oi[who, O_WAIT_MS] = FOREVER
        elif kind == ACT_STEP:
            level = min(max(oi[who, O_STATE] + actions[row, A_BY], 0), li[who, L_STEPS])
            want = WANT_LEVEL + level if level > 0 else WANT_OFF
            later(run, t_ms, who, want, author, row)
        elif kind == ACT_MODE:
            was = modes[who]
            now = actions[row, A_WANT]
            if now == NEXT_VALUE:
                now = (was + 1) % int_table(run, PEOPLE_MODES)[who, M_VALUES]
            modes[who] = now
            if now != was:
                put_event(run, t_ms, EVENT_MODE, who, was, now, 0, author, 0.0)
        elif kind == ACT_RESET:
            claims, ki = int_table(run, LOADS_NOW_CLAIMS), int_table(run, LOADS_CLAIMS)
            for k in range(li[who, L_FIRST], li[who, L_HAND]):
                asked = actions[row, A_WANT]
                if ki[k, K_RANK] == RANK_TRIP and (asked == ALL_TRIPS or asked == k):
                    if claims[k, Q_TRIPPED] == 1:
                        claims[k, Q_RESET] = 1 + author
    int_row(run, RUN_HEAD)[H_STIRRED] = 1
