"""The replay: power, what comes in, scans; every tick, or only those that can change something.

The order inside a scan is that of ENGINE.md. Timers compare instants and never count scans.
Skipping is exact against visiting every tick.
"""

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import entry, inlined, kernel
from aldea.core.engine.layout import (
    GOOD,
    NONE,
)
from aldea.core.engine.scan.arrays import (
    AT_CUT,
    AT_FEEDS,
    AT_SAMPLE,
    H_BOOTED_MS,
    H_CLOCK_KNOWN,
    Y_BOOT_MS,
    Y_FROM_MS,
    Y_KEPT,
    Y_TO_MS,
)
from aldea.core.engine.scan.boot import boot
from aldea.core.engine.scan.conditions import judge_conditions
from aldea.core.engine.scan.incoming import hear_messages, lose_inputs, next_input, take_inputs
from aldea.core.engine.scan.one_scan import decide, next_instant, trust
from aldea.core.engine.scan.power import power_off, put_power
from aldea.core.engine.scan.skipping import quiet_bounds
from aldea.core.engine.scan.trust import next_judgement, take_sample
from aldea.core.engine.scan.views import (
    INPUTS_CUTS,
    INPUTS_SAMPLE_MS,
    INPUTS_SAMPLE_PROBE,
    INPUTS_SAMPLE_VALUE,
    OUT_QUALITIES,
    OUT_TRACE,
    PROBES_FLOATS,
    PROBES_INTS,
    PROBES_NOW_FLOATS,
    PROBES_NOW_INTS,
    PROBES_NOW_QUIET,
    RUN_HEAD,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.probes import (
    S_QUALITY,
    S_RUN,
    S_SEEN_QUALITY,
    S_VALUE,
    U_FEEDS,
    U_HIGH,
    U_LOW,
)


@inlined
def stirred(sf: FloatArray, si: IntArray, quiet: FloatArray, p: int) -> bool:
    """Whether what was read of a probe may change more than a derived signal."""
    good = si[p, S_QUALITY] == GOOD
    beyond = good and not (quiet[p, U_LOW] < sf[p, S_VALUE] < quiet[p, U_HIGH])
    recovers = not good and si[p, S_RUN] > 0  # a run that a silence would break
    return si[p, S_QUALITY] != si[p, S_SEEN_QUALITY] or beyond or recovers


@kernel
def only_feeds(run: int) -> bool:
    """Whether what came in since the last scan can change derived signals alone."""
    sf, si = float_table(run, PROBES_NOW_FLOATS), int_table(run, PROBES_NOW_INTS)
    quiet = float_table(run, PROBES_NOW_QUIET)
    for p in range(si.shape[0]):
        if stirred(sf, si, quiet, p):
            return False
    return True


@kernel
def skip_samples(
    run: int,
    at: IntArray,
    timer_ms: int,
    t_ms: int,
    period_ms: int,
) -> int:
    """Take the samples that stir nothing; the instant at which a scan must be visited.

    Whatever comes in before the tick of the deadline is taken by a tick of its own. While quality
    stays as it was, and values where no condition can change, that tick need not be visited,
    however many samples share it.
    """
    pf, pi = float_table(run, PROBES_FLOATS), int_table(run, PROBES_INTS)
    sf, si = float_table(run, PROBES_NOW_FLOATS), int_table(run, PROBES_NOW_INTS)
    quiet = float_table(run, PROBES_NOW_QUIET)
    sample_ms, probes = int_row(run, INPUTS_SAMPLE_MS), int_row(run, INPUTS_SAMPLE_PROBE)
    values, trace = float_row(run, INPUTS_SAMPLE_VALUE), float_row(run, OUT_TRACE)
    qualities = int_row(run, OUT_QUALITIES)
    booted_ms = int_row(run, RUN_HEAD)[H_BOOTED_MS]
    stale_ms = next_judgement(run, t_ms, booted_ms)
    samples, traced = sample_ms.shape[0], trace.shape[0]
    i = at[AT_SAMPLE]
    at[AT_FEEDS] = 0
    while True:
        at_ms = min(stale_ms, timer_ms)
        last_ms = at_ms - period_ms
        while i < samples and sample_ms[i] <= last_ms:
            p = probes[i]
            latest = take_sample(run, pf, pi, sf, si, p, sample_ms[i], values[i], booted_ms)
            if i < traced:
                trace[i] = latest
                qualities[i] = si[p, S_QUALITY]
            i += 1
            stirs = stirred(sf, si, quiet, p)
            if stirs or (quiet[p, U_FEEDS] > 0.0 and si[p, S_QUALITY] == GOOD):
                at[AT_SAMPLE] = i
                at[AT_FEEDS] = 0 if stirs else 1
                return sample_ms[i - 1]
        if at_ms < timer_ms:
            stale_ms = next_judgement(run, t_ms, booted_ms)
            if stale_ms > at_ms:
                continue  # the probe that was due has spoken
        at[AT_SAMPLE] = i
        if i < samples:
            at_ms = min(at_ms, sample_ms[i])  # in a tick of its own
        return at_ms


@entry
def replay_kernel(
    run: int,
    deciders: IntArray,
    at: IntArray,
    start_ms: int,
    end_ms: int,
    period_ms: int,
    running: bool,
    goes_on: bool,
    skipping: bool,
) -> None:
    """Run from `start_ms` up to but not including `end_ms`; one that `goes_on` boots nothing.

    Each input is seen by the first tick at or after it; one that falls into a cut is never seen.
    Events of the supply and of boots have their own instants, all others those of their tick.
    """
    cuts = int_table(run, INPUTS_CUTS)
    dark = False
    # A run that begins without power boots when it comes.
    unpowered = cuts.shape[0] > 0 and cuts[0, Y_FROM_MS] <= start_ms
    if not goes_on:
        boot(run, start_ms, running or unpowered)
    t_ms = timer_ms = start_ms
    at[AT_FEEDS] = 0
    while t_ms < end_ms:
        # --- power: every cut that has begun by now, also those that passed between two scans
        back = NONE
        while at[AT_CUT] < cuts.shape[0] and t_ms >= cuts[at[AT_CUT], Y_FROM_MS]:
            cut = at[AT_CUT]
            if not dark:
                dark = True
                power_off(run, cut, start_ms)
            if t_ms < cuts[cut, Y_TO_MS] + cuts[cut, Y_BOOT_MS]:
                break
            dark = False
            back = cut
            at[AT_CUT] += 1
            put_power(run, cuts[cut, Y_TO_MS], 0, 1)
            if cuts[cut, Y_KEPT] == 0:
                int_row(run, RUN_HEAD)[H_CLOCK_KNOWN] = 0
        if dark:
            # Nothing happens in the dark: on to the first tick after it.
            cut = at[AT_CUT]
            at_ms = cuts[cut, Y_TO_MS] + cuts[cut, Y_BOOT_MS]
            t_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
            continue
        if back != NONE:
            lose_inputs(run, at, cuts[back, Y_TO_MS])
            booted_ms = cuts[back, Y_TO_MS] + cuts[back, Y_BOOT_MS]
            boot(run, booted_ms, False)
        # --- what comes in, and the scan
        take_inputs(run, at, t_ms)
        lightly = at[AT_FEEDS] == 1 and back == NONE and only_feeds(run)
        trust(run, t_ms)
        # Nothing is due, and where no condition says anything new, nobody decides anew.
        if not (lightly and not judge_conditions(run, t_ms)):
            hear_messages(run, at, t_ms)
            decide(run, t_ms, period_ms, deciders)
            if not skipping:
                t_ms += period_ms
                continue
            # --- on to the next tick at which something can change
            quiet_bounds(run)
            timer_ms = next_instant(run, t_ms, period_ms)
            timer_ms = min(timer_ms, next_input(run, at, end_ms))
        at_ms = skip_samples(run, at, timer_ms, t_ms, period_ms)
        at_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
        t_ms = max(t_ms + period_ms, at_ms)
