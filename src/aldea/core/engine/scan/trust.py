"""From a sample to a trusted value: range, jump, stuck, filter, calibration, quality."""

import math

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
from aldea.core.engine.tables.probes import FILTER_MEAN, FILTER_TIME, ProbeNow, ProbeSpec
from aldea.core.engine.tables.run import RunTables


def judged(spec: ProbeSpec, now: ProbeNow, t_ms: int, raw: float) -> int:
    """Jump, then stuck, of a raw sample inside the range; GOOD where it is neither."""
    if spec.jump_after > 0:
        far = abs(raw - now.base) > spec.jump_per_s * (t_ms - now.base_ms) / 1000
        if not math.isnan(now.base) and far:
            count = 1
            if not math.isnan(now.jumped):
                if abs(raw - now.jumped) <= spec.jump_per_s * (t_ms - now.jumped_ms) / 1000:
                    count = now.jumped_count + 1
            now.jumped = raw
            now.jumped_ms = t_ms
            now.jumped_count = count
            if count < spec.jump_after:
                return JUMP
        now.jumped = math.nan
        now.base = raw
        now.base_ms = t_ms
    if spec.stuck_ms > 0:
        if not (abs(raw - now.anchor) <= spec.stuck_band):  # also for the first: NaN
            now.anchor = raw
            now.anchor_ms = t_ms
        elif t_ms - now.anchor_ms >= spec.stuck_ms:
            return STUCK
    return GOOD


def remember_good(run: RunTables, p: int, t_ms: int) -> None:
    """Put a good value into the ring of each rate that reads the probe.

    The first one held is what the newest is compared with: the newest that is old enough.
    """
    spec = run.plan.probes[p]
    for index in range(spec.rates, spec.rates_end):
        d = run.plan.rate_feeds[index]
        signal, rate = run.plan.derived[d], run.now.rates[d]
        ring, room = signal.ring, signal.room
        first, held = rate.first, rate.held
        if held == room:  # more readings than were planned for: the oldest gives way
            first = (first + 1) % room
            held -= 1
        at = ring + (first + held) % room
        run.now.rate_ms[at] = t_ms
        run.now.rate_values[at] = run.now.probes[p].value
        held += 1
        while held > 1 and t_ms - run.now.rate_ms[ring + (first + 1) % room] >= signal.over_ms:
            first = (first + 1) % room
            held -= 1
        rate.first = first
        rate.held = held


def take_sample(run: RunTables, p: int, t_ms: int, raw: float) -> float:
    """One sample of probe `p`; returns what entered the filter, calibrated, else NaN.

    A missing reading (NaN) is no sample. What is out of range, or jumped, never reaches the filter
    and moves no clock of it. In the warm-up samples fill the filter and count for nothing else.
    """
    spec, now = run.plan.probes[p], run.now.probes[p]
    latest = math.nan
    if not math.isnan(raw):
        now.last_ms = t_ms
        warm = t_ms >= run.now.head.booted_ms + spec.warm_ms
        verdict = GOOD
        if raw < spec.low or raw > spec.high:
            verdict = RANGE
        elif warm and (spec.jump_after > 0 or spec.stuck_ms > 0):
            verdict = judged(spec, now, t_ms, raw)
        if verdict != RANGE and verdict != JUMP:
            entered = raw
            if spec.filter >= FILTER_MEAN:
                entered = of_the_last(run, p, raw)
            elif spec.filter == FILTER_TIME:
                if not math.isnan(now.filtered):
                    dt_s = (t_ms - now.entered_ms) * 0.001
                    share = 1.0 - math.exp(-dt_s / spec.tau_s)
                    entered = now.filtered + share * (raw - now.filtered)
                now.entered_ms = t_ms
                now.filtered = entered
            latest = spec.intercept + spec.slope * entered
        if warm and verdict != GOOD:
            now.quality = verdict
            now.good_count = 0
        elif warm:
            now.good_count += 1
            if now.quality != GOOD and now.good_count >= spec.good_run:
                now.quality = GOOD
                now.been_good = 1
            if now.quality == GOOD:
                now.value = latest
                now.good_ms = t_ms
                if spec.rates < spec.rates_end:
                    remember_good(run, p, t_ms)
    return latest


def judge_probes(run: RunTables, t_ms: int) -> None:
    """What warms up, or has been silent for too long, is not good; a change is an event."""
    booted_ms = run.now.head.booted_ms
    for p in range(len(run.plan.probes)):
        spec, now, signal = run.plan.probes[p], run.now.probes[p], run.now.signals[p]
        if t_ms < booted_ms + spec.warm_ms:
            now.quality = WARMING
            now.good_count = 0
        elif spec.stale_ms != NONE and t_ms - now.last_ms >= spec.stale_ms:
            now.quality = STALE
            now.good_count = 0
        if now.quality != now.seen_quality:
            put_event(
                run, t_ms, EVENT_PROBE, p, now.seen_quality, now.quality, 0, NOBODY, now.value
            )  # fmt: skip
            now.seen_quality = now.quality
        signal.good = 1 if now.quality == GOOD else 0
        signal.value = now.value
        signal.good_ms = now.good_ms


def next_judgement(run: RunTables, t_ms: int) -> int:
    """The first instant at which a probe goes stale or is warm, unless a sample comes before."""
    booted_ms = run.now.head.booted_ms
    first = FOREVER
    for p in range(len(run.plan.probes)):
        spec, now = run.plan.probes[p], run.now.probes[p]
        # One that is stale already may still have a run of good samples to lose.
        speaks = now.quality != STALE or now.good_count > 0
        if spec.stale_ms != NONE and speaks:
            first = min(first, now.last_ms + spec.stale_ms)
        if t_ms < booted_ms + spec.warm_ms:
            first = min(first, booted_ms + spec.warm_ms)
    return first
