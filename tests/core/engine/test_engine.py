"""The meaning of one scan: reference cases, laws, and three engines that agree."""

import math

import numpy as np
import pytest
from benchmarks.twin import twin_replay
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.core.engine.runs import ENGINES, replayed, switches
from tests.core.plans import one_band, returning

from aldea.core.base.errors import InputError
from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import FIRST_ROOM_FOR_EVENTS, run_replay
from aldea.core.plan.document import Band, Calibration, Claim, Silent, Smoothing, Stuck
from aldea.core.readings.samples import Samples

SECONDS = st.sampled_from([0.0, 0.5, 3.0, 20.0, 75.0])


@st.composite
def bands(draw, probes):
    low, gap, rising = draw(st.integers(20, 60)), draw(st.integers(1, 15)), draw(st.booleans())
    return Band(
        probe=draw(st.sampled_from([probe.id for probe in probes])),
        direction="rising" if rising else "falling",
        on=float(low + gap if rising else low),
        off=float(low if rising else low + gap),
        delay_on_s=draw(SECONDS),
        delay_off_s=draw(SECONDS),
    )


@st.composite
def trials(draw):
    """A random plan of 1-3 probes, 1-3 loads and 0-3 claims each, a random log, power cuts."""
    base = one_band()
    probes = tuple(
        base.probes[0].model_copy(
            update={
                "id": f"p{row}",
                "stale_after_s": draw(st.sampled_from([5.0, 30.0, 120.0])),
                "good_run": draw(st.integers(1, 4)),
                "stuck": draw(st.sampled_from([None, Stuck(after_s=40.0, band=0.0)])),
                "smoothing": draw(st.sampled_from([None, Smoothing(tau_s=15.0)])),
                "calibration": Calibration(slope=1.08, intercept=-4.5, expanded_uncertainty=1.0),
            }
        )
        for row in range(draw(st.integers(1, 3)))
    )
    loads = tuple(
        base.loads[0].model_copy(
            update={
                "id": f"l{row}",
                "min_on_s": draw(SECONDS),
                "min_off_s": draw(SECONDS),
                "silent": Silent(
                    after_s=draw(st.sampled_from([0.0, 10.0, 60.0])),
                    state=draw(st.sampled_from(["off", "on"])),
                ),
                "power_return": returning(
                    draw(st.sampled_from(["off", "decide", "last"])), draw(SECONDS)
                ),
            }
        )
        for row in range(draw(st.integers(1, 3)))
    )
    claims = tuple(
        Claim(id=f"{load.id}c{row}", load=load.id, condition=draw(bands(probes)))
        for load in loads
        for row in range(draw(st.integers(0, 3)))
    )
    plan = base.model_copy(
        update={
            "scan_period_ms": draw(st.sampled_from([250, 1000, 1700, 10_000])),
            "probes": probes,
            "loads": loads,
            "claims": claims,
        }
    )
    count = draw(st.integers(1, 60))
    steps = draw(
        st.lists(st.sampled_from([0, 1, 250, 3000, 10_000, 47_000]), min_size=count, max_size=count)
    )
    readings = st.one_of(st.floats(-5, 110), st.just(55.0), st.just(math.nan))
    values = draw(st.lists(readings, min_size=count, max_size=count))
    read = len(compile_plan(plan).probe_ids)
    if not read:
        count = 0
    owners = draw(st.lists(st.integers(0, max(0, read - 1)), min_size=count, max_size=count))
    times = np.cumsum(steps)
    samples = Samples(
        t_ms=times[:count].astype(np.int64),
        probe=np.array(owners, dtype=np.int64),
        value=np.array(values[:count], dtype=np.float64),
    )
    end_ms = int(times[-1]) + draw(st.sampled_from([1000, 90_000, 400_000]))
    cuts, after = [], 0
    for _ in range(draw(st.integers(0, 3))):
        start = after + draw(st.sampled_from([0, 300, 12_000, 60_000]))
        after = start + draw(st.sampled_from([200, 5000, 33_000]))
        cuts.append((start, after))
    return plan, samples, end_ms, cuts


def run_of(trial, **engine):
    plan, samples, end_ms, cuts = trial
    return run_replay(compile_plan(plan), samples, start_ms=0, end_ms=end_ms, cuts=cuts, **engine)


@settings(max_examples=150, suppress_health_check=list(HealthCheck))
@given(trials())
def test_every_engine_gives_the_same_events(trial):
    """Compiled, plain and the C twin; skipping and tick by tick: event for event, bit for bit."""
    plan, samples, end_ms, cuts = trial
    first = run_of(trial)
    for engine in list(ENGINES.values())[1:]:
        other = run_of(trial, **engine)
        assert other.rows.tolist() == first.rows.tolist()
        assert np.array_equal(other.values, first.values, equal_nan=True)
    for skipping in (True, False):
        rows, values = twin_replay(
            compile_plan(plan), samples, start_ms=0, end_ms=end_ms, cuts=cuts, skipping=skipping
        )
        assert rows.tolist() == first.rows.tolist()
        assert np.array_equal(values, first.values, equal_nan=True)


def load_rows(run, load):
    rows, _ = run.of_load(load)
    return [row for row in rows.tolist() if row[lay.E_FROM] != row[lay.E_TO]]


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
    plan = one_band(stale_after_s=60.0, silent=Silent(after_s=120.0, state="off"))
    run = replayed(plan, [(0, 70), (10, 70)], end_s=300)
    assert switches(run) == [(0.0, "on"), (130.0, "off")]
    fault = run.claim_row(run.events()[-1].claim)
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
        if e.event_type == lay.EVENT_PROBE
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
    count = FIRST_ROOM_FOR_EVENTS + 10
    pairs = [(t, 70.0 if t % 2 else 40.0) for t in range(count + 1)]
    assert len(switches(replayed(one_band(), pairs, end_s=count + 1))) == count


def test_cuts_that_overlap_are_refused():
    with pytest.raises(InputError, match="cuts apart"):
        replayed(one_band(), [(0, 50)], end_s=100, cuts=[(10, 30), (20, 40)])
