"""How a person's claim on a load ends, and whether it wants the load on."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    FOREVER,
    KIND_DRIVE,
    NEVER,
    NO_WISH,
    NONE,
    OFF,
    ON,
    OPEN,
    SCHOOL_AGREEMENT,
    SCHOOL_TIME,
    SHUT,
    WANT_LEVEL,
    WANT_ON,
    WANT_OPEN,
    WANT_SHUT,
)
from aldea.core.engine.scan.arrays import (
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
)
from aldea.core.engine.scan.views import (
    LOADS_INTS,
    LOADS_NOW_INTS,
    int_table,
)
from aldea.core.engine.tables.loads import (
    L_KIND,
    L_LOWEST,
    O_BELOW,
    O_HAND,
    O_HAND_ASLEEP,
    O_HAND_END_MS,
    O_HAND_SCHOOL,
    O_HAND_UNTIL_MS,
    O_RELOCK,
)


@kernel
def state_of_want(li: IntArray, load: int, want: int) -> int:
    """The state of a load that a want means; of a drive NO_WISH where it means no movement."""
    if want > WANT_LEVEL:
        return want - WANT_LEVEL
    if li[load, L_KIND] == KIND_DRIVE:
        if want == WANT_OPEN or want == WANT_ON:
            return OPEN
        return SHUT if want == WANT_SHUT else NO_WISH
    if want == WANT_ON:
        return li[load, L_LOWEST]
    return ON if want == WANT_OPEN else OFF


@kernel
def judge_hand(
    li: IntArray, oi: IntArray, head: IntArray, load: int, under: int, t_ms: int
) -> None:
    """End a hand claim as its school says; wake one that waited for the clock."""
    known = head[H_CLOCK_KNOWN] == 1
    if oi[load, O_HAND_ASLEEP] == 1 and known:
        oi[load, O_HAND_ASLEEP] = 0
    school = oi[load, O_HAND_SCHOOL]
    if school == SCHOOL_TIME and oi[load, O_HAND_ASLEEP] == 0:
        if oi[load, O_HAND_END_MS] != FOREVER:
            if t_ms >= oi[load, O_HAND_END_MS]:
                oi[load, O_HAND] = NONE
        elif known and t_ms + head[H_CLOCK_BASE] >= oi[load, O_HAND_UNTIL_MS]:
            oi[load, O_HAND] = NONE
    elif school == SCHOOL_AGREEMENT:
        mine = state_of_want(li, load, oi[load, O_HAND])
        before = oi[load, O_BELOW]
        oi[load, O_BELOW] = under
        if before != NEVER and before != under and under == mine:
            oi[load, O_HAND] = NONE


@kernel
def hand_asks(run: int, load: int) -> bool:
    """Whether the hand claim, heard or not, wants the load to be on."""
    oi = int_table(run, LOADS_NOW_INTS)
    if oi[load, O_HAND] == NONE:
        return False
    if oi[load, O_HAND_ASLEEP] == 1 and oi[load, O_RELOCK] == 0:
        return False
    return state_of_want(int_table(run, LOADS_INTS), load, oi[load, O_HAND]) > OFF
