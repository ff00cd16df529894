"""One scan, and the replay that calls it: one source for plain Python and for the compiler.

The order inside a scan is that of ENGINE.md: samples, quality, conditions, who has the say, what
may hold the change. Timers compare instants and never count scans. `replay_kernel` in skipping mode
visits only the ticks at which something can change and is exact against visiting every tick.
"""

import math

from aldea.core.engine.jit import inlined, kernel
from aldea.core.engine.layout import (
    B_ASKS_OFF,
    B_OUT,
    B_RAW,
    B_SINCE_MS,
    C_DELAY_OFF_MS,
    C_DELAY_ON_MS,
    C_OFF,
    C_ON,
    C_PROBE,
    C_RISING,
    E_CLAIM,
    E_FROM,
    E_HOLD,
    E_KIND,
    E_T_MS,
    E_TO,
    E_WHO,
    FOREVER,
    GOOD,
    HOLD_MIN_OFF,
    HOLD_MIN_ON,
    HOLD_NONE,
    HOLD_RETURN_DELAY,
    K_AFTER_MS,
    K_CONDITION,
    K_PROBE,
    K_RANK,
    K_WANT,
    KIND_LOAD,
    KIND_POWER,
    KIND_PROBE,
    L_END,
    L_FIRST,
    L_MIN_OFF_MS,
    L_MIN_ON_MS,
    L_POLICY,
    L_RETURN_DELAY_MS,
    NEVER,
    NO_POWER,
    O_BOOT_UNTIL_MS,
    O_CHANGED_MS,
    O_DECIDER,
    O_HOLD,
    O_LOCKED,
    O_STATE,
    P_GOOD_RUN,
    P_HIGH,
    P_INTERCEPT,
    P_LOW,
    P_SLOPE,
    P_STALE_MS,
    P_STUCK_BAND,
    P_STUCK_MS,
    P_TAU_S,
    POLICY_LAST,
    POLICY_OFF,
    RANGE,
    RANK_DEMAND,
    RANK_FAULT,
    S_ANCHOR,
    S_ANCHOR_MS,
    S_FILTERED,
    S_GOOD_MS,
    S_LAST_MS,
    S_QUALITY,
    S_RUN,
    S_SEEN_QUALITY,
    S_VALUE,
    STALE,
    STUCK,
    WARMING,
    FloatArray,
    IntArray,
)


@inlined
def take_sample(
    pf: FloatArray,
    pi: IntArray,
    sf: FloatArray,
    si: IntArray,
    p: int,
    t_ms: int,
    raw: float,
) -> None:
    """Sample of probe `p`: range, stuck, filter, calibration, then its quality.

    A missing reading (NaN) is no sample. What is out of range never reaches the filter.
    """
    if math.isnan(raw):
        return
    dt_s = (t_ms - si[p, S_LAST_MS]) * 0.001
    si[p, S_LAST_MS] = t_ms
    if raw < pf[p, P_LOW] or raw > pf[p, P_HIGH]:
        si[p, S_QUALITY] = RANGE
        si[p, S_RUN] = 0
        return
    anchor = sf[p, S_ANCHOR]
    if not (abs(raw - anchor) <= pf[p, P_STUCK_BAND]):  # also true for the first: NaN
        sf[p, S_ANCHOR] = raw
        si[p, S_ANCHOR_MS] = t_ms
    filtered = sf[p, S_FILTERED]
    tau_s = pf[p, P_TAU_S]
    if tau_s > 0.0 and not math.isnan(filtered):
        filtered += (1.0 - math.exp(-dt_s / tau_s)) * (raw - filtered)
    else:
        filtered = raw
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


@kernel
def put_event(
    ev: IntArray,
    ev_value: FloatArray,
    n: int,
    t_ms: int,
    kind: int,
    who: int,
    was: int,
    now: int,
    claim: int,
    hold: int,
    value: float,
) -> int:
    """Write one event where there is room; the count goes on, so that the caller can make room."""
    if n < ev.shape[0]:
        ev[n, E_T_MS] = t_ms
        ev[n, E_KIND] = kind
        ev[n, E_WHO] = who
        ev[n, E_FROM] = was
        ev[n, E_TO] = now
        ev[n, E_CLAIM] = claim
        ev[n, E_HOLD] = hold
        ev_value[n] = value
    return n + 1


