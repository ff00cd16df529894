"""How long nothing can happen: the values, and the instants, up to which a scan may wait."""

import math

from aldea.core.base.jit import inlined
from aldea.core.engine.layout import (
    B_LOCKED,
    B_OUT,
    B_RAW,
    B_SINCE_MS,
    C_DELAY_OFF_MS,
    C_DELAY_ON_MS,
    C_OFF,
    C_ON,
    C_PROBE,
    C_RISING,
    FOREVER,
    GOOD,
    INHIBIT_MIN_OFF,
    INHIBIT_MIN_ON,
    INHIBIT_RETURN_DELAY,
    K_AFTER_MS,
    K_PROBE,
    K_RANK,
    L_MIN_OFF_MS,
    L_MIN_ON_MS,
    O_BOOT_UNTIL_MS,
    O_CHANGED_MS,
    O_INHIBIT,
    P_STALE_MS,
    RANK_FAULT,
    S_GOOD_MS,
    S_LAST_MS,
    S_QUALITY,
    STALE,
)
from aldea.core.engine.scan.arrays import PlanArrays, StateArrays


@inlined
def next_stale(plan: PlanArrays, state: StateArrays) -> int:
    """The first instant at which a probe goes stale, unless a sample of it comes before."""
    pi, si = plan.probe_ints, state.probe_ints
    first = FOREVER
    for p in range(pi.shape[0]):
        if si[p, S_QUALITY] != STALE:
            first = min(first, si[p, S_LAST_MS] + pi[p, P_STALE_MS])
    return first


@inlined
def next_timer(plan: PlanArrays, state: StateArrays, t_ms: int) -> int:
    """The first instant after the scan at `t_ms` at which a delay or inhibit is over.

    It stays what it is until the next scan: a sample that does not stir moves none of them.
    """
    ci, ki, li = plan.condition_ints, plan.claims, plan.loads
    si, bi, oi = state.probe_ints, state.conditions, state.loads
    first = FOREVER
    for k in range(ki.shape[0]):
        if ki[k, K_RANK] == RANK_FAULT:
            p = ki[k, K_PROBE]
            if si[p, S_QUALITY] != GOOD:
                at = si[p, S_GOOD_MS] + ki[k, K_AFTER_MS]
                if t_ms < at < first:
                    first = at
    for c in range(ci.shape[0]):
        if bi[c, B_RAW] != bi[c, B_OUT]:
            delay_ms = ci[c, C_DELAY_ON_MS] if bi[c, B_RAW] == 1 else ci[c, C_DELAY_OFF_MS]
            at = bi[c, B_SINCE_MS] + delay_ms
            if t_ms < at < first:
                first = at
    for load in range(li.shape[0]):
        inhibit = oi[load, O_INHIBIT]
        at = FOREVER
        if inhibit == INHIBIT_MIN_ON:
            at = oi[load, O_CHANGED_MS] + li[load, L_MIN_ON_MS]
        elif inhibit == INHIBIT_MIN_OFF:
            at = oi[load, O_CHANGED_MS] + li[load, L_MIN_OFF_MS]
        elif inhibit == INHIBIT_RETURN_DELAY:
            at = oi[load, O_BOOT_UNTIL_MS]
        if t_ms < at < first:
            first = at
    return first


@inlined
def quiet_bounds(plan: PlanArrays, state: StateArrays) -> None:
    """Per probe the open interval (low, high) inside which no band can change."""
    cf, ci = plan.marks, plan.condition_ints
    bi, quiet = state.conditions, state.quiet
    for p in range(quiet.shape[0]):
        quiet[p, 0] = -math.inf
        quiet[p, 1] = math.inf
    for c in range(cf.shape[0]):
        p = ci[c, C_PROBE]
        raw = bi[c, B_RAW]
        locked = bi[c, B_LOCKED]  # then letting go counts, too
        rising = ci[c, C_RISING] == 1
        if raw == 0:
            if rising:
                quiet[p, 1] = min(quiet[p, 1], cf[c, C_ON])
            else:
                quiet[p, 0] = max(quiet[p, 0], cf[c, C_ON])
        if raw == 1 or locked == 1:
            if rising:
                quiet[p, 0] = max(quiet[p, 0], cf[c, C_OFF])
            else:
                quiet[p, 1] = min(quiet[p, 1], cf[c, C_OFF])
