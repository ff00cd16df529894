"""Filters against reference values, and what each is good at."""

import math
from functools import partial

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import InputError
from aldea.core.readings.filters import (
    exponential,
    ground_of,
    moving_mean,
    moving_median,
    tried,
)


@drawn(
    values=st.lists(st.floats(-50, 50), min_size=1, max_size=60),
    window=st.integers(1, 61),
    shift=st.floats(-20, 20),
)
def test_a_filter_stays_inside_and_moves_with_the_readings(values, window, shift):
    raw = np.array(values)
    t_s = np.arange(0.0, 10.0 * len(raw), 10.0)
    for run in (
        lambda v: moving_mean(v, window),
        lambda v: moving_median(v, window),
        lambda v: exponential(t_s, v, 30.0),
    ):
        out = run(raw)
        assert len(out) == len(raw)
        assert out.min() >= raw.min() - 1e-9
        assert out.max() <= raw.max() + 1e-9
        assert run(raw + shift) == pytest.approx(out + shift, abs=1e-7)


@drawn(
    values=st.lists(st.floats(-50, 50), min_size=1, max_size=80),
    steps_s=st.lists(st.sampled_from([0.0, 1.0, 10.0, 600.0, 90_000.0]), min_size=80, max_size=80),
    tau_s=st.sampled_from([0.5, 30.0, 4000.0]),
)
def test_the_exponential_filter_is_its_recurrence_at_any_times(values, steps_s, tau_s):
    """Reading by reading: y += (1 − e^(−Δt/τ)) (x − y), over long pauses and none."""
    t_s = np.concatenate(([0.0], np.cumsum(steps_s)))[: len(values)]
    now, wanted = values[0], [values[0]]
    for step_s, value in zip(np.diff(t_s), values[1:], strict=True):
        now += -math.expm1(-step_s / tau_s) * (value - now)
        wanted.append(now)
    assert exponential(t_s, np.array(values), tau_s) == pytest.approx(wanted, abs=1e-9)


def test_a_median_stops_spikes_that_a_mean_passes_and_both_leave_less_noise():
    noise = np.random.default_rng(7)
    values = 20 + noise.normal(0, 0.1, 3000)
    values[500::500] += 8
    ground = ground_of(values)
    assert int(ground.spikes.sum()) == 5
    assert ground.noise == pytest.approx(0.1, rel=0.1)
    t_s = np.arange(0.0, 30_000.0, 10.0)
    mean = tried(lambda v: moving_mean(v, 5), ground, 5)
    median = tried(lambda v: moving_median(v, 5), ground, 5)
    smooth = tried(lambda v: exponential(t_s, v, 30.0), ground, 5)
    assert (mean.passed, median.passed, smooth.passed) == (5, 0, 5)
    for one in (mean, median, smooth):
        assert one.noise < 0.75 * ground.noise
    assert mean.noise == pytest.approx(0.1 / 5**0.5, rel=0.15)


def test_noise_is_not_mistaken_for_the_lag_behind_a_ramp():
    noise = np.random.default_rng(8)
    t_s = np.arange(0.0, 40_000.0, 10.0)
    ramps = 55 + 10 * np.abs((t_s / 10_000) % 2 - 1)
    values = np.round(ramps + noise.normal(0, 0.4, len(t_s)), 1)
    ground = ground_of(values)
    assert ground.noise == pytest.approx(0.4, rel=0.1)
    left = [tried(partial(moving_mean, window=n), ground, 5).noise for n in (1, 4, 16)]
    assert left == pytest.approx([0.4, 0.2, 0.1], rel=0.2)


@pytest.mark.parametrize("window", [0, 62])
def test_a_window_has_its_limits(window):
    with pytest.raises(InputError, match="1 to 61"):
        moving_mean(np.ones(5), window)
    with pytest.raises(InputError, match="above 0"):
        exponential(np.arange(5.0), np.ones(5), float(window) * 0)
