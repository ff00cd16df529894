"""The meaning of one scan: reference cases, laws, and three engines that agree."""

import numpy as np
import pytest
from benchmarks.twin import twin_replay
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.plans import one_band, returning, samples_of
from tests.reference import cases
from tests.reference import given as value_of

from aldea.core.engine import layout as lay
from aldea.core.engine.program import compile_plan
from aldea.core.engine.replay import Run, run_replay
from aldea.core.errors import InputError
from aldea.core.plan.document import Calibration, Silent, Smoothing, Stuck

ENGINES = {
    "compiled, skipping": {},
    "compiled, every tick": {"skipping": False},
    "plain, skipping": {"compiled": False},
    "plain, every tick": {"compiled": False, "skipping": False},
}


def switches(run: Run) -> list[tuple[float, str]]:
    return [
        (e.t_ms / 1000, "on" if e.state_to else "off")
        for e in run.events()
        if e.kind == lay.KIND_LOAD and e.state_from != e.state_to
    ]


def replayed(plan, pairs, *, end_s, cuts=(), **engine) -> Run:
    return run_replay(
        compile_plan(plan),
        samples_of(pairs),
        start_ms=0,
        end_ms=round(end_s * 1000),
        cuts=[(round(a * 1000), round(b * 1000)) for a, b in cuts],
        **engine,
    )


@pytest.mark.parametrize("engine", ENGINES.values(), ids=ENGINES)
@pytest.mark.parametrize("case", cases("hyst"), ids=lambda case: case["id"])
def test_hysteresis_with_timers(case, engine):
    plan = one_band(
        direction="rising" if value_of(case, "mode") == "on_when_high" else "falling",
        on=float(value_of(case, "on_threshold")),
        off=float(value_of(case, "off_threshold")),
        delay_on_s=float(value_of(case, "delay_on")),
        delay_off_s=float(value_of(case, "delay_off")),
        min_on_s=float(value_of(case, "min_on")),
        min_off_s=float(value_of(case, "min_off")),
    )
    run = replayed(plan, value_of(case, "samples"), end_s=value_of(case, "end"), **engine)
    wanted = case["expected"]["transitions_event_driven"]["value"]
    assert [list(row) for row in switches(run)] == wanted


@st.composite
def trials(draw):
    """A random plan, a random log, random power cuts."""
    low = draw(st.integers(20, 60))
    gap = draw(st.integers(1, 15))
    rising = draw(st.booleans())
    seconds = st.sampled_from([0.0, 0.5, 3.0, 20.0, 75.0])
    plan = one_band(
        scan_period_ms=draw(st.sampled_from([250, 1000, 1700, 10_000])),
        direction="rising" if rising else "falling",
        on=float(low + gap if rising else low),
        off=float(low if rising else low + gap),
        delay_on_s=draw(seconds),
        delay_off_s=draw(seconds),
        min_on_s=draw(seconds),
        min_off_s=draw(seconds),
        stale_after_s=draw(st.sampled_from([5.0, 30.0, 120.0])),
        good_run=draw(st.integers(1, 4)),
        stuck=draw(st.sampled_from([None, Stuck(after_s=40.0, band=0.0)])),
        smoothing=draw(st.sampled_from([None, Smoothing(tau_s=15.0)])),
        silent=Silent(
            after_s=draw(st.sampled_from([0.0, 10.0, 60.0])),
            state=draw(st.sampled_from(["off", "on"])),
        ),
        power_return=returning(draw(st.sampled_from(["off", "decide", "last"])), draw(seconds)),
        calibration=Calibration(slope=1.08, intercept=-4.5, expanded_uncertainty=1.0),
    )
    count = draw(st.integers(1, 60))
    steps = draw(
        st.lists(st.sampled_from([1, 250, 3000, 10_000, 47_000]), min_size=count, max_size=count)
    )
    readings = st.one_of(st.floats(-5, 110), st.just(55.0), st.none())
    values = draw(st.lists(readings, min_size=count, max_size=count))
    times = np.cumsum(steps) / 1000
    end_s = float(times[-1]) + draw(st.sampled_from([1.0, 90.0, 400.0]))
    cuts, after = [], 0.0
    for _ in range(draw(st.integers(0, 3))):
        start = after + draw(st.sampled_from([0.0, 0.3, 12.0, 60.0]))
        after = start + draw(st.sampled_from([0.2, 5.0, 33.0]))
        cuts.append((start, after))
    return plan, list(zip(times.tolist(), values, strict=True)), end_s, cuts


