"""Laws of one scan, each stated from the meaning itself: agreement of engines cannot see these."""

import math

import numpy as np
import pytest
from tests.core.engine.runs import ENGINES, replayed, several, switches
from tests.core.plans import one_band, returning

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.document import OnSensorFault, Smoothing, Stuck
from aldea.core.readings.samples import Samples


@pytest.fixture(params=list(ENGINES.values()), ids=list(ENGINES))
def engine(request):
    return request.param


def qualities(run):
    return [
        (e.t_ms / 1000, lay.QUALITY_NAMES[e.state_to])
        for e in run.events()
        if e.event_type == lay.EVENT_PROBE
    ]


def load_events(run):
    return [e for e in run.events() if e.event_type == lay.EVENT_LOAD]


def test_what_is_out_of_range_moves_no_clock_of_the_filter(engine):
    """τ 60 s; 20 at 0 s, −500 at 60 s, 30 at 120 s: two time constants have passed for the 30."""
    plan = one_band(
        smoothing=Smoothing(tau_s=60.0), calibration=Calibration(expanded_uncertainty=1.0),
        on_threshold=28.0, off_threshold=20.0,
    )  # fmt: skip
    run = replayed(plan, [(0, 20), (60, -500), (120, 30)], end_s=200, **engine)
    (crossing,) = [e for e in load_events(run) if e.state_to == 1]
    assert crossing.t_ms == 120_000
    assert crossing.value == pytest.approx(20 + (1 - math.exp(-2)) * 10, abs=1e-9)


@pytest.mark.parametrize("bad", [None, 500.0], ids=["silent", "out of range"])
def test_a_delay_does_not_go_on_while_its_probe_is_not_good(engine, bad):
    """Over the mark from 10 s, not good from 20 s, good again at 100 s: 60 s count from there."""
    plan = one_band(delay_on_s=60.0, stale_after_s=10.0)
    readings = [(0, 40), (10, 70)] + ([(20, bad)] if bad else [])
    readings += [(t, 70) for t in range(100, 300, 5)]
    assert switches(replayed(plan, readings, end_s=90, **engine)) == []
    assert switches(replayed(plan, readings, end_s=290, **engine)) == [(160.0, "on")]


def test_a_delay_off_begins_again_after_a_spell_that_was_not_good(engine):
    plan = one_band(delay_off_s=30.0, stale_after_s=15.0)
    readings = [(0, 70), (10, 40)] + [(t, 40) for t in range(60, 200, 10)]
    assert switches(replayed(plan, readings, end_s=200, **engine)) == [(0.0, "on"), (90.0, "off")]


def test_silence_is_not_stuck_and_what_comes_after_it_is_judged(engine):
    """D14: judged when a sample comes, since the last one that differed; silence is only stale."""
    plan = one_band(stuck=Stuck(after_s=30.0, band=0.0), stale_after_s=20.0)
    readings = [(0, 55), (100, 55), (110, 55), (120, 55.1)]
    named = qualities(replayed(plan, readings, end_s=130, **engine))
    assert named == [(0.0, "good"), (20.0, "stale"), (100.0, "stuck"), (120.0, "good")]


def test_what_is_out_of_range_is_no_base_for_stuck(engine):
    """D12: it is a base for nothing, so it does not end a reading that stands still."""
    plan = one_band(stuck=Stuck(after_s=30.0, band=0.0))
    readings = [(0, 55), (10, 300), (20, 55), (40, 55), (50, 56)]
    named = qualities(replayed(plan, readings, end_s=80, **engine))
    assert named == [
        (0.0, "good"),
        (10.0, "range"),
        (20.0, "good"),
        (40.0, "stuck"),
        (50.0, "good"),
    ]


def test_both_ends_of_the_range_are_good_and_equality_switches(engine):
    plan = one_band(on_threshold=100.0, off_threshold=0.0)
    run = replayed(plan, [(0, 100.0), (10, 0.0), (20, 100.1)], end_s=30, **engine)
    assert switches(run) == [(0.0, "on"), (10.0, "off")]
    assert qualities(run) == [(0.0, "good"), (20.0, "range")]


def test_a_cut_before_the_start_is_no_cut(engine):
    plan = one_band(power_return=returning("follow_rules", 30.0))
    run = run_replay(
        compile_plan(plan),
        samples_at([(100, 0, 70.0)]),
        start_ms=100_000,
        end_ms=200_000,
        cuts=[(10_000, 60_000), (70_000, 100_000)],
        **engine,
    )
    assert switches(run) == [(100.0, "on")]
    assert not [e for e in run.events() if e.event_type == lay.EVENT_POWER]


def samples_at(rows) -> Samples:
    return Samples(
        t_ms=np.array([round(t * 1000) for t, _, _ in rows], dtype=np.int64),
        probe=np.array([p for _, p, _ in rows], dtype=np.int64),
        value=np.array([v for _, _, v in rows], dtype=np.float64),
    )


