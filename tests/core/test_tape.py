"""The leak tape: states without hole or overlap, false alarms, margins, wear."""

import math

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st
from tests.reference import agrees, cases, given

from aldea.core.calibrate.tape import (
    Baseline,
    Edges,
    Watch,
    baseline_of,
    cell_years,
    edges_of,
    exceeds_1,
    margin_for,
    run_1,
    starts_a_year,
    water_ohm,
)
from aldea.core.errors import CalibrationError
from aldea.core.sensing.divider import Divider
from aldea.core.wire.series import nearest_ohm


def ids(case):
    return case["id"]


def tape_divider(case, full_scale=4095):
    return Divider(
        side="sensor_low" if given(case, "wiring") == "pullup" else "sensor_high",
        fixed_ohm=given(case, "series_resistor"),
        supply_v=3.3,
        reference_v=3.3,
        full_scale_counts=full_scale,
    )


@pytest.mark.parametrize("case", cases("tape"), ids=ids)
def test_what_water_does_to_the_reading(case):
    divider = tape_divider(case, given(case, "full_scale_counts"))
    end = given(case, "end_of_line")
    base = divider.counts(end)
    assert agrees(case, "baseline", base)
    wanted = case["expected"]["wet_counts"]["value"]
    for water, counts in zip(given(case, "wet_resistances"), wanted, strict=True):
        assert divider.counts(1 / (1 / water + 1 / end)) == pytest.approx(counts, abs=0.001)
        assert water_ohm(divider, base, counts) == pytest.approx(water, rel=1e-6)
    assert agrees(case, "short_counts", divider.counts(0.0))


@pytest.mark.parametrize("case", cases("trip"), ids=ids)
def test_which_water_trips_which_state(case):
    divider = tape_divider(case)
    base = divider.counts(given(case, "end_of_line"))
    for name, key in (("warning", "r_wet_warning"), ("leak", "r_wet_leak")):
        share = given(case, f"{name}_percent_of_baseline") / 100
        water = water_ohm(divider, base, share * base)
        assert water is not None
        assert agrees(case, key, water)


@pytest.mark.parametrize("case", cases("state"), ids=ids)
def test_equality_belongs_to_the_alarm(case):
    base = given(case, "baseline") / 100
    edges = Edges(
        rises=False,
        open_at=base * given(case, "open_at_or_above"),
        damp_at=base * given(case, "warning_at_or_below"),
        wet_at=base * given(case, "leak_at_or_below"),
        short_at=base * given(case, "short_at_or_below"),
    )
    ours = {"damp": "warning", "wet": "leak"}
    got = [edges.state_of(counts) for counts in given(case, "counts")]
    assert [ours.get(state, state) for state in got] == case["expected"]["states"]["value"]


@pytest.mark.parametrize("case", cases("noise"), ids=ids)
def test_how_often_noise_alone_alarms(case):
    p = exceeds_1(
        given(case, "margin_to_threshold"),
        given(case, "noise_sd_single_sample"),
        given(case, "samples_averaged"),
    )
    k, n = given(case, "consecutive_readings"), given(case, "readings_per_year")
    assert agrees(case, "p_single_reading", p)
    assert agrees(case, "p_run_at_a_given_reading", p**k)
    assert agrees(case, "p_at_least_one_per_year", run_1(p, k, n))
    assert agrees(case, "expected_alarm_starts_per_year", starts_a_year(p, k, n))
    assert Watch(interval_s=given(case, "reading_interval")).readings_a_year == n


@pytest.mark.parametrize("case", cases("runs"), ids=ids)
def test_runs_are_exact(case):
    got = run_1(
        given(case, "p_single_reading"),
        given(case, "consecutive_readings"),
        given(case, "readings"),
    )
    assert agrees(case, "p_at_least_one_run", got)


