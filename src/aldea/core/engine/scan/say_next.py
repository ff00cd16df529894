"""When what decides a load can change by itself: faults, pulses, overrides, waits."""

from aldea.core.engine.layout import (
    ENDS_BY_TIME,
    FOREVER,
    GOOD,
    NONE,
    POLICY_OFF,
    PRIORITY_FAULT,
    PRIORITY_OVERRIDE,
)
from aldea.core.engine.tables.run import RunTables


def somebody_listens(run: RunTables) -> bool:
    """Whether a rule, or a lock-out kept over a boot, waits for a condition to become false."""
    for load in range(len(run.plan.loads)):
        spec = run.plan.loads[load]
        if run.now.loads[load].relock == 1:
            return True
        if spec.policy == POLICY_OFF and run.now.head.free == 0:
            for k in range(spec.first, spec.override):
                if run.plan.rules[k].priority > PRIORITY_OVERRIDE and run.now.rules[k].fresh == 0:
                    return True
    return False


def next_of_rules(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which a fault counts, a pulse or an override rule ends."""
    first = FOREVER
    for k in range(len(run.plan.rules)):
        spec, now = run.plan.rules[k], run.now.rules[k]
        if spec.priority == PRIORITY_FAULT and spec.node == NONE:
            probe = run.now.probes[spec.probe]
            counts_ms = probe.good_ms + spec.after_ms
            if probe.quality != GOOD and counts_ms > t_ms:
                first = min(first, counts_ms)
        if spec.pulse_ms != NONE and now.began_ms != FOREVER:
            over_ms = now.began_ms + spec.pulse_ms
            if over_ms > t_ms:
                first = min(first, over_ms)
    for load in range(len(run.plan.loads)):
        override = run.now.loads[load]
        if override.override != NONE:
            first = min(first, override.override_end_ms)
            by_clock = (
                override.override_ends_by == ENDS_BY_TIME and override.override_end_ms == FOREVER
            )
            if by_clock and run.now.head.clock_known == 1:
                first = min(first, override.override_until_ms - run.now.head.clock_base_ms)
    return first