@inlined
def scan(
    pf: FloatArray,
    pi: IntArray,
    cf: FloatArray,
    ci: IntArray,
    ki: IntArray,
    li: IntArray,
    sf: FloatArray,
    si: IntArray,
    bi: IntArray,
    oi: IntArray,
    t_ms: int,
    ev: IntArray,
    ev_value: FloatArray,
    n: int,
) -> int:
    """One scan at `t_ms` after its samples were taken; returns the new count of events."""
    for p in range(pf.shape[0]):
        if si[p, S_QUALITY] != STALE and t_ms - si[p, S_LAST_MS] >= pi[p, P_STALE_MS]:
            si[p, S_QUALITY] = STALE
            si[p, S_RUN] = 0
        if si[p, S_QUALITY] != si[p, S_SEEN_QUALITY]:
            n = put_event(
                ev,
                ev_value,
                n,
                t_ms,
                KIND_PROBE,
                p,
                si[p, S_SEEN_QUALITY],
                si[p, S_QUALITY],
                0,
                0,
                sf[p, S_VALUE],
            )
            si[p, S_SEEN_QUALITY] = si[p, S_QUALITY]

    for c in range(cf.shape[0]):
        p = ci[c, C_PROBE]
        bi[c, B_ASKS_OFF] = 0
        if si[p, S_QUALITY] == GOOD:
            value = sf[p, S_VALUE]
            if ci[c, C_RISING] == 1:
                asks_on = value >= cf[c, C_ON]
                asks_off = value <= cf[c, C_OFF]
            else:
                asks_on = value <= cf[c, C_ON]
                asks_off = value >= cf[c, C_OFF]
            if asks_on and bi[c, B_RAW] == 0:
                bi[c, B_RAW] = 1
                bi[c, B_SINCE_MS] = t_ms
            elif asks_off:
                bi[c, B_ASKS_OFF] = 1
                if bi[c, B_RAW] == 1:
                    bi[c, B_RAW] = 0
                    bi[c, B_SINCE_MS] = t_ms
        if bi[c, B_RAW] != bi[c, B_OUT]:
            delay_ms = ci[c, C_DELAY_ON_MS] if bi[c, B_RAW] == 1 else ci[c, C_DELAY_OFF_MS]
            if t_ms - bi[c, B_SINCE_MS] >= delay_ms:
                bi[c, B_OUT] = bi[c, B_RAW]

    for load in range(li.shape[0]):
        first = li[load, L_FIRST]
        end = li[load, L_END]
        if oi[load, O_LOCKED] == 1:
            for k in range(first, end):
                if ki[k, K_RANK] == RANK_DEMAND and bi[ki[k, K_CONDITION], B_ASKS_OFF] == 1:
                    oi[load, O_LOCKED] = 0
        decider = end - 1  # rest, which always stands
        for k in range(first, end - 1):
            if ki[k, K_RANK] == RANK_FAULT:
                p = ki[k, K_PROBE]
                active = si[p, S_QUALITY] != GOOD and t_ms - si[p, S_GOOD_MS] >= ki[k, K_AFTER_MS]
            else:
                active = bi[ki[k, K_CONDITION], B_OUT] == 1 and oi[load, O_LOCKED] == 0
            if active:
                decider = k
                break
        want = ki[decider, K_WANT]
        state = oi[load, O_STATE]
        hold = HOLD_NONE
        if want != state:
            since_ms = t_ms - oi[load, O_CHANGED_MS]
            if want == 0:
                if since_ms < li[load, L_MIN_ON_MS] and ki[decider, K_RANK] > RANK_FAULT:
                    hold = HOLD_MIN_ON
            elif since_ms < li[load, L_MIN_OFF_MS]:
                hold = HOLD_MIN_OFF
            elif t_ms < oi[load, O_BOOT_UNTIL_MS]:
                hold = HOLD_RETURN_DELAY
        now = state if hold != HOLD_NONE else want
        if now != state or decider != oi[load, O_DECIDER] or hold != oi[load, O_HOLD]:
            p = ki[decider, K_PROBE]
            value = sf[p, S_VALUE] if p >= 0 else math.nan
            n = put_event(ev, ev_value, n, t_ms, KIND_LOAD, load, state, now, decider, hold, value)
            oi[load, O_DECIDER] = decider
            oi[load, O_HOLD] = hold
            if now != state:
                oi[load, O_STATE] = now
                oi[load, O_CHANGED_MS] = t_ms
    return n


