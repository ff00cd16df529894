"""Conditions: bands that ask, and the delays before what they ask counts."""

import numpy as np

from aldea.core.base.jit import inlined
from aldea.core.engine.layout import (
    B_LET_GO,
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
    S_QUALITY,
    S_VALUE,
)
from aldea.core.engine.scan.arrays import PlanArrays, StateArrays


@inlined
def judge_conditions(plan: PlanArrays, state: StateArrays, t_ms: int) -> None:
    """What each band asks for with its probe's value, and what of it has stood long enough.

    While the value is not good a band keeps its state, and a delay that ran begins again in the
    first scan in which it is good. A condition that is locked since a power cut is heard again
    when its band has let go: at or beyond its off mark, no delay left over, and not on since.
    """
    cf, ci = plan.marks, plan.condition_ints
    sf, si, bi = state.probe_floats, state.probe_ints, state.conditions
    for c in range(cf.shape[0]):
        p = np.uint64(ci[c, C_PROBE])
        if si[p, S_QUALITY] != GOOD:
            bi[c, B_SINCE_MS] = FOREVER
            continue
        value = sf[p, S_VALUE]
        rising = ci[c, C_RISING] == 1
        above_on, below_on = value >= cf[c, C_ON], value <= cf[c, C_ON]
        above_off, below_off = value >= cf[c, C_OFF], value <= cf[c, C_OFF]
        asks_on = above_on if rising else below_on
        asks_off = below_off if rising else above_off
        raw = 0 if asks_off else bi[c, B_RAW]
        raw = 1 if asks_on else raw
        if raw != bi[c, B_RAW] or bi[c, B_SINCE_MS] == FOREVER:
            bi[c, B_RAW] = raw
            bi[c, B_SINCE_MS] = t_ms
        if raw != bi[c, B_OUT]:
            delay_ms = ci[c, C_DELAY_ON_MS] if raw == 1 else ci[c, C_DELAY_OFF_MS]
            if t_ms - bi[c, B_SINCE_MS] >= delay_ms:
                bi[c, B_OUT] = raw
        if bi[c, B_LOCKED] == 1:
            if raw == 1:
                bi[c, B_LET_GO] = 0
            elif asks_off:
                bi[c, B_LET_GO] = 1
            if bi[c, B_LET_GO] == 1 and bi[c, B_OUT] == 0:
                bi[c, B_LOCKED] = 0
