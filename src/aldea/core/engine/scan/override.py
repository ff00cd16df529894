"""How a person's rule on a load ends, and whether it wants the load on."""

from aldea.core.engine.layout import (
    ENDS_BY_AGREEMENT,
    ENDS_BY_TIME,
    FOREVER,
    KIND_DRIVE,
    NO_WISH,
    NONE,
    OFF,
    ON,
    OPEN,
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


def judge_override(run: RunTables, load: int, under: int, t_ms: int) -> None:
    """End an override rule as its ends_by says; wake one that waited for the clock."""
    spec, now, head = run.plan.loads[load], run.now.loads[load], run.now.head
    known = head.clock_known == 1
    if now.override_asleep == 1 and known:
        now.override_asleep = 0
    if now.override_ends_by == ENDS_BY_TIME and now.override_asleep == 0:
        if now.override_end_ms != FOREVER:
            if t_ms >= now.override_end_ms:
                now.override = NONE
        elif known and t_ms + head.clock_base_ms >= now.override_until_ms:
            now.override = NONE
    elif now.override_ends_by == ENDS_BY_AGREEMENT:
        mine = state_of_want(spec, now.override)
        before = now.below
        now.below = under
        if before != NO_STATE and before != under and under == mine:
            now.override = NONE


def override_asks(run: RunTables, load: int) -> bool:
    """Whether the override rule, heard or not, wants the load to be on."""
    spec, now = run.plan.loads[load], run.now.loads[load]
    if now.override == NONE:
        return False
    if now.override_asleep == 1 and now.relock == 0:
        return False
    return state_of_want(spec, now.override) > OFF