@pytest.mark.parametrize("case", cases("threshold"), ids=ids)
def test_the_margin_for_a_wanted_rate(case):
    watch = Watch(
        samples=given(case, "samples_averaged"),
        in_a_row=given(case, "consecutive_readings"),
        interval_s=given(case, "reading_interval"),
    )
    sd = given(case, "noise_sd_single_sample")
    margin = margin_for(sd, watch, given(case, "target_probability_per_year"))
    assert agrees(case, "margin", margin)
    assert agrees(case, "p_single_reading", exceeds_1(margin, sd, watch.samples))
    assert agrees(case, "threshold", given(case, "baseline") - margin)


@pytest.mark.parametrize("case", cases("slots"), ids=ids)
def test_cells_wear(case):
    facts = (float(given(case, "endurance")), float(given(case, "writes_per_day")))
    assert agrees(case, "years", cell_years(given(case, "slots"), *facts))
    enough = case["expected"]["slots_for_20_years"]["value"]
    assert cell_years(enough, *facts) >= 20 > cell_years(enough - 1, *facts)
    assert cell_years(1, 100_000, 0) == math.inf


@drawn(p=st.floats(0.05, 0.6), k=st.integers(1, 4), seed=st.integers(0, 2**32 - 1))
def test_runs_agree_with_trying_it_out(p, k, seed):
    rng = np.random.default_rng(seed)
    tries = rng.random((4000, 12)) < p
    windows = np.lib.stride_tricks.sliding_window_view(tries, k, axis=1)
    reached = np.any(np.all(windows, axis=2), axis=1)
    assert float(np.mean(reached)) == pytest.approx(run_1(p, k, 12), abs=0.05)


@drawn(
    side=st.sampled_from(["sensor_low", "sensor_high"]),
    end_ohm=st.floats(5e4, 1e6),
    damp=st.floats(0.5, 20),
    more=st.floats(1, 60),
    counts=st.lists(st.floats(0, 4095), min_size=2, max_size=40),
)
def test_every_reading_has_one_state_and_wetter_is_never_drier(side, end_ohm, damp, more, counts):
    divider = Divider(
        side=side,
        fixed_ohm=nearest_ohm(end_ohm, "E24"),
        supply_v=3.3,
        reference_v=3.3,
        full_scale_counts=4095,
    )
    base = Baseline(count=50, mean=divider.counts(end_ohm), sd=2.0)
    rises = side == "sensor_high"
    short_pct = abs(divider.counts(500.0) / base.mean - 1) * 100
    if damp + more >= short_pct:
        with pytest.raises(CalibrationError, match="short"):
            edges_of(divider, base, damp_pct=damp, wet_pct=damp + more, has_end=True)
        return
    edges = edges_of(divider, base, damp_pct=damp, wet_pct=damp + more, has_end=True)
    assert edges.rises == rises
    order = ("open", "dry", "damp", "wet", "short")
    wetter = sorted(counts, reverse=side == "sensor_low")
    ranks = [order.index(edges.state_of(value)) for value in wetter]
    assert ranks == sorted(ranks)
    assert edges.state_of(base.mean) == "dry"
    assert edges.state_of(divider.counts(100.0)) == "short"
    assert edges.state_of(0.0 if side == "sensor_high" else 4095.0) == "open"


def test_a_baseline_wants_readings():
    with pytest.raises(CalibrationError, match="10 or more"):
        baseline_of([2047.0] * 9 + [math.nan])
    found = baseline_of([2047.0, 2049.0] * 10)
    assert (found.count, found.mean) == (20, 2048.0)
    assert found.sd == pytest.approx(1.026, abs=0.001)
    assert baseline_of([5.0] * 10).sd > 0, "a count is never finer than its step"


@pytest.mark.parametrize(("damp", "wet"), [(0, 20), (20, 20), (30, 20), (5, 5000)])
def test_thresholds_that_overlap_are_refused(damp, wet):
    divider = Divider(
        side="sensor_high", fixed_ohm=470e3, supply_v=3.3, reference_v=3.3, full_scale_counts=4095
    )
    base = Baseline(count=50, mean=2047.5, sd=2.0)
    with pytest.raises(CalibrationError):
        edges_of(divider, base, damp_pct=damp, wet_pct=wet, has_end=True)
