"""Traces thinned and summed up, stretches, figures."""

from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.plans import one_band

from aldea.core.plan.calibration import Calibration
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.beyond import Beyond
from aldea.core.rehearse.faults import Faults
from aldea.core.rehearse.recorded import recorded_of
from aldea.core.rehearse.rehearsal import (
    beyond_limit,
    load_consequence,
    quality_spans,
    rehearse,
)
from aldea.core.rehearse.stretches import stretch_at
from aldea.core.words.reasons import load_words
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days

logs = st.lists(
    st.tuples(st.integers(1, 400), st.floats(0, 100, width=32)), min_size=1, max_size=300
)


def trace_of(log) -> Trace:
    return Trace(
        t_ms=np.cumsum([step for step, _ in log]).astype(np.int64),
        raw=np.array([value for _, value in log], dtype=float),
    )


@settings(deadline=None)
@given(logs, st.floats(10, 90), st.lists(st.integers(-50, 50_000), max_size=20), st.booleans())
def test_time_beyond_a_limit_is_what_counting_milliseconds_gives(log, limit, instants, rising):
    trace = trace_of(log)
    beyond = Beyond.of(trace.t_ms, trace.raw, limit=limit, rising=rising, hold_ms=150)
    got = beyond.before(np.array(instants, dtype=np.int64))
    for instant, value in zip(instants, got.tolist(), strict=True):
        total = 0
        for i, (t, v) in enumerate(zip(trace.t_ms.tolist(), trace.raw.tolist(), strict=True)):
            stop = min(trace.t_ms[i + 1] if i + 1 < len(trace) else 2**60, t + 150, max(instant, t))
            total += int(stop - t) if (v > limit if rising else v < limit) else 0
        assert value == total


def _figures(done, rule, beyond):
    """Over the whole of a run."""
    span = {"from_ms": done.run.start_ms, "to_ms": done.run.end_ms}
    return load_consequence(done, rule, beyond, recorded_of(done.run, (rule.band.probe,), **span))


def demo_rehearsal(**marks):
    drying = recorded_days()[0].trace
    plan = mill_plan(**marks)
    done = rehearse(plan, {"drying_rh": drying}, start_ms=START_MS, end_ms=END_MS)
    rule = plan.rules[0]
    value = plan.probes[0].calibration.over(drying.raw)
    beyond = Beyond.of(drying.t_ms, value, limit=65.0, rising=True, hold_ms=120_000)
    return plan, done, _figures(done, rule, beyond)


def test_the_demo_log_is_the_same_every_time_and_ends_now():
    first, second = recorded_days()[0].trace, recorded_days()[0].trace
    assert np.array_equal(first.raw, second.raw)
    assert int(first.t_ms[-1]) == END_MS
    assert len(first) > 250_000


def test_a_wider_band_turns_chatter_into_a_few_starts():
    _, _, close = demo_rehearsal(on=60.0, off=59.5)
    _, _, wide = demo_rehearsal(on=62.0, off=56.0)
    assert close.starts_per_day > 4 * wide.starts_per_day
    assert wide.relay_years > close.relay_years
    assert close.beyond_hours_per_week == wide.beyond_hours_per_week, "open loop: the room is fixed"


def test_a_mark_over_the_limit_leaves_hours_unanswered():
    _, _, low = demo_rehearsal(on=62.0, off=56.0)
    _, _, high = demo_rehearsal(on=68.0, off=60.0)
    assert low.unanswered_hours_per_week < 0.2
    assert 1 < high.unanswered_hours_per_week < high.beyond_hours_per_week


def test_the_timeline_has_no_hole_and_says_the_next_change():
    plan, done, _ = demo_rehearsal(on=62.0, off=56.0)
    stretches = done.stretches["dehumidifier"]
    assert stretches[0].start_ms == START_MS
    assert stretches[-1].end_ms == END_MS
    for now, then in pairwise(stretches):
        assert now.end_ms == then.start_ms
        if now.next_change_ms is not None:
            after = stretch_at(stretches, now.next_change_ms)
            assert after is not None
            assert after.state == now.next_state != now.state
    load = plan.load("dehumidifier")
    assert load is not None
    on = next(s for s in stretches if s.state)
    said = load_words(on, load=load, plan=plan)
    assert "reached the on threshold 62 %RH" in said.why
    assert said.next_change.startswith("Off at ")


def test_faults_put_in_are_seen():
    plan = one_band(stale_after_s=30.0)
    t_ms = np.arange(0, 3_600_000, 10_000, dtype=np.int64)
    trace = Trace(t_ms=t_ms, raw=np.full(len(t_ms), 70.0))
    faults = Faults(silences=(("rh", 600_000, 900_000),), cuts=((1_800_000, 2_000_000),))
    done = rehearse(plan, {"rh": trace}, start_ms=0, end_ms=3_600_000, faults=faults)
    kinds = {s.priority for s in done.stretches["fan"]}
    assert 0 in kinds
    dark = [s for s in done.stretches["fan"] if s.decided_by is None]
    assert [(s.start_ms, s.end_ms) for s in dark] == [(1_800_000, 2_000_000)]


def test_calibration_moves_what_the_engine_sees():
    plan = one_band(calibration=Calibration(slope=1.0, intercept=10.0, expanded_uncertainty=1.0))
    trace = Trace(t_ms=np.array([0, 10_000]), raw=np.array([51.0, 39.0]))
    done = rehearse(plan, {"rh": trace}, start_ms=0, end_ms=20_000)
    assert [s.state for s in done.stretches["fan"]] == [1, 0]


def small(readings: list[tuple[float, float]], end_s: float, **wanted: object):
    """One band replayed on a few readings (s, %RH); its figures."""
    plan = one_band(**wanted)
    trace = Trace(
        t_ms=np.array([round(1000 * s) for s, _ in readings], dtype=np.int64),
        raw=np.array([value for _, value in readings]),
    )
    done = rehearse(plan, {"rh": trace}, start_ms=0, end_ms=round(1000 * end_s))
    return done, _figures(done, plan.rules[0], beyond_limit(plan, plan.rules[0], trace))


def test_a_run_that_is_not_over_is_not_the_shortest():
    """On for 100 s, then on for 5 s up to the end of the log: the minimum on time was 100 s."""
    _, figures = small([(0, 40), (10, 70), (110, 40), (195, 70)], 200)
    assert (figures.starts, figures.shortest_on_s) == (2, 100.0)
    _, unfinished = small([(0, 40), (10, 70)], 200)
    assert (unfinished.starts, unfinished.shortest_on_s) == (1, None)


def test_a_probe_that_only_warms_up_is_not_told_as_a_fault():
    """No reading at all, and none good enough yet: nothing was found wrong."""
    done, _ = small([(0, 40), (10, 41)], 100, good_run=5)
    assert quality_spans(done, "rh") == []
    done, _ = small([(0, 40), (10, 140)], 100)
    assert quality_spans(done, "rh") == [(10_000, 100_000, "range")]
    done, _ = small([(0, 40), (10, 140), (20, 40)], 100)
    assert quality_spans(done, "rh") == [(10_000, 20_000, "range")]
