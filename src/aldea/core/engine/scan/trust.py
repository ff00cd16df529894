"""From a sample to a trusted value: range, jump, stuck, filter, calibration, quality."""

import math

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import inlined, kernel
from aldea.core.engine.layout import (
    EVENT_PROBE,
    FOREVER,
    GOOD,
    JUMP,
    NOBODY,
    NONE,
    RANGE,
    STALE,
    STUCK,
    WARMING,
)
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.filters import of_the_last
from aldea.core.engine.scan.views import (
    PROBES_DERIVED,
    PROBES_FLOATS,
    PROBES_INTS,
    PROBES_NOW_FLOATS,
    PROBES_NOW_GOOD,
    PROBES_NOW_INTS,
    PROBES_NOW_RATE_MS,
    PROBES_NOW_RATE_VALUES,
    PROBES_NOW_RATES,
    PROBES_NOW_VALUES,
    PROBES_RATES,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.probes import (
    D_OVER_MS,
    FILTER_MEAN,
    FILTER_TIME,
    P_FILTER,
    P_GOOD_RUN,
    P_HIGH,
    P_INTERCEPT,
    P_JUMP_AFTER,
    P_JUMP_PER_S,
    P_LOW,
    P_RATES,
    P_RATES_END,
    P_SLOPE,
    P_STALE_MS,
    P_STUCK_BAND,
    P_STUCK_MS,
    P_TAU_S,
    P_WARM_MS,
    R_FIRST,
    R_HELD,
    S_ANCHOR,
    S_ANCHOR_MS,
    S_BASE,
    S_BASE_MS,
    S_BEEN_GOOD,
    S_ENTERED_MS,
    S_FILTERED,
    S_GOOD_MS,
    S_JUMPED,
    S_JUMPED_COUNT,
    S_JUMPED_MS,
    S_LAST_MS,
    S_QUALITY,
    S_RUN,
    S_SEEN_QUALITY,
    S_VALUE,
)


@kernel
def judged(run: int, p: int, t_ms: int, raw: float) -> int:
    """Jump, then stuck, of a raw sample inside the range; GOOD where it is neither."""
    pf, pi = float_table(run, PROBES_FLOATS), int_table(run, PROBES_INTS)
    sf, si = float_table(run, PROBES_NOW_FLOATS), int_table(run, PROBES_NOW_INTS)
    if pi[p, P_JUMP_AFTER] > 0:
        base = sf[p, S_BASE]
        per_s = pf[p, P_JUMP_PER_S]
        far = abs(raw - base) > per_s * (t_ms - si[p, S_BASE_MS]) / 1000
        if not math.isnan(base) and far:
            count = 1
            last = sf[p, S_JUMPED]
            if not math.isnan(last):
                if abs(raw - last) <= per_s * (t_ms - si[p, S_JUMPED_MS]) / 1000:
                    count = si[p, S_JUMPED_COUNT] + 1
            sf[p, S_JUMPED] = raw
            si[p, S_JUMPED_MS] = t_ms
            si[p, S_JUMPED_COUNT] = count
            if count < pi[p, P_JUMP_AFTER]:
                return JUMP
        sf[p, S_JUMPED] = math.nan
        sf[p, S_BASE] = raw
        si[p, S_BASE_MS] = t_ms
    if pi[p, P_STUCK_MS] > 0:
        if not (abs(raw - sf[p, S_ANCHOR]) <= pf[p, P_STUCK_BAND]):  # also for the first: NaN
            sf[p, S_ANCHOR] = raw
            si[p, S_ANCHOR_MS] = t_ms
        elif t_ms - si[p, S_ANCHOR_MS] >= pi[p, P_STUCK_MS]:
            return STUCK
    return GOOD


@kernel
def remember_good(run: int, p: int, t_ms: int) -> None:
    """Put a good value into the ring of each rate that reads the probe.

    The first one held is what the newest is compared with: the newest that is old enough.
    """
    for index in range(
        int_table(run, PROBES_INTS)[p, P_RATES], int_table(run, PROBES_INTS)[p, P_RATES_END]
    ):
        d = int_row(run, PROBES_RATES)[index]
        room = int_table(run, PROBES_NOW_RATE_MS).shape[1]
        first, held = (
            int_table(run, PROBES_NOW_RATES)[d, R_FIRST],
            int_table(run, PROBES_NOW_RATES)[d, R_HELD],
        )
        at = (first + held) % room
        int_table(run, PROBES_NOW_RATE_MS)[d, at] = t_ms
        float_table(run, PROBES_NOW_RATE_VALUES)[d, at] = float_table(run, PROBES_NOW_FLOATS)[
            p, S_VALUE
        ]
        held += 1
        while (
            held > 1
            and t_ms - int_table(run, PROBES_NOW_RATE_MS)[d, (first + 1) % room]
            >= int_table(run, PROBES_DERIVED)[d, D_OVER_MS]
        ):
            first = (first + 1) % room
            held -= 1
        int_table(run, PROBES_NOW_RATES)[d, R_FIRST] = first
        int_table(run, PROBES_NOW_RATES)[d, R_HELD] = held


@inlined
def take_sample(
    run: int,
    pf: FloatArray,
    pi: IntArray,
    sf: FloatArray,
    si: IntArray,
    p: int,
    t_ms: int,
    raw: float,
    booted_ms: int,
) -> float:
    """One sample of probe `p`; returns what entered the filter, calibrated, else NaN.

    A missing reading (NaN) is no sample. What is out of range, or jumped, never reaches the filter
    and moves no clock of it. In the warm-up samples fill the filter and count for nothing else.
    The tables of probes are handed in, so that a loop over samples looks for them once.
    """
    latest = math.nan
    if not math.isnan(raw):
        si[p, S_LAST_MS] = t_ms
        warm = t_ms >= booted_ms + pi[p, P_WARM_MS]
        found = GOOD
        if raw < pf[p, P_LOW] or raw > pf[p, P_HIGH]:
            found = RANGE
        elif warm and pi[p, P_JUMP_AFTER] + pi[p, P_STUCK_MS] > 0:
            found = judged(run, p, t_ms, raw)
        if found != RANGE and found != JUMP:
            now = raw
            kind = pi[p, P_FILTER]
            if kind >= FILTER_MEAN:
                now = of_the_last(run, p, raw)
            elif kind == FILTER_TIME:
                before = sf[p, S_FILTERED]
                if not math.isnan(before):
                    dt_s = (t_ms - si[p, S_ENTERED_MS]) * 0.001
                    now = before + (1.0 - math.exp(-dt_s / pf[p, P_TAU_S])) * (raw - before)
                si[p, S_ENTERED_MS] = t_ms
                sf[p, S_FILTERED] = now
            latest = pf[p, P_INTERCEPT] + pf[p, P_SLOPE] * now
        if warm and found != GOOD:
            si[p, S_QUALITY] = found
            si[p, S_RUN] = 0
        elif warm:
            si[p, S_RUN] += 1
            if si[p, S_QUALITY] != GOOD and si[p, S_RUN] >= pi[p, P_GOOD_RUN]:
                si[p, S_QUALITY] = GOOD
                si[p, S_BEEN_GOOD] = 1
            if si[p, S_QUALITY] == GOOD:
                sf[p, S_VALUE] = latest
                si[p, S_GOOD_MS] = t_ms
                if pi[p, P_RATES] < pi[p, P_RATES_END]:
                    remember_good(run, p, t_ms)
    return latest


@kernel
def judge_probes(run: int, t_ms: int, booted_ms: int) -> None:
    """What warms up, or has been silent for too long, is not good; a change is an event."""
    pi = int_table(run, PROBES_INTS)
    sf, si = float_table(run, PROBES_NOW_FLOATS), int_table(run, PROBES_NOW_INTS)
    for p in range(pi.shape[0]):
        if t_ms < booted_ms + pi[p, P_WARM_MS]:
            si[p, S_QUALITY] = WARMING
            si[p, S_RUN] = 0
        elif pi[p, P_STALE_MS] != NONE and t_ms - si[p, S_LAST_MS] >= pi[p, P_STALE_MS]:
            si[p, S_QUALITY] = STALE
            si[p, S_RUN] = 0
        quality = si[p, S_QUALITY]
        if quality != si[p, S_SEEN_QUALITY]:
            put_event(
                run,
                t_ms,
                EVENT_PROBE,
                p,
                si[p, S_SEEN_QUALITY],
                quality,
                0,
                NOBODY,
                sf[p, S_VALUE],
            )
            si[p, S_SEEN_QUALITY] = quality
        int_row(run, PROBES_NOW_GOOD)[p] = 1 if quality == GOOD else 0
        float_row(run, PROBES_NOW_VALUES)[p] = sf[p, S_VALUE]


@kernel
def next_judgement(run: int, t_ms: int, booted_ms: int) -> int:
    """The first instant at which a probe goes stale or is warm, unless a sample comes before."""
    pi, si = int_table(run, PROBES_INTS), int_table(run, PROBES_NOW_INTS)
    first = FOREVER
    for p in range(pi.shape[0]):
        # One that is stale already may still have a run of good samples to lose.
        speaks = si[p, S_QUALITY] != STALE or si[p, S_RUN] > 0
        if pi[p, P_STALE_MS] != NONE and speaks:
            first = min(first, si[p, S_LAST_MS] + pi[p, P_STALE_MS])
        if t_ms < booted_ms + pi[p, P_WARM_MS]:
            first = min(first, booted_ms + pi[p, P_WARM_MS])
    return first