@kernel
def boot(
    li: IntArray,
    ki: IntArray,
    sf: FloatArray,
    si: IntArray,
    bi: IntArray,
    oi: IntArray,
    t_ms: int,
    first_start: bool,
) -> None:
    """State after power came back at `t_ms`, or at the very start of a run.

    What is not retained is lost: filters, timers, band states. A load with policy last keeps its
    band's state; with policy off it is locked until the band has asked for off once.
    """
    for p in range(sf.shape[0]):
        sf[p, S_FILTERED] = math.nan
        sf[p, S_VALUE] = math.nan
        sf[p, S_ANCHOR] = math.nan
        si[p, S_LAST_MS] = t_ms
        si[p, S_GOOD_MS] = t_ms
        si[p, S_QUALITY] = WARMING
        si[p, S_RUN] = 0
        si[p, S_ANCHOR_MS] = t_ms
        si[p, S_SEEN_QUALITY] = WARMING
    for load in range(li.shape[0]):
        keeps = li[load, L_POLICY] == POLICY_LAST and not first_start
        for k in range(li[load, L_FIRST], li[load, L_END]):
            c = ki[k, K_CONDITION]
            if c >= 0:
                if not keeps:
                    bi[c, B_RAW] = 0
                    bi[c, B_OUT] = 0
                else:
                    bi[c, B_RAW] = bi[c, B_OUT]
                bi[c, B_SINCE_MS] = t_ms
                bi[c, B_ASKS_OFF] = 0
        oi[load, O_STATE] = 0
        oi[load, O_CHANGED_MS] = NEVER if first_start else t_ms
        oi[load, O_DECIDER] = -2
        oi[load, O_HOLD] = HOLD_NONE
        oi[load, O_BOOT_UNTIL_MS] = t_ms if first_start else t_ms + li[load, L_RETURN_DELAY_MS]
        oi[load, O_LOCKED] = 1 if li[load, L_POLICY] == POLICY_OFF and not first_start else 0


@kernel
def next_deadline(
    pi: IntArray,
    ci: IntArray,
    ki: IntArray,
    li: IntArray,
    si: IntArray,
    bi: IntArray,
    oi: IntArray,
    t_ms: int,
) -> int:
    """The first instant after `t_ms` at which something changes without a new sample."""
    first = FOREVER
    for p in range(pi.shape[0]):
        if si[p, S_QUALITY] != STALE:
            at = si[p, S_LAST_MS] + pi[p, P_STALE_MS]
            if t_ms < at < first:
                first = at
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
        hold = oi[load, O_HOLD]
        if hold != HOLD_NONE:
            if hold == HOLD_MIN_ON:
                at = oi[load, O_CHANGED_MS] + li[load, L_MIN_ON_MS]
            elif hold == HOLD_MIN_OFF:
                at = oi[load, O_CHANGED_MS] + li[load, L_MIN_OFF_MS]
            else:
                at = oi[load, O_BOOT_UNTIL_MS]
            if t_ms < at < first:
                first = at
    return first


@kernel
def quiet_bounds(
    cf: FloatArray, ci: IntArray, bi: IntArray, oi: IntArray, quiet: FloatArray
) -> None:
    """Per probe the open interval (low, high) inside which no band can change."""
    locked = False
    for load in range(oi.shape[0]):
        if oi[load, O_LOCKED] == 1:
            locked = True
    for p in range(quiet.shape[0]):
        quiet[p, 0] = -math.inf
        quiet[p, 1] = math.inf
    for c in range(cf.shape[0]):
        p = ci[c, C_PROBE]
        raw = bi[c, B_RAW]
        rising = ci[c, C_RISING] == 1
        if raw == 0 or locked:
            if rising:
                quiet[p, 1] = min(quiet[p, 1], cf[c, C_ON])
            else:
                quiet[p, 0] = max(quiet[p, 0], cf[c, C_ON])
        if raw == 1 or locked:
            if rising:
                quiet[p, 0] = max(quiet[p, 0], cf[c, C_OFF])
            else:
                quiet[p, 1] = min(quiet[p, 1], cf[c, C_OFF])


