"""The leak tape: states without hole or overlap, false alarms, margins, wear."""

import math

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.tape import Baseline, baseline_of, run_1
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
        edges_of(divider, base.mean, damp_pct=damp, wet_pct=wet, has_end=True)