def test_everything_counts_from_the_return_not_from_the_scan_that_saw_it(engine):
    """Back at 10.2 s between two scans: 5 s of wait end at 15.2 s, seen by the scan at 16 s."""
    plan = one_band(power_return=returning("follow_rules", 5.0), scan_period_ms=2000)
    readings = [(0, 70), (10.5, 70), (11, 70)]
    run = replayed(plan, readings, end_s=30, cuts=[(6, 10.2)], **engine)
    assert switches(run) == [(0.0, "on"), (6.0, "off"), (16.0, "on")]
    power = [e.t_ms for e in run.events() if e.event_type == lay.EVENT_POWER]
    assert power == [6000, 10_200]


def test_return_off_is_a_wait_with_a_name_until_the_band_has_let_go(engine):
    """Between the thresholds it stays; it ends exactly at the off threshold."""
    plan = one_band(power_return=returning("off"))
    readings = [(0, 70), (20, 55), (30, 70), (50, 50), (60, 55), (70, 60)]
    run = replayed(plan, readings, end_s=80, cuts=[(10, 15)], **engine)
    assert switches(run) == [(0.0, "on"), (10.0, "off"), (70.0, "on")]
    waits = [(e.t_ms / 1000, lay.INHIBIT_NAMES[e.inhibit]) for e in load_events(run)]
    assert waits == [(0.0, ""), (10.0, ""), (15.0, "return off"), (50.0, ""), (70.0, "")]


def test_return_off_waits_for_what_the_delays_hold_too(engine):
    """With a delay off of 20 s it has let go when that is over, and it was not on since."""
    plan = one_band(power_return=returning("off"), delay_off_s=20.0)
    readings = [(12, 70), (20, 50), (30, 70), (35, 70), (50, 45), (71, 65)]
    run = replayed(plan, readings, end_s=80, cuts=[(0, 10)], **engine)
    assert switches(run) == [(71.0, "on")]


def test_each_rule_of_a_load_lets_go_by_itself(engine):
    """The first band lets go; the second, still over its mark since the cut, stays unheard."""
    compiled = compile_plan(several(probes=2, bands=[(0, 0), (0, 1)], policy="off"))
    rows = [(0, 0, 70.0), (0, 1, 70.0), (20, 0, 45.0), (20, 1, 70.0), (40, 1, 45.0), (50, 1, 70.0)]
    run = run_replay(
        compiled, samples_at(rows), start_ms=0, end_ms=60_000, cuts=[(5000, 15_000)], **engine
    )
    assert switches(run) == [(0.0, "on"), (5.0, "off"), (50.0, "on")]


def test_rest_cites_the_rule_that_asked_last(engine):
    compiled = compile_plan(several(probes=2, bands=[(0, 0), (0, 1)]))
    rows = [(0, 0, 55.0), (0, 1, 52.0), (10, 1, 61.0), (20, 1, 48.0), (30, 0, 62.0), (40, 0, 47.0)]
    run = run_replay(compiled, samples_at(rows), start_ms=0, end_ms=60_000, **engine)
    cited = [
        (e.t_ms / 1000, compiled.rule_rows[e.cited].rule, e.value)
        for e in load_events(run)
        if e.state_to == 0
    ]
    assert cited == [(0.0, "c0", 55.0), (20.0, "c1", 48.0), (40.0, "c0", 47.0)]


def test_the_first_of_two_rules_decides_and_the_other_takes_over(engine):
    compiled = compile_plan(several(probes=2, bands=[(0, 0), (0, 1)]))
    rows = [(0, 1, 70.0), (10, 0, 70.0), (20, 0, 40.0), (30, 1, 40.0)]
    run = run_replay(compiled, samples_at(rows), start_ms=0, end_ms=60_000, **engine)
    decided = [
        (e.t_ms / 1000, compiled.rule_rows[e.rule].rule, e.state_to) for e in load_events(run)
    ]
    assert decided == [(0.0, "c1", 1), (10.0, "c0", 1), (20.0, "c1", 1), (30.0, None, 0)]


def test_a_fault_is_over_exactly_when_the_stated_time_has_passed(engine):
    """Last good at 10 s, 30 s of grace: off at 40 s, not at 39 s; good again decides anew."""
    plan = one_band(stale_after_s=5.0, on_sensor_fault=OnSensorFault(after_s=30.0, state="off"))
    run = replayed(plan, [(0, 70), (5, 70), (10, 70), (60, 55)], end_s=70, **engine)
    assert switches(run) == [(0.0, "on"), (40.0, "off"), (60.0, "on")]


def test_a_value_that_is_not_good_holds_the_state_of_the_band(engine):
    """Under the off threshold but out of range: the band keeps asking."""
    plan = one_band(stale_after_s=500.0)
    run = replayed(plan, [(0, 70), (10, -3), (20, 55), (30, 49)], end_s=40, **engine)
    assert switches(run) == [(0.0, "on"), (30.0, "off")]
