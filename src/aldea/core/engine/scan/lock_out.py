"""The longest run, and the lock-out after it until each claim that asked has let go."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    NONE,
    OFF,
    RANK_TRIP,
)
from aldea.core.engine.scan.views import (
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    int_table,
)
from aldea.core.engine.tables.loads import (
    L_FIRST,
    L_HAND,
    L_LAST,
    L_MAX_ON_MS,
    L_REST_MS,
    O_HAND_AUTHOR,
    O_LOCK_AUTHOR,
    O_LOCK_MS,
    O_LOCKED,
    O_ON_MS,
    O_RELOCK,
    O_STATE,
    Q_ASKING,
    Q_NOTED,
)


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
def run_out(run: int, load: int, want: int, rank: int, target: int, t_ms: int) -> bool:
    """Whether its longest run ends the load in this scan: against all but a trip that wants on."""
    li, oi = int_table(run, LOADS_INTS), int_table(run, LOADS_NOW_INTS)
    if li[load, L_MAX_ON_MS] == NONE or oi[load, O_STATE] == OFF or target == OFF:
        return False
    if rank == RANK_TRIP and want != OFF:
        return False
    return t_ms - oi[load, O_ON_MS] >= li[load, L_MAX_ON_MS]
