"""When the say over a load can change by itself: faults, pulses, hands; who waits to let go."""

from aldea.core.engine.layout import (
    FOREVER,
    GOOD,
    NONE,
    POLICY_OFF,
    RANK_FAULT,
    RANK_HAND,
    SCHOOL_TIME,
)
from aldea.core.engine.tables.run import RunTables


def somebody_listens(run: RunTables) -> bool:
    """Whether a claim, or a lock-out that a boot brought back, waits for a condition to let go."""
    for load in range(len(run.plan.loads)):
        spec = run.plan.loads[load]
        if run.now.loads[load].relock == 1:
            return True
        if spec.policy == POLICY_OFF and run.now.head.free == 0:
            for k in range(spec.first, spec.hand):
                if run.plan.claims[k].rank > RANK_HAND and run.now.claims[k].fresh == 0:
                    return True
    return False


def next_of_claims(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which a fault counts, a pulse or a hand claim ends."""
    first = FOREVER
    for k in range(len(run.plan.claims)):
        spec, now = run.plan.claims[k], run.now.claims[k]
        if spec.rank == RANK_FAULT and spec.node == NONE:
            probe = run.now.probes[spec.probe]
            counts_ms = probe.good_ms + spec.after_ms
            if probe.quality != GOOD and counts_ms > t_ms:
                first = min(first, counts_ms)
        if spec.pulse_ms != NONE and now.began_ms != FOREVER:
            over_ms = now.began_ms + spec.pulse_ms
            if over_ms > t_ms:
                first = min(first, over_ms)
    for load in range(len(run.plan.loads)):
        hand = run.now.loads[load]
        if hand.hand != NONE:
            first = min(first, hand.hand_end_ms)
            by_clock = hand.hand_school == SCHOOL_TIME and hand.hand_end_ms == FOREVER
            if by_clock and run.now.head.clock_known == 1:
                first = min(first, hand.hand_until_ms - run.now.head.clock_base_ms)
    return first
