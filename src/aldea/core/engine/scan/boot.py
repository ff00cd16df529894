"""What a boot forgets, and how each load comes back."""

import math

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    B_LET_GO,
    B_LOCKED,
    B_OUT,
    B_RAW,
    B_SINCE_MS,
    INHIBIT_NONE,
    K_CONDITION,
    L_END,
    L_FIRST,
    L_POLICY,
    L_RETURN_DELAY_MS,
    NEVER,
    NOBODY,
    O_ASKED,
    O_BOOT_UNTIL_MS,
    O_CHANGED_MS,
    O_CITED,
    O_DECIDER,
    O_INHIBIT,
    O_STATE,
    POLICY_LAST,
    POLICY_OFF,
    S_ANCHOR,
    S_ANCHOR_MS,
    S_ENTERED_MS,
    S_FILTERED,
    S_GOOD_MS,
    S_LAST_MS,
    S_QUALITY,
    S_RUN,
    S_SEEN_QUALITY,
    S_VALUE,
    WARMING,
)
from aldea.core.engine.scan.arrays import PlanArrays, StateArrays


@kernel
def boot(plan: PlanArrays, state: StateArrays, t_ms: int, first_start: bool) -> None:
    """State after power came back at `t_ms`, or at the very start of a run.

    What is not retained is lost: filters, timers, band states. A load with policy last keeps its
    band's state; with policy off each band is locked until it has let go once. Everything is
    counted from `t_ms`, the instant of the return itself, not from the scan that saw it.
    """
    ki, li = plan.claims, plan.loads
    sf, si, bi, oi = state.probe_floats, state.probe_ints, state.conditions, state.loads
    for p in range(sf.shape[0]):
        sf[p, S_FILTERED] = math.nan
        sf[p, S_VALUE] = math.nan
        sf[p, S_ANCHOR] = math.nan
        si[p, S_LAST_MS] = t_ms
        si[p, S_GOOD_MS] = t_ms
        si[p, S_QUALITY] = WARMING
        si[p, S_RUN] = 0
        si[p, S_ANCHOR_MS] = t_ms
        si[p, S_ENTERED_MS] = t_ms
        si[p, S_SEEN_QUALITY] = WARMING
    for load in range(li.shape[0]):
        keeps = li[load, L_POLICY] == POLICY_LAST and not first_start
        locked = li[load, L_POLICY] == POLICY_OFF and not first_start
        oi[load, O_ASKED] = NOBODY
        for k in range(li[load, L_FIRST], li[load, L_END]):
            c = ki[k, K_CONDITION]
            if c >= 0:
                if oi[load, O_ASKED] == NOBODY:
                    oi[load, O_ASKED] = k
                if not keeps:
                    bi[c, B_RAW] = 0
                    bi[c, B_OUT] = 0
                else:
                    bi[c, B_RAW] = bi[c, B_OUT]
                bi[c, B_SINCE_MS] = t_ms
                bi[c, B_LET_GO] = 0
                bi[c, B_LOCKED] = 1 if locked else 0
        oi[load, O_STATE] = 0
        oi[load, O_CHANGED_MS] = NEVER if first_start else t_ms
        oi[load, O_DECIDER] = -2
        oi[load, O_INHIBIT] = INHIBIT_NONE
        oi[load, O_BOOT_UNTIL_MS] = t_ms if first_start else t_ms + li[load, L_RETURN_DELAY_MS]
        oi[load, O_CITED] = -2