@kernel
def replay_kernel(
    pf: FloatArray,
    pi: IntArray,
    cf: FloatArray,
    ci: IntArray,
    ki: IntArray,
    li: IntArray,
    sf: FloatArray,
    si: IntArray,
    bi: IntArray,
    oi: IntArray,
    quiet: FloatArray,
    sample_ms: IntArray,
    sample_probe: IntArray,
    sample_value: FloatArray,
    cuts: IntArray,
    start_ms: int,
    end_ms: int,
    period_ms: int,
    skipping: bool,
    ev: IntArray,
    ev_value: FloatArray,
) -> int:
    """Run from `start_ms` up to but not including `end_ms`; returns the count of events.

    Samples are sorted by time; each is seen by the first tick at or after it. `cuts` are power cuts
    [from, to), sorted and apart, shape (m, 2). A sample that falls into a cut is never seen.
    """
    n = 0
    i = 0
    samples = sample_ms.shape[0]
    cut = 0
    powered = True
    boot(li, ki, sf, si, bi, oi, start_ms, True)
    t_ms = start_ms
    deadline_ms = FOREVER
    while t_ms < end_ms:
        # --- power
        if powered and cut < cuts.shape[0] and t_ms >= cuts[cut, 0]:
            powered = False
            n = put_event(ev, ev_value, n, t_ms, KIND_POWER, 0, 1, 0, NO_POWER, 0, math.nan)
            for load in range(li.shape[0]):
                n = put_event(
                    ev,
                    ev_value,
                    n,
                    t_ms,
                    KIND_LOAD,
                    load,
                    oi[load, O_STATE],
                    0,
                    NO_POWER,
                    0,
                    math.nan,
                )
        if not powered and t_ms >= cuts[cut, 1]:
            powered = True
            cut += 1
            n = put_event(ev, ev_value, n, t_ms, KIND_POWER, 0, 0, 1, NO_POWER, 0, math.nan)
            boot(li, ki, sf, si, bi, oi, t_ms, False)
            while i < samples and sample_ms[i] < t_ms:
                i += 1
        if not powered:
            # Nothing happens in the dark: on to the first tick after it.
            back_ms = cuts[cut, 1]
            t_ms = start_ms + ((back_ms - start_ms + period_ms - 1) // period_ms) * period_ms
            continue
        # --- samples and the scan
        while i < samples and sample_ms[i] <= t_ms:
            take_sample(pf, pi, sf, si, sample_probe[i], sample_ms[i], sample_value[i])
            i += 1
        n = scan(pf, pi, cf, ci, ki, li, sf, si, bi, oi, t_ms, ev, ev_value, n)
        if not skipping:
            t_ms += period_ms
            continue
        # --- on to the next tick at which something can change
        quiet_bounds(cf, ci, bi, oi, quiet)
        deadline_ms = next_deadline(pi, ci, ki, li, si, bi, oi, t_ms)
        if cut < cuts.shape[0] and cuts[cut, 0] < deadline_ms:
            deadline_ms = cuts[cut, 0]
        while True:
            # The common case, free of divisions: one sample in its tick, well before the deadline,
            # quality as it was, value where no band can change.
            moved = False
            while i < samples:
                at_ms = sample_ms[i]
                if at_ms + period_ms > deadline_ms or at_ms + period_ms > end_ms:
                    break
                if i + 1 < samples and sample_ms[i + 1] - at_ms < period_ms:
                    break
                p = sample_probe[i]
                take_sample(pf, pi, sf, si, p, at_ms, sample_value[i])
                i += 1
                if si[p, S_QUALITY] != si[p, S_SEEN_QUALITY] or (
                    si[p, S_QUALITY] == GOOD and not (quiet[p, 0] < sf[p, S_VALUE] < quiet[p, 1])
                ):
                    t_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
                    moved = True
                    break
            if moved:
                break
            # The deadline or the end is near, or samples share a tick: go by ticks.
            tick_ms = FOREVER
            if i < samples:
                tick_ms = (
                    start_ms + ((sample_ms[i] - start_ms + period_ms - 1) // period_ms) * period_ms
                )
            if tick_ms >= deadline_ms or i >= samples:
                # The deadline comes first; but it may have moved on while samples came in.
                later_ms = next_deadline(pi, ci, ki, li, si, bi, oi, t_ms)
                if cut < cuts.shape[0] and cuts[cut, 0] < later_ms:
                    later_ms = cuts[cut, 0]
                if later_ms > deadline_ms and i < samples:
                    deadline_ms = later_ms
                    continue
                if later_ms < FOREVER:
                    later_ms = (
                        start_ms + ((later_ms - start_ms + period_ms - 1) // period_ms) * period_ms
                    )
                # A cut that was due before the last one ended is seen one tick later.
                t_ms = max(t_ms + period_ms, min(tick_ms, later_ms))
                break
            t_ms = tick_ms  # samples that share a tick, or the end: a whole scan
            break
    return n
