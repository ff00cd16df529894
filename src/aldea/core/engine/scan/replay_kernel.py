"""The replay: power, what comes in, scans; every tick, or only those that can change something.

The order inside a scan is that of ENGINE.md. Timers compare instants and never count scans.
Skipping is exact against visiting every tick.
"""

import math

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.jit import entry, inlined, kernel
from aldea.core.engine.layout import (
    EVENT_LOAD,
    EVENT_POWER,
    GOOD,
    INHIBIT_NONE,
    NO_LEVEL,
    NO_POWER,
    NOBODY,
    NONE,
)
from aldea.core.engine.scan.actions import act
from aldea.core.engine.scan.arrays import (
    H_BOOTED_MS,
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
    H_STIRRED,
    I_MS,
    I_TO,
    I_WHO,
    J_AUTHOR,
    J_CODE,
    J_END,
    J_FIRST,
    J_MS,
    Y_BOOT_MS,
    Y_FROM_MS,
    Y_KEPT,
    Y_TO_MS,
    Y_TORN,
)
from aldea.core.engine.scan.boot import boot
from aldea.core.engine.scan.conditions import judge_conditions, quiet_bounds
from aldea.core.engine.scan.events import put_line, put_row
from aldea.core.engine.scan.memory import tear
from aldea.core.engine.scan.one_scan import decide, next_instant, trust
from aldea.core.engine.scan.people import hear_code
from aldea.core.engine.scan.trust import next_judgement, take_sample
from aldea.core.engine.scan.views import (
    INPUTS_CLOCK,
    INPUTS_CUTS,
    INPUTS_LEVELS,
    INPUTS_MESSAGES,
    INPUTS_SAMPLE_MS,
    INPUTS_SAMPLE_PROBE,
    INPUTS_SAMPLE_VALUE,
    LOADS_INTS,
    LOADS_LINES,
    LOADS_NOW_INTS,
    LOADS_NOW_LINES,
    MEMORY_POLICY,
    OUT_QUALITIES,
    OUT_TRACE,
    PEOPLE_NOW_INPUTS,
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
from aldea.core.engine.tables.loads import L_UNPOWERED, O_STATE, R_BOOT, W_SHOWN
from aldea.core.engine.tables.memory import Y_BYTES
from aldea.core.engine.tables.probes import (
    S_QUALITY,
    S_RUN,
    S_SEEN_QUALITY,
    S_VALUE,
    U_FEEDS,
    U_HIGH,
    U_LOW,
)

# where each kind of input has been read up to; whether the next scan is only for derived signals
AT_SAMPLE, AT_LEVEL, AT_MESSAGE, AT_CLOCK, AT_CUT, AT_FEEDS = range(6)
AT_INTS = 6


@kernel
def power_off(
    run: int,
    cut: int,
    start_ms: int,
) -> None:
    """The power goes: an event, dark loads, no level on any line, perhaps a torn write."""
    at_ms = max(int_table(run, INPUTS_CUTS)[cut, Y_FROM_MS], start_ms)
    put_power(run, at_ms, 1, 0)
    oi, lines = int_table(run, LOADS_NOW_INTS), int_table(run, LOADS_NOW_LINES)
    for load in range(oi.shape[0]):
        was, now = oi[load, O_STATE], int_table(run, LOADS_INTS)[load, L_UNPOWERED]
        put_row(
            run,
            at_ms,
            EVENT_LOAD,
            load,
            was,
            now,
            NO_POWER,
            NOBODY,
            NO_POWER,
            NOBODY,
            now,
            INHIBIT_NONE,
            INHIBIT_NONE,
            NOBODY,
            math.nan,
        )
        oi[load, O_STATE] = now  # the power may go again before anything was scanned
    for line in range(lines.shape[0]):
        put_line(run, at_ms, line, NO_LEVEL)
    for line in range(lines.shape[0]):
        lines[line, W_SHOWN] = int_table(run, LOADS_LINES)[line, R_BOOT]
        put_line(
            run,
            int_table(run, INPUTS_CUTS)[cut, Y_TO_MS],
            line,
            int_table(run, LOADS_LINES)[line, R_BOOT],
        )
    if int_table(run, INPUTS_CUTS)[cut, Y_TORN] != NONE:
        tear(run, int_table(run, INPUTS_CUTS)[cut, Y_TORN], int_row(run, MEMORY_POLICY)[Y_BYTES])


@kernel
def put_power(run: int, at_ms: int, was: int, now: int) -> None:
    """Write that the power went or came back."""
    put_row(
        run,
        at_ms,
        EVENT_POWER,
        0,
        was,
        now,
        NO_POWER,
        NOBODY,
        NO_POWER,
        NOBODY,
        0,
        INHIBIT_NONE,
        INHIBIT_NONE,
        NOBODY,
        math.nan,
    )


@kernel
def take_inputs(
    run: int,
    at: IntArray,
    t_ms: int,
) -> None:
    """The clock, then samples, then the level that every digital input has now."""
    head = int_row(run, RUN_HEAD)
    while (
        at[AT_CLOCK] < int_table(run, INPUTS_CLOCK).shape[0]
        and int_table(run, INPUTS_CLOCK)[at[AT_CLOCK], 0] <= t_ms
    ):
        row = at[AT_CLOCK]
        head[H_CLOCK_KNOWN] = int_table(run, INPUTS_CLOCK)[row, 2]
        head[H_CLOCK_BASE] = (
            int_table(run, INPUTS_CLOCK)[row, 1] - int_table(run, INPUTS_CLOCK)[row, 0]
        )
        at[AT_CLOCK] += 1
    while at[AT_SAMPLE] < int_row(run, INPUTS_SAMPLE_MS).shape[0]:
        row = at[AT_SAMPLE]
        if int_row(run, INPUTS_SAMPLE_MS)[row] > t_ms:
            break
        one_sample(run, row)
        at[AT_SAMPLE] += 1
    while (
        at[AT_LEVEL] < int_table(run, INPUTS_LEVELS).shape[0]
        and int_table(run, INPUTS_LEVELS)[at[AT_LEVEL], I_MS] <= t_ms
    ):
        row = at[AT_LEVEL]
        int_row(run, PEOPLE_NOW_INPUTS)[int_table(run, INPUTS_LEVELS)[row, I_WHO]] = int_table(
            run, INPUTS_LEVELS
        )[row, I_TO]
        at[AT_LEVEL] += 1


@kernel
def one_sample(run: int, row: int) -> None:
    """Take one sample, and trace what it came to where somebody asked."""
    p = int_row(run, INPUTS_SAMPLE_PROBE)[row]
    latest = take_sample(
        run,
        float_table(run, PROBES_FLOATS),
        int_table(run, PROBES_INTS),
        float_table(run, PROBES_NOW_FLOATS),
        int_table(run, PROBES_NOW_INTS),
        p,
        int_row(run, INPUTS_SAMPLE_MS)[row],
        float_row(run, INPUTS_SAMPLE_VALUE)[row],
        int_row(run, RUN_HEAD)[H_BOOTED_MS],
    )
    if row < float_row(run, OUT_TRACE).shape[0]:
        float_row(run, OUT_TRACE)[row] = latest
        int_row(run, OUT_QUALITIES)[row] = int_table(run, PROBES_NOW_INTS)[p, S_QUALITY]


@kernel
def hear_messages(
    run: int,
    at: IntArray,
    t_ms: int,
) -> None:
    """Pages and codes, in order of time."""
    messages = int_table(run, INPUTS_MESSAGES)
    while at[AT_MESSAGE] < messages.shape[0] and messages[at[AT_MESSAGE], J_MS] <= t_ms:
        row = at[AT_MESSAGE]
        if messages[row, J_CODE] >= 0:
            hear_code(run, t_ms, messages[row, J_CODE], messages[row, J_MS])
        else:
            act(
                run,
                t_ms,
                messages[row, J_FIRST],
                messages[row, J_END],
                messages[row, J_AUTHOR],
            )
        at[AT_MESSAGE] += 1


@kernel
def lose_inputs(run: int, at: IntArray, before_ms: int) -> None:
    """What came while there was no power is lost; levels are what they are."""
    while (
        at[AT_SAMPLE] < int_row(run, INPUTS_SAMPLE_MS).shape[0]
        and int_row(run, INPUTS_SAMPLE_MS)[at[AT_SAMPLE]] < before_ms
    ):
        at[AT_SAMPLE] += 1
    while (
        at[AT_MESSAGE] < int_table(run, INPUTS_MESSAGES).shape[0]
        and int_table(run, INPUTS_MESSAGES)[at[AT_MESSAGE], J_MS] < before_ms
    ):
        at[AT_MESSAGE] += 1
    while (
        at[AT_CLOCK] < int_table(run, INPUTS_CLOCK).shape[0]
        and int_table(run, INPUTS_CLOCK)[at[AT_CLOCK], 0] < before_ms
    ):
        at[AT_CLOCK] += 1
    int_row(run, RUN_HEAD)[H_STIRRED] = 1


@kernel
def next_input(run: int, at: IntArray, end_ms: int) -> int:
    """The first instant at which a level, a message, the clock or the power changes."""
    first = end_ms
    if at[AT_LEVEL] < int_table(run, INPUTS_LEVELS).shape[0]:
        first = min(first, int_table(run, INPUTS_LEVELS)[at[AT_LEVEL], I_MS])
    if at[AT_MESSAGE] < int_table(run, INPUTS_MESSAGES).shape[0]:
        first = min(first, int_table(run, INPUTS_MESSAGES)[at[AT_MESSAGE], J_MS])
    if at[AT_CLOCK] < int_table(run, INPUTS_CLOCK).shape[0]:
        first = min(first, int_table(run, INPUTS_CLOCK)[at[AT_CLOCK], 0])
    if at[AT_CUT] < int_table(run, INPUTS_CUTS).shape[0]:
        first = min(first, int_table(run, INPUTS_CUTS)[at[AT_CUT], Y_FROM_MS])
    return first


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
