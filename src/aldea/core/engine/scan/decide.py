"""Who has the say over each load, and what delays the change that is wanted."""

import math

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import inlined
from aldea.core.engine.layout import (
    B_LOCKED,
    B_OUT,
    EVENT_LOAD,
    GOOD,
    INHIBIT_MIN_OFF,
    INHIBIT_MIN_ON,
    INHIBIT_NONE,
    INHIBIT_RETURN_DELAY,
    INHIBIT_RETURN_OFF,
    K_AFTER_MS,
    K_CONDITION,
    K_PROBE,
    K_RANK,
    K_WANT,
    L_END,
    L_FIRST,
    L_MIN_OFF_MS,
    L_MIN_ON_MS,
    NOBODY,
    O_ASKED,
    O_BOOT_UNTIL_MS,
    O_CHANGED_MS,
    O_CITED,
    O_DECIDER,
    O_INHIBIT,
    O_STATE,
    RANK_DEMAND,
    RANK_FAULT,
    S_GOOD_MS,
    S_QUALITY,
    S_VALUE,
)
from aldea.core.engine.scan.arrays import PlanArrays, StateArrays, signed
from aldea.core.engine.scan.events import put_event


@inlined
def decide_loads(
    plan: PlanArrays, state: StateArrays, t_ms: int, ev: IntArray, ev_value: FloatArray, n: int
) -> int:
    """The strongest active claim decides; a changed state, decider, inhibit or cause is an event.

    The cause (`cited`) is the claim that decides. Where nobody asks it is the demand that matters:
    the first that is not heard since the power cut, else the one that asked last.
    """
    ki, li = plan.claims, plan.loads
    sf, si, bi, oi = state.probe_floats, state.probe_ints, state.conditions, state.loads
    for load in range(li.shape[0]):
        # Rows by unsigned numbers: of a signed one the compiler asks each time if it is negative.
        first = np.uint64(li[load, L_FIRST])
        rest = np.uint64(li[load, L_END] - 1)  # always stands
        decider = rest
        unheard = NOBODY
        # From the weakest to the strongest, so that little hangs on a guess of who speaks.
        k = rest
        while k > first:
            k -= np.uint64(1)
            c = ki[k, K_CONDITION]
            if c < 0:
                p = np.uint64(ki[k, K_PROBE])
                active = si[p, S_QUALITY] != GOOD and t_ms - si[p, S_GOOD_MS] >= ki[k, K_AFTER_MS]
            else:
                row = np.uint64(c)
                active = bi[row, B_OUT] > bi[row, B_LOCKED]
                unheard = signed(k) if bi[row, B_LOCKED] == 1 else unheard
            decider = k if active else decider
        claim = signed(decider)
        want = ki[decider, K_WANT]
        was = oi[load, O_STATE]
        inhibit = INHIBIT_NONE
        asked = unheard if unheard != NOBODY else oi[load, O_ASKED]
        cited = asked if decider == rest else claim
        if want != was:
            since_ms = t_ms - oi[load, O_CHANGED_MS]
            if want == 0:
                if since_ms < li[load, L_MIN_ON_MS] and ki[decider, K_RANK] > RANK_FAULT:
                    inhibit = INHIBIT_MIN_ON
            elif since_ms < li[load, L_MIN_OFF_MS]:
                inhibit = INHIBIT_MIN_OFF
            elif t_ms < oi[load, O_BOOT_UNTIL_MS]:
                inhibit = INHIBIT_RETURN_DELAY
        if unheard != NOBODY and inhibit == INHIBIT_NONE and decider == rest:
            inhibit = INHIBIT_RETURN_OFF
        now = want if inhibit in (INHIBIT_NONE, INHIBIT_RETURN_OFF) else was
        if (
            now != was
            or claim != oi[load, O_DECIDER]
            or inhibit != oi[load, O_INHIBIT]
            or cited != oi[load, O_CITED]
        ):
            value = math.nan
            if cited >= 0:
                value = sf[ki[cited, K_PROBE], S_VALUE]
            n = put_event(
                ev, ev_value, n, t_ms, EVENT_LOAD, load, was, now, claim, inhibit, cited, value
            )
            oi[load, O_DECIDER] = claim
            oi[load, O_INHIBIT] = inhibit
            oi[load, O_CITED] = cited
            if ki[decider, K_RANK] == RANK_DEMAND:
                oi[load, O_ASKED] = claim
            if now != was:
                oi[load, O_STATE] = now
                oi[load, O_CHANGED_MS] = t_ms
    return n