@settings(max_examples=120, suppress_health_check=list(HealthCheck))
@given(trials())
def test_every_engine_gives_the_same_events(trial):
    """Compiled, plain and the C twin; skipping and tick by tick: event for event, bit for bit."""
    plan, pairs, end_s, cuts = trial
    first = replayed(plan, pairs, end_s=end_s, cuts=cuts)
    for engine in list(ENGINES.values())[1:]:
        other = replayed(plan, pairs, end_s=end_s, cuts=cuts, **engine)
        assert other.rows.tolist() == first.rows.tolist()
        assert np.array_equal(other.values, first.values, equal_nan=True)
    spans = [(round(a * 1000), round(b * 1000)) for a, b in cuts]
    for skipping in (True, False):
        rows, values = twin_replay(
            compile_plan(plan),
            samples_of(pairs),
            start_ms=0,
            end_ms=round(end_s * 1000),
            cuts=spans,
            skipping=skipping,
        )
        assert rows.tolist() == first.rows.tolist()
        assert np.array_equal(values, first.values, equal_nan=True)


@settings(max_examples=80, suppress_health_check=list(HealthCheck))
@given(trials())
def test_min_off_is_never_broken(trial):
    plan, pairs, end_s, cuts = trial
    run = replayed(plan, pairs, end_s=end_s, cuts=cuts)
    off_at = None
    for t_s, state in switches(run):
        if state == "off":
            off_at = t_s
        elif off_at is not None and not any(off_at <= b and a <= t_s for a, b in cuts):
            assert t_s - off_at >= plan.loads[0].min_off_s


@settings(max_examples=80, suppress_health_check=list(HealthCheck))
@given(trials())
def test_states_join_without_a_hole(trial):
    """Each event begins where the one before it ended: from = to of the last."""
    plan, pairs, end_s, cuts = trial
    state = 0
    for event in replayed(plan, pairs, end_s=end_s, cuts=cuts).events():
        if event.kind == lay.KIND_LOAD:
            assert event.state_from == state
            state = event.state_to


def test_a_silent_probe_leads_to_the_stated_state():
    plan = one_band(stale_after_s=60.0, silent=Silent(after_s=120.0, state="off"))
    run = replayed(plan, [(0, 70), (10, 70)], end_s=300)
    assert switches(run) == [(0.0, "on"), (130.0, "off")]
    fault = run.claim_name(run.events()[-1].claim)
    assert fault is not None
    assert fault.rank == lay.RANK_FAULT


def test_a_silent_probe_breaks_min_on_but_a_band_does_not():
    plan = one_band(stale_after_s=10.0, silent=Silent(after_s=20.0, state="off"), min_on_s=500.0)
    assert switches(replayed(plan, [(0, 70)], end_s=100)) == [(0.0, "on"), (20.0, "off")]
    calm = one_band(min_on_s=500.0)
    assert switches(replayed(calm, [(0, 70), (10, 40)], end_s=100)) == [(0.0, "on")]


def test_a_stuck_probe_is_a_fault_and_recovers_after_a_run_of_good_samples():
    plan = one_band(stuck=Stuck(after_s=30.0, band=0.0), good_run=2)
    pairs = [(t, 55.0) for t in range(0, 60, 10)] + [(60, 55.1), (70, 55.2)]
    named = [
        (e.t_ms / 1000, lay.QUALITY_NAMES[e.state_to])
        for e in replayed(plan, pairs, end_s=80).events()
        if e.kind == lay.KIND_PROBE
    ]
    assert named == [(10.0, "good"), (30.0, "stuck"), (70.0, "good")]


@pytest.mark.parametrize(
    ("policy", "wanted"),
    [
        # Power fails at 100 and is back at 110, humidity still inside the gap, then above, below.
        ("decide", [(0.0, "on"), (100.0, "off"), (200.0, "on")]),
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
    pairs = [(t, 70.0 if t % 2 else 40.0) for t in range(6000)]
    assert len(switches(replayed(one_band(), pairs, end_s=6000))) == 5999


def test_cuts_that_overlap_are_refused():
    with pytest.raises(InputError, match="cuts apart"):
        replayed(one_band(), [(0, 50)], end_s=100, cuts=[(10, 30), (20, 40)])
