"""The leak tape: states without hole or overlap, false alarms, margins, wear."""

import math

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.tape import (
    LONG_ENOUGH,
    Baseline,
    again_1,
    baseline_of,
    exceeds_1,
    outliers_of,
    run_1,
    starts_a_year,
)
from aldea.core.devices.sensors.leak_tape.states import edges_of
from aldea.core.physics.divider import Divider
from aldea.core.physics.resistors import nearest_ohm


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
            edges_of(divider, base.mean, damp_pct=damp, wet_pct=damp + more, has_end=True)
        return
    edges = edges_of(divider, base.mean, damp_pct=damp, wet_pct=damp + more, has_end=True)
    assert edges.rises == rises
    order = ("open", "dry", "damp", "wet", "short")
    wetter = sorted(counts, reverse=side == "sensor_low")
    priorities = [order.index(edges.state_of(value)) for value in wetter]
    assert priorities == sorted(priorities)
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
        edges_of(divider, base.mean, damp_pct=damp, wet_pct=wet, has_end=True)


def test_noise_of_averages_is_not_divided_again():
    base = Baseline(count=50, mean=2000.0, sd=4.0)
    assert base.reading_sd(16, averaged=True) == 4.0
    assert base.reading_sd(16, averaged=False) == 1.0
    # One in 200 of averages; as if they were single samples it would be one in many millions.
    p = exceeds_1(10.3, base.reading_sd(16, averaged=True), 1)
    assert 1 / p == pytest.approx(200, rel=0.02)
    assert 1 / exceeds_1(10.3, base.reading_sd(16, averaged=False), 1) > 1e6


@drawn(r=st.floats(0.0, 0.9), n=st.integers(1, 40))
def test_samples_that_hang_together_average_less(r, n):
    """The variance of a mean is the sum of all covariances, over n²."""
    base = Baseline(count=50, mean=2000.0, sd=3.0, together_1=r)
    covariances = sum(r ** abs(i - j) for i in range(n) for j in range(n))
    assert base.reading_sd(n, averaged=False) == pytest.approx(3.0 * math.sqrt(covariances) / n)


def test_the_autocorrelation_is_told_where_the_recording_is_long_enough():
    rng = np.random.default_rng(3)
    noise = [0.0]
    for step in rng.normal(size=4000):
        noise.append(0.6 * noise[-1] + float(step))
    long = baseline_of([2000 + value for value in noise])
    assert long.together_1 == pytest.approx(0.6, abs=0.05)
    assert baseline_of([2000.0, 2001.0] * (LONG_ENOUGH // 2 - 1)).together_1 is None


@pytest.mark.parametrize("r", [0.0, 0.5, 0.8])
def test_readings_that_hang_together_alarm_more_often(r):
    """Against trying it out: two in a row beyond one sigma, of correlated readings."""
    p, again = exceeds_1(1.0, 1.0, 1), again_1(1.0, 1.0, r)
    rng = np.random.default_rng(5)
    first = rng.normal(size=400_000)
    second = r * first + math.sqrt(1 - r * r) * rng.normal(size=400_000)
    assert again == pytest.approx(float(np.mean(second[first > 1] > 1)), abs=0.006)
    assert again >= p - 1e-9
    assert run_1(p, 2, 50, again) >= run_1(p, 2, 50) - 1e-9
    assert starts_a_year(p, 2, 50, again) == pytest.approx(50 * (1 - p) * p * again)
    assert run_1(p, 2, 50, p) == pytest.approx(run_1(p, 2, 50))


def test_what_stands_far_out_is_named_by_its_place():
    readings = [2000.0 + i % 3 for i in range(20)]
    assert outliers_of(readings) == ()
    readings[6], readings[11] = 2600.0, 1500.0
    assert outliers_of(readings) == (6, 11)
    assert outliers_of([5.0, 900.0]) == (), "too few to tell"
    assert outliers_of([2000.0] * 19 + [2001.0]) == (), "one count is no outlier"
