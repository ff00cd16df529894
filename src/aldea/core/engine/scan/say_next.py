"""When the say over a load can change by itself: faults, pulses, hands; who waits to let go."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    FOREVER,
    GOOD,
    NONE,
    POLICY_OFF,
    RANK_FAULT,
    RANK_HAND,
    SCHOOL_TIME,
)
from aldea.core.engine.scan.arrays import (
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
    H_FREE,
)
from aldea.core.engine.scan.views import (
    LOADS_CLAIMS,
    LOADS_INTS,
    LOADS_NOW_CLAIMS,
    LOADS_NOW_INTS,
    PROBES_NOW_INTS,
    RUN_HEAD,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import (
    K_AFTER_MS,
    K_NODE,
    K_PROBE,
    K_PULSE_MS,
    K_RANK,
    L_FIRST,
    L_HAND,
    L_POLICY,
    O_HAND,
    O_HAND_END_MS,
    O_HAND_SCHOOL,
    O_HAND_UNTIL_MS,
    O_RELOCK,
    Q_BEGAN_MS,
    Q_FRESH,
)
from aldea.core.engine.tables.probes import S_GOOD_MS, S_QUALITY


@kernel
def somebody_listens(run: int) -> bool:
    """Whether a claim, or a lock-out that a boot brought back, waits for a condition to let go."""
    ki, li, oi = (
        int_table(run, LOADS_CLAIMS),
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
    )
    for load in range(li.shape[0]):
        if oi[load, O_RELOCK] == 1:
            return True
        if li[load, L_POLICY] == POLICY_OFF and int_row(run, RUN_HEAD)[H_FREE] == 0:
            for k in range(li[load, L_FIRST], li[load, L_HAND]):
                below = ki[k, K_RANK] > RANK_HAND
                if below and int_table(run, LOADS_NOW_CLAIMS)[k, Q_FRESH] == 0:
                    return True
    return False


@kernel
def next_of_claims(run: int, t_ms: int) -> int:
    """The first instant after `t_ms` at which a fault counts, a pulse or a hand claim ends."""
    ki, li, oi = (
        int_table(run, LOADS_CLAIMS),
        int_table(run, LOADS_INTS),
        int_table(run, LOADS_NOW_INTS),
    )
    first = FOREVER
    for k in range(ki.shape[0]):
        if ki[k, K_RANK] == RANK_FAULT and ki[k, K_NODE] == NONE:
            p = ki[k, K_PROBE]
            if int_table(run, PROBES_NOW_INTS)[p, S_QUALITY] != GOOD:
                at = int_table(run, PROBES_NOW_INTS)[p, S_GOOD_MS] + ki[k, K_AFTER_MS]
                if at > t_ms:
                    first = min(first, at)
        if ki[k, K_PULSE_MS] != NONE and int_table(run, LOADS_NOW_CLAIMS)[k, Q_BEGAN_MS] != FOREVER:
            at = int_table(run, LOADS_NOW_CLAIMS)[k, Q_BEGAN_MS] + ki[k, K_PULSE_MS]
            if at > t_ms:
                first = min(first, at)
    for load in range(li.shape[0]):
        if oi[load, O_HAND] != NONE:
            first = min(first, oi[load, O_HAND_END_MS])
            if oi[load, O_HAND_SCHOOL] == SCHOOL_TIME and oi[load, O_HAND_END_MS] == FOREVER:
                if int_row(run, RUN_HEAD)[H_CLOCK_KNOWN] == 1:
                    first = min(
                        first, oi[load, O_HAND_UNTIL_MS] - int_row(run, RUN_HEAD)[H_CLOCK_BASE]
                    )
    return first
