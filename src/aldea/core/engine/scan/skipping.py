"""Inside which bounds nothing can change, and samples that are taken without a scan."""

import math

from aldea.core.engine.layout import GOOD
from aldea.core.engine.scan.incoming import trace_sample
from aldea.core.engine.scan.trust import next_judgement
from aldea.core.engine.tables.conditions import NODE_WITHIN
from aldea.core.engine.tables.run import RunTables


def quiet_bounds(run: RunTables) -> None:
    """Per probe the open interval (low, high) inside which no condition on it can change.

    Of a probe that a derived signal reads each reading may change something: that is noted. While
    something waits for a condition to become false, that counts as a change.
    """
    listens = run.now.head.listens == 1
    probes = len(run.plan.probes)
    for p in range(probes):
        run.now.quiet[p].low = -math.inf
        run.now.quiet[p].high = math.inf
        run.now.quiet[p].feeds = 0
    for index in range(len(run.plan.signal_members)):
        member = run.plan.signal_members[index]
        if member < probes:
            run.now.quiet[member].feeds = 1
    for load in range(len(run.plan.loads)):
        position = run.plan.loads[load].position
        if 0 <= position < probes:
            run.now.quiet[position].low = math.inf
    for n in range(len(run.plan.conditions)):
        spec, now = run.plan.conditions[n], run.now.conditions[n]
        if spec.kind > NODE_WITHIN or spec.signal >= probes:
            continue
        low, high = -math.inf, math.inf
        if spec.kind == NODE_WITHIN:
            if now.now == 1:
                low, high = spec.on, spec.off
            elif run.now.signals[spec.signal].value < spec.on:
                high = spec.on
            else:
                low = spec.off
        elif spec.rising == 1:
            if now.now == 1 or (listens and now.let_go == 0):
                low = spec.off
            if now.now == 0:
                high = spec.off if listens and now.let_go == 1 else spec.on
        else:
            if now.now == 1 or (listens and now.let_go == 0):
                high = spec.off
            if now.now == 0:
                low = spec.off if listens and now.let_go == 1 else spec.on
        quiet = run.now.quiet[spec.signal]
        quiet.low = max(quiet.low, low)
        quiet.high = min(quiet.high, high)


def stirred(run: RunTables, p: int) -> bool:
    """Whether what was read of a probe may change more than a derived signal."""
    now, quiet = run.now.probes[p], run.now.quiet[p]
    if now.quality != now.seen_quality:
        return True
    if now.quality != GOOD:
        return now.good_count > 0  # a run that a silence would break
    return not (quiet.low < now.value < quiet.high)


def only_feeds(run: RunTables) -> bool:
    """Whether what came in since the last scan can change derived signals alone."""
    for p in range(len(run.plan.probes)):
        if stirred(run, p):
            return False
    return True


def skip_samples(run: RunTables, timer_ms: int, t_ms: int, period_ms: int) -> int:
    """Take the samples that stir nothing; the instant at which a scan must be visited.

    Whatever comes in before the tick of the deadline is taken by a tick of its own. While quality
    stays as it was, and values where no condition can change, that tick need not be visited,
    however many samples share it.
    """
    cursor, samples = run.now.cursor, len(run.inputs.sample_ms)
    stale_ms = next_judgement(run, t_ms)
    i = cursor.sample
    cursor.feeds = 0
    while True:
        at_ms = min(stale_ms, timer_ms)
        last_ms = at_ms - period_ms
        while i < samples and run.inputs.sample_ms[i] <= last_ms:
            p = run.inputs.sample_probe[i]
            trace_sample(run, i)
            i += 1
            stirs = stirred(run, p)
            feeds = run.now.quiet[p].feeds == 1 and run.now.probes[p].quality == GOOD
            if stirs or feeds:
                cursor.sample = i
                cursor.feeds = 0 if stirs else 1
                return run.inputs.sample_ms[i - 1]
        if at_ms < timer_ms:
            stale_ms = next_judgement(run, t_ms)
            if stale_ms > at_ms:
                continue  # the probe that was due has spoken
        cursor.sample = i
        if i < samples:
            at_ms = min(at_ms, run.inputs.sample_ms[i])  # in a tick of its own
        return at_ms
