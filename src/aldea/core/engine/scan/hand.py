"""How a person's claim on a load ends, and whether it wants the load on."""

from aldea.core.engine.layout import (
    FOREVER,
    KIND_DRIVE,
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
from aldea.core.engine.tables.loads import NO_STATE, LoadSpec
from aldea.core.engine.tables.run import RunTables


def state_of_want(spec: LoadSpec, want: int) -> int:
    """The state of a load that a want means; of a drive NO_WISH where it means no movement."""
    if want > WANT_LEVEL:
        return want - WANT_LEVEL
    if spec.kind == KIND_DRIVE:
        if want == WANT_OPEN or want == WANT_ON:
            return OPEN
        return SHUT if want == WANT_SHUT else NO_WISH
    if want == WANT_ON:
        return spec.lowest
    return ON if want == WANT_OPEN else OFF


def judge_hand(run: RunTables, load: int, under: int, t_ms: int) -> None:
    """End a hand claim as its school says; wake one that waited for the clock."""
    spec, now, head = run.plan.loads[load], run.now.loads[load], run.now.head
    known = head.clock_known == 1
    if now.hand_asleep == 1 and known:
        now.hand_asleep = 0
    if now.hand_school == SCHOOL_TIME and now.hand_asleep == 0:
        if now.hand_end_ms != FOREVER:
            if t_ms >= now.hand_end_ms:
                now.hand = NONE
        elif known and t_ms + head.clock_base_ms >= now.hand_until_ms:
            now.hand = NONE
    elif now.hand_school == SCHOOL_AGREEMENT:
        mine = state_of_want(spec, now.hand)
        before = now.below
        now.below = under
        if before != NO_STATE and before != under and under == mine:
            now.hand = NONE


def hand_asks(run: RunTables, load: int) -> bool:
    """Whether the hand claim, heard or not, wants the load to be on."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if now.hand == NONE:
        return False
    if now.hand_asleep == 1 and now.relock == 0:
        return False
    return state_of_want(spec, now.hand) > OFF
