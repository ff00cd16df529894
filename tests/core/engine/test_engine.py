"""The meaning of one scan: reference cases, laws, and three engines that agree."""

import numpy as np
import pytest
from benchmarks.engine import SHAPES, shaped
from benchmarks.twin import twin_replay
from hypothesis import HealthCheck, given, settings
from tests.core.engine.runs import ENGINES, replayed, switches
from tests.core.engine.trials import trials
from tests.core.plans import one_band, returning

from aldea.core.base.errors import InputError
from aldea.core.base.instants import MS_PER_DAY
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import FIRST_ROOM_FOR_EVENTS, run_replay
from aldea.core.plan.document import OnSensorFault, Stuck
from aldea.demo.recorded import START_MS


def run_of(trial, **engine):
    plan, samples, end_ms, cuts = trial
    return run_replay(compile_plan(plan), samples, start_ms=0, end_ms=end_ms, cuts=cuts, **engine)


@pytest.mark.repeats
@settings(max_examples=30, suppress_health_check=list(HealthCheck))
@given(trials())
def test_every_engine_gives_the_same_events(trial):
    """Compiled and plain; skipping and tick by tick: event for event, bit for bit."""
    first = run_of(trial)
    for engine in list(ENGINES.values())[1:]:
        other = run_of(trial, **engine)
        assert other.rows.tolist() == first.rows.tolist()
        assert np.array_equal(other.values, first.values, equal_nan=True)
        assert other.lines.tolist() == first.lines.tolist()
        assert other.writes.tolist() == first.writes.tolist()
        assert other.cells.tolist() == first.cells.tolist()


@pytest.mark.repeats
@pytest.mark.parametrize("shape", SHAPES, ids=[shape.name for shape in SHAPES])
@pytest.mark.parametrize("skipping", [True, False])
def test_the_twin_of_the_benchmarks_switches_as_the_engine_does(shape, skipping):
    plan, samples = shaped(shape)
    end_ms = START_MS + 2 * MS_PER_DAY
    ours = run_replay(compile_plan(plan), samples, start_ms=START_MS, end_ms=end_ms)
    twin = twin_replay(plan, samples, start_ms=START_MS, end_ms=end_ms, skipping=skipping)
    changed = [
        (row[lay.E_T_MS], row[lay.E_WHO], row[lay.E_TO])
        for row in ours.rows.tolist()
        if row[lay.E_TYPE] == lay.EVENT_LOAD and row[lay.E_FROM] != row[lay.E_TO]
    ]
    assert twin == changed
    assert twin


def load_rows(run, load):
    rows, _ = run.of_load(load)
    return [row for row in rows.tolist() if row[lay.E_FROM] != row[lay.E_TO]]


@pytest.mark.repeats
@settings(max_examples=80, suppress_health_check=list(HealthCheck))
@given(trials())
def test_min_off_is_never_broken(trial):
    plan, _, _, cuts = trial
    run = run_of(trial)
    for index, load in enumerate(plan.loads):
        off_ms = None
        for row in load_rows(run, index):
            t_ms = row[lay.E_T_MS]
            if row[lay.E_TO] == 0:
                off_ms = t_ms
            elif off_ms is not None and not any(off_ms <= b and a <= t_ms for a, b in cuts):
                assert t_ms - off_ms >= load.min_off_s * 1000


@pytest.mark.repeats
@settings(max_examples=80, suppress_health_check=list(HealthCheck))
@given(trials())
def test_states_join_without_a_hole(trial):
    """Each event begins where the one before it ended: from = to of the last; time never falls."""
    states: dict[int, int] = {}
    last_ms = 0
    for event in run_of(trial).events():
        assert event.t_ms >= last_ms
        last_ms = event.t_ms
        if event.event_type == lay.EVENT_LOAD:
            assert event.state_from == states.get(event.who, 0)
            states[event.who] = event.state_to


def test_a_silent_probe_leads_to_the_stated_state():
    plan = one_band(stale_after_s=60.0, on_sensor_fault=OnSensorFault(after_s=120.0, state="off"))
    run = replayed(plan, [(0, 70), (10, 70)], end_s=300)
    assert switches(run) == [(0.0, "on"), (130.0, "off")]
    fault = run.rule_row(run.events()[-1].rule)
    assert fault is not None
    assert fault.priority == lay.PRIORITY_FAULT


def test_a_silent_probe_breaks_min_on_but_a_band_does_not():
    plan = one_band(
        stale_after_s=10.0, on_sensor_fault=OnSensorFault(after_s=20.0, state="off"), min_on_s=500.0
    )
    assert switches(replayed(plan, [(0, 70)], end_s=100)) == [(0.0, "on"), (20.0, "off")]
    calm = one_band(min_on_s=500.0)
    assert switches(replayed(calm, [(0, 70), (10, 40)], end_s=100)) == [(0.0, "on")]


def test_a_stuck_probe_is_a_fault_and_recovers_after_a_run_of_good_samples():
    plan = one_band(stuck=Stuck(after_s=30.0, band=0.0), good_run=2)
    pairs = [(t, 55.0) for t in range(0, 60, 10)] + [(60, 55.1), (70, 55.2)]
    named = [
        (e.t_ms / 1000, lay.QUALITY_NAMES[e.state_to])
        for e in replayed(plan, pairs, end_s=80).events()
        if e.event_type == lay.EVENT_PROBE
    ]
    assert named == [(10.0, "good"), (30.0, "stuck"), (70.0, "good")]


@pytest.mark.parametrize(
    ("policy", "wanted"),
    [
        # Power fails at 100 and is back at 110, humidity still inside the gap, then above, below.
        ("follow_rules", [(0.0, "on"), (100.0, "off"), (200.0, "on")]),
        ("last", [(0.0, "on"), (100.0, "off"), (140.0, "on")]),
        ("off", [(0.0, "on"), (100.0, "off"), (400.0, "on")]),
    ],
)
def test_power_return_policies(policy, wanted):
    plan = one_band(power_return=returning(policy, 30.0))
    pairs = [(0, 70), (90, 55), (120, 55), (200, 65), (300, 49), (400, 61)]
    got = switches(replayed(plan, pairs, end_s=500, cuts=[(100, 110)]))
    if policy != "off":
        wanted = [*wanted, (300.0, "off"), (400.0, "on")]
    assert got == wanted


def test_more_events_than_the_first_room_are_all_kept():
    count = FIRST_ROOM_FOR_EVENTS + 10
    pairs = [(t, 70.0 if t % 2 else 40.0) for t in range(count + 1)]
    assert len(switches(replayed(one_band(), pairs, end_s=count + 1))) == count


def test_cuts_that_overlap_are_refused():
    with pytest.raises(InputError, match="cuts apart"):
        replayed(one_band(), [(0, 50)], end_s=100, cuts=[(10, 30), (20, 40)])
