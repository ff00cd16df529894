"""The replay: power, what comes in, scans; every tick, or only those that can change something.

The order inside a scan is that of ENGINE.md. Timers compare instants and never count scans.
Skipping is exact against visiting every tick.
"""

import math

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import entry, kernel
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
    InputArrays,
    OutArrays,
    PlanArrays,
    StateArrays,
)
from aldea.core.engine.scan.boot import boot
from aldea.core.engine.scan.conditions import quiet_bounds
from aldea.core.engine.scan.events import put_line, put_row
from aldea.core.engine.scan.memory import tear
from aldea.core.engine.scan.one_scan import decide, next_instant, trust
from aldea.core.engine.scan.people import hear_code
from aldea.core.engine.scan.trust import next_judgement, take_sample
from aldea.core.engine.tables.loads import L_UNPOWERED, O_STATE, R_BOOT, W_SHOWN
from aldea.core.engine.tables.memory import Y_BYTES
from aldea.core.engine.tables.people import Calendar
from aldea.core.engine.tables.probes import S_QUALITY, S_SEEN_QUALITY, S_VALUE

# where each kind of input has been read up to
AT_SAMPLE, AT_LEVEL, AT_MESSAGE, AT_CLOCK, AT_CUT = range(5)


@kernel
def power_off(
    plan: PlanArrays,
    state: StateArrays,
    inputs: InputArrays,
    cut: int,
    start_ms: int,
    out: OutArrays,
) -> None:
    """The power goes: an event, dark loads, no level on any line, perhaps a torn write."""
    at_ms = max(inputs.cuts[cut, Y_FROM_MS], start_ms)
    put_power(out, at_ms, 1, 0)
    oi, lines = state.loads.ints, state.loads.lines
    for load in range(oi.shape[0]):
        was, now = oi[load, O_STATE], plan.loads.ints[load, L_UNPOWERED]
        put_row(
            out.counts,
            out.events,
            out.values,
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
    for line in range(lines.shape[0]):
        put_line(out, at_ms, line, NO_LEVEL)
    for line in range(lines.shape[0]):
        lines[line, W_SHOWN] = plan.loads.lines[line, R_BOOT]
        put_line(out, inputs.cuts[cut, Y_TO_MS], line, plan.loads.lines[line, R_BOOT])
    if inputs.cuts[cut, Y_TORN] != NONE:
        tear(state.memory, inputs.cuts[cut, Y_TORN], plan.memory.policy[Y_BYTES])


@kernel
def put_power(out: OutArrays, at_ms: int, was: int, now: int) -> None:
    """Write that the power went or came back."""
    put_row(
        out.counts,
        out.events,
        out.values,
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
    plan: PlanArrays,
    state: StateArrays,
    inputs: InputArrays,
    at: IntArray,
    t_ms: int,
    out: OutArrays,
) -> None:
    """The clock, then samples, then the level that every digital input has now."""
    head = state.head
    while at[AT_CLOCK] < inputs.clock.shape[0] and inputs.clock[at[AT_CLOCK], 0] <= t_ms:
        row = at[AT_CLOCK]
        head[H_CLOCK_KNOWN] = inputs.clock[row, 2]
        head[H_CLOCK_BASE] = inputs.clock[row, 1] - inputs.clock[row, 0]
        at[AT_CLOCK] += 1
    while at[AT_SAMPLE] < inputs.sample_ms.shape[0]:
        row = at[AT_SAMPLE]
        if inputs.sample_ms[row] > t_ms:
            break
        one_sample(plan, state, inputs, row, out)
        at[AT_SAMPLE] += 1
    while at[AT_LEVEL] < inputs.levels.shape[0] and inputs.levels[at[AT_LEVEL], I_MS] <= t_ms:
        row = at[AT_LEVEL]
        state.people.inputs[inputs.levels[row, I_WHO]] = inputs.levels[row, I_TO]
        at[AT_LEVEL] += 1


@kernel
def one_sample(
    plan: PlanArrays, state: StateArrays, inputs: InputArrays, row: int, out: OutArrays
) -> None:
    """Take one sample, and trace what it came to where somebody asked."""
    p = inputs.sample_probe[row]
    latest = take_sample(
        plan.probes,
        state.probes,
        p,
        inputs.sample_ms[row],
        inputs.sample_value[row],
        state.head[H_BOOTED_MS],
    )
    if row < out.trace.shape[0]:
        out.trace[row] = latest
        out.qualities[row] = state.probes.ints[p, S_QUALITY]


@kernel
def hear_messages(
    plan: PlanArrays,
    state: StateArrays,
    inputs: InputArrays,
    at: IntArray,
    t_ms: int,
    out: OutArrays,
) -> None:
    """Pages and codes, in order of time."""
    messages = inputs.messages
    while at[AT_MESSAGE] < messages.shape[0] and messages[at[AT_MESSAGE], J_MS] <= t_ms:
        row = at[AT_MESSAGE]
        if messages[row, J_CODE] >= 0:
            hear_code(plan, state, t_ms, messages[row, J_CODE], messages[row, J_MS], out)
        else:
            act(
                plan,
                state,
                t_ms,
                messages[row, J_FIRST],
                messages[row, J_END],
                messages[row, J_AUTHOR],
                out,
            )
        at[AT_MESSAGE] += 1


@kernel
def lose_inputs(inputs: InputArrays, state: StateArrays, at: IntArray, before_ms: int) -> None:
    """What came while there was no power is lost; levels are what they are."""
    while at[AT_SAMPLE] < inputs.sample_ms.shape[0] and inputs.sample_ms[at[AT_SAMPLE]] < before_ms:
        at[AT_SAMPLE] += 1
    while (
        at[AT_MESSAGE] < inputs.messages.shape[0]
        and inputs.messages[at[AT_MESSAGE], J_MS] < before_ms
    ):
        at[AT_MESSAGE] += 1
    while at[AT_CLOCK] < inputs.clock.shape[0] and inputs.clock[at[AT_CLOCK], 0] < before_ms:
        at[AT_CLOCK] += 1
    state.head[H_STIRRED] = 1


@kernel
def next_input(inputs: InputArrays, at: IntArray, end_ms: int) -> int:
    """The first instant at which a level, a message, the clock or the power changes."""
    first = end_ms
    if at[AT_LEVEL] < inputs.levels.shape[0]:
        first = min(first, inputs.levels[at[AT_LEVEL], I_MS])
    if at[AT_MESSAGE] < inputs.messages.shape[0]:
        first = min(first, inputs.messages[at[AT_MESSAGE], J_MS])
    if at[AT_CLOCK] < inputs.clock.shape[0]:
        first = min(first, inputs.clock[at[AT_CLOCK], 0])
    if at[AT_CUT] < inputs.cuts.shape[0]:
        first = min(first, inputs.cuts[at[AT_CUT], Y_FROM_MS])
    return first


@kernel
def skip_samples(
    plan: PlanArrays,
    state: StateArrays,
    inputs: InputArrays,
    at: IntArray,
    timer_ms: int,
    t_ms: int,
    period_ms: int,
    out: OutArrays,
) -> int:
    """Take the samples that stir nothing; the instant at which a scan must be visited.

    Whatever comes in before the tick of the deadline is taken by a tick of its own. While quality
    stays as it was, and values where no condition can change, that tick need not be visited,
    however many samples share it.
    """
    sf, si, quiet = state.probes.floats, state.probes.ints, state.probes.quiet
    booted_ms = state.head[H_BOOTED_MS]
    stale_ms = next_judgement(plan.probes, state.probes, t_ms, booted_ms)
    samples = inputs.sample_ms.shape[0]
    while True:
        at_ms = min(stale_ms, timer_ms)
        last_ms = at_ms - period_ms
        while at[AT_SAMPLE] < samples and inputs.sample_ms[at[AT_SAMPLE]] <= last_ms:
            row = at[AT_SAMPLE]
            p = inputs.sample_probe[row]
            one_sample(plan, state, inputs, row, out)
            at[AT_SAMPLE] += 1
            if si[p, S_QUALITY] != si[p, S_SEEN_QUALITY] or (
                si[p, S_QUALITY] == GOOD and not (quiet[p, 0] < sf[p, S_VALUE] < quiet[p, 1])
            ):
                return inputs.sample_ms[row]
        if at_ms < timer_ms:
            stale_ms = next_judgement(plan.probes, state.probes, t_ms, booted_ms)
            if stale_ms > at_ms:
                continue  # the probe that was due has spoken
        if at[AT_SAMPLE] < samples:
            at_ms = min(at_ms, inputs.sample_ms[at[AT_SAMPLE]])  # in a tick of its own
        return at_ms


@entry
def replay_kernel(
    plan: PlanArrays,
    state: StateArrays,
    calendar: Calendar,
    inputs: InputArrays,
    out: OutArrays,
    deciders: IntArray,
    at: IntArray,
    start_ms: int,
    end_ms: int,
    period_ms: int,
    running: bool,
    skipping: bool,
) -> None:
    """Run from `start_ms` up to but not including `end_ms`.

    Each input is seen by the first tick at or after it; one that falls into a cut is never seen.
    Events of the supply and of boots have their own instants, all others those of their tick.
    """
    cuts = inputs.cuts
    dark = False
    # A run that begins without power boots when it comes.
    unpowered = cuts.shape[0] > 0 and cuts[0, Y_FROM_MS] <= start_ms
    boot(plan, state, calendar, start_ms, running or unpowered, out)
    t_ms = start_ms
    while t_ms < end_ms:
        # --- power: every cut that has begun by now, also those that passed between two scans
        back = NONE
        while at[AT_CUT] < cuts.shape[0] and t_ms >= cuts[at[AT_CUT], Y_FROM_MS]:
            cut = at[AT_CUT]
            if not dark:
                dark = True
                power_off(plan, state, inputs, cut, start_ms, out)
            if t_ms < cuts[cut, Y_TO_MS] + cuts[cut, Y_BOOT_MS]:
                break
            dark = False
            back = cut
            at[AT_CUT] += 1
            put_power(out, cuts[cut, Y_TO_MS], 0, 1)
            if cuts[cut, Y_KEPT] == 0:
                state.head[H_CLOCK_KNOWN] = 0
        if dark:
            # Nothing happens in the dark: on to the first tick after it.
            cut = at[AT_CUT]
            at_ms = cuts[cut, Y_TO_MS] + cuts[cut, Y_BOOT_MS]
            t_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
            continue
        if back != NONE:
            lose_inputs(inputs, state, at, cuts[back, Y_TO_MS])
            booted_ms = cuts[back, Y_TO_MS] + cuts[back, Y_BOOT_MS]
            boot(plan, state, calendar, booted_ms, False, out)
        # --- what comes in, and the scan
        take_inputs(plan, state, inputs, at, t_ms, out)
        trust(plan, state, t_ms, out)
        hear_messages(plan, state, inputs, at, t_ms, out)
        decide(plan, state, calendar, t_ms, period_ms, deciders, out)
        if not skipping:
            t_ms += period_ms
            continue
        # --- on to the next tick at which something can change
        quiet_bounds(plan, state)
        timer_ms = next_instant(plan, state, calendar, t_ms, period_ms)
        timer_ms = min(timer_ms, next_input(inputs, at, end_ms))
        at_ms = skip_samples(plan, state, inputs, at, timer_ms, t_ms, period_ms, out)
        at_ms = start_ms + ((at_ms - start_ms + period_ms - 1) // period_ms) * period_ms
        t_ms = max(t_ms + period_ms, at_ms)
