"""From a sample to a trusted value: range, stuck, filter, calibration, quality."""

import math

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import inlined
from aldea.core.engine.layout import (
    EVENT_PROBE,
    GOOD,
    NOBODY,
    P_GOOD_RUN,
    P_HIGH,
    P_INTERCEPT,
    P_LOW,
    P_SLOPE,
    P_STALE_MS,
    P_STUCK_BAND,
    P_STUCK_MS,
    P_TAU_S,
    RANGE,
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
    STALE,
    STUCK,
)
from aldea.core.engine.scan.arrays import PlanArrays, StateArrays
from aldea.core.engine.scan.events import put_event


@inlined
def take_sample(plan: PlanArrays, state: StateArrays, p: int, t_ms: int, raw: float) -> None:
    """Sample of probe `p`: range, stuck, filter, calibration, then its quality.

    A missing reading (NaN) is no sample. What is out of range never reaches the filter and moves
    no clock of it. Stuck is what was watched and stood still: after a silence, or a spell out of
    range, the watch begins again.
    """
    pf, pi = plan.probe_floats, plan.probe_ints
    sf, si = state.probe_floats, state.probe_ints
    if math.isnan(raw):
        return
    if t_ms - si[p, S_LAST_MS] >= pi[p, P_STALE_MS]:
        sf[p, S_ANCHOR] = math.nan
    si[p, S_LAST_MS] = t_ms
    if raw < pf[p, P_LOW] or raw > pf[p, P_HIGH]:
        si[p, S_QUALITY] = RANGE
        si[p, S_RUN] = 0
        sf[p, S_ANCHOR] = math.nan
        return
    anchor = sf[p, S_ANCHOR]
    if not (abs(raw - anchor) <= pf[p, P_STUCK_BAND]):  # also true for the first: NaN
        sf[p, S_ANCHOR] = raw
        si[p, S_ANCHOR_MS] = t_ms
    filtered = sf[p, S_FILTERED]
    tau_s = pf[p, P_TAU_S]
    if tau_s > 0.0 and not math.isnan(filtered):
        dt_s = (t_ms - si[p, S_ENTERED_MS]) * 0.001
        filtered += (1.0 - math.exp(-dt_s / tau_s)) * (raw - filtered)
    else:
        filtered = raw
    si[p, S_ENTERED_MS] = t_ms
    sf[p, S_FILTERED] = filtered
    sf[p, S_VALUE] = pf[p, P_INTERCEPT] + pf[p, P_SLOPE] * filtered
    if pi[p, P_STUCK_MS] > 0 and t_ms - si[p, S_ANCHOR_MS] >= pi[p, P_STUCK_MS]:
        si[p, S_QUALITY] = STUCK
        si[p, S_RUN] = 0
        return
    si[p, S_RUN] += 1
    if si[p, S_QUALITY] != GOOD and si[p, S_RUN] >= pi[p, P_GOOD_RUN]:
        si[p, S_QUALITY] = GOOD
    if si[p, S_QUALITY] == GOOD:
        si[p, S_GOOD_MS] = t_ms


@inlined
def judge_probes(
    plan: PlanArrays, state: StateArrays, t_ms: int, ev: IntArray, ev_value: FloatArray, n: int
) -> int:
    """What has been silent for too long is stale; a changed quality is an event."""
    pi = plan.probe_ints
    sf, si = state.probe_floats, state.probe_ints
    for p in range(pi.shape[0]):
        if si[p, S_QUALITY] != STALE and t_ms - si[p, S_LAST_MS] >= pi[p, P_STALE_MS]:
            si[p, S_QUALITY] = STALE
            si[p, S_RUN] = 0
        if si[p, S_QUALITY] != si[p, S_SEEN_QUALITY]:
            n = put_event(
                ev,
                ev_value,
                n,
                t_ms,
                EVENT_PROBE,
                p,
                si[p, S_SEEN_QUALITY],
                si[p, S_QUALITY],
                0,
                0,
                NOBODY,
                sf[p, S_VALUE],
            )
            si[p, S_SEEN_QUALITY] = si[p, S_QUALITY]
    return n
