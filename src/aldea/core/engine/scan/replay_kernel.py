"""The replay: power, samples, scans; every tick, or only those at which something can change.

The order inside a scan is that of ENGINE.md. Timers compare instants and never count scans.
Skipping is exact against visiting every tick.
"""

import math

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.layout import (
    EVENT_LOAD,
    EVENT_POWER,
    GOOD,
    NO_POWER,
    NOBODY,
    O_STATE,
    S_QUALITY,
    S_SEEN_QUALITY,
    S_VALUE,
)
from aldea.core.engine.scan.arrays import PlanArrays, StateArrays
from aldea.core.engine.scan.boot import boot
from aldea.core.engine.scan.conditions import judge_conditions
from aldea.core.engine.scan.decide import decide_loads
from aldea.core.engine.scan.events import put_event
from aldea.core.engine.scan.quiet import next_stale, next_timer, quiet_bounds
from aldea.core.engine.scan.trust import judge_probes, take_sample


@kernel
def replay_kernel(
    plan: PlanArrays,
    state: StateArrays,
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
    [from, to), sorted and apart, shape (m, 2). A sample that falls into a cut is never seen. Events
    of the supply have its own instants, all others those of their tick.
    """
    sf, si, oi = state.probe_floats, state.probe_ints, state.loads
    quiet = state.quiet
    n = 0
    i = 0
    samples = sample_ms.shape[0]
    cut = 0
    dark = False
    boot(plan, state, start_ms, True)
    t_ms = start_ms
    while t_ms < end_ms:
        # --- power: every cut that has begun by now, also those that passed between two scans
        powered = True
        while cut < cuts.shape[0] and t_ms >= cuts[cut, 0]:
            if not dark:
                dark = True
                at_ms = max(cuts[cut, 0], start_ms)
                n = put_event(
                    ev, ev_value, n, at_ms, EVENT_POWER, 0, 1, 0, NO_POWER, 0, NOBODY, math.nan
                )
                for load in range(oi.shape[0]):
                    was, off = oi[load, O_STATE], 0
                    n = put_event(
                        ev, ev_value, n, at_ms, EVENT_LOAD, load, was, off, NO_POWER, 0, NOBODY,
                        math.nan,
                    )  # fmt: skip
            if t_ms < cuts[cut, 1]:
                powered = False
                break
            dark = False
            at_ms = cuts[cut, 1]
            cut += 1
            n = put_event(
                ev, ev_value, n, at_ms, EVENT_POWER, 0, 0, 1, NO_POWER, 0, NOBODY, math.nan
            )
            boot(plan, state, at_ms, False)
            while i < samples and sample_ms[i] < at_ms:
                i += 1
        if not powered:
            # Nothing happens in the dark: on to the first tick after it.
            at_ms = cuts[cut, 1]
            t_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
            continue
        # --- samples and the scan
        while i < samples and sample_ms[i] <= t_ms:
            take_sample(plan, state, sample_probe[i], sample_ms[i], sample_value[i])
            i += 1
        n = judge_probes(plan, state, t_ms, ev, ev_value, n)
        judge_conditions(plan, state, t_ms)
        n = decide_loads(plan, state, t_ms, ev, ev_value, n)
        if not skipping:
            t_ms += period_ms
            continue
        # --- on to the next tick at which something can change
        quiet_bounds(plan, state)
        timer_ms = min(next_timer(plan, state, t_ms), end_ms)
        if cut < cuts.shape[0]:
            timer_ms = min(timer_ms, cuts[cut, 0])
        stale_ms = next_stale(plan, state)
        while True:
            # Whatever comes in before the tick of the deadline is taken by a tick of its own. While
            # quality stays as it was, and values where no band can change, that tick need not be
            # visited, however many samples share it.
            at_ms = min(stale_ms, timer_ms)
            last_ms = at_ms - period_ms
            stirred = False
            while i < samples and sample_ms[i] <= last_ms:
                p = sample_probe[i]
                take_sample(plan, state, p, sample_ms[i], sample_value[i])
                i += 1
                if si[p, S_QUALITY] != si[p, S_SEEN_QUALITY] or (
                    si[p, S_QUALITY] == GOOD and not (quiet[p, 0] < sf[p, S_VALUE] < quiet[p, 1])
                ):
                    stirred = True
                    break
            if stirred:
                at_ms = sample_ms[i - 1]
                break
            if at_ms < timer_ms:
                stale_ms = next_stale(plan, state)
                if stale_ms > at_ms:
                    continue  # the probe that was due has spoken
            if i < samples:
                at_ms = min(at_ms, sample_ms[i])  # near the deadline: in a tick of its own
            break
        at_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
        t_ms = max(t_ms + period_ms, at_ms)
    return n
