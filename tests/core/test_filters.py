"""Filters against reference values, and what each is good at."""

from functools import partial

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st
from tests.reference import agrees, cases, given

from aldea.core.errors import InputError
from aldea.core.sensing.filters import (
    alpha_of,
    exponential,
    ground_of,
    median_step_readings,
    moving_mean,
    moving_median,
    ramp_lag_s,
    step_readings,
    tried,
)


def ids(case):
    return case["id"]


@pytest.mark.parametrize("case", cases("ma"), ids=ids)
def test_a_mean_grows_at_the_start(case):
    got = moving_mean(np.array(given(case, "series"), dtype=float), given(case, "window"))
    assert got == pytest.approx(case["expected"]["output_growing_start"]["value"])


@pytest.mark.parametrize("case", cases("median"), ids=ids)
def test_a_median_lets_no_lone_spike_pass(case):
    got = moving_median(np.array(given(case, "series"), dtype=float), given(case, "window"))
    assert got == pytest.approx(case["expected"]["output_growing_start"]["value"])


@pytest.mark.parametrize("case", cases("emairregular"), ids=ids)
def test_an_exponential_memory_knows_the_time_between_readings(case):
    samples = np.array(given(case, "samples"), dtype=float)
    got = exponential(samples[:, 0], samples[:, 1], given(case, "time_constant"))
    assert got == pytest.approx(case["expected"]["output"]["value"], abs=1e-6)


@pytest.mark.parametrize("case", cases("alpha"), ids=ids)
def test_alpha_and_the_noise_that_it_leaves(case):
    alpha = alpha_of(given(case, "sample_interval"), given(case, "time_constant"))
    assert agrees(case, "alpha_exact", alpha)
    # The factor on white noise, from the filter itself.
    interval, tau = given(case, "sample_interval"), given(case, "time_constant")
    white = np.random.default_rng(3).normal(0, 1, 400_000)
    t_s = np.arange(0.0, float(interval) * len(white), float(interval))
    left = exponential(t_s, white, tau)[2000:].std()
    assert float(left) == pytest.approx(case["expected"]["noise_factor"]["value"], rel=0.02)


@pytest.mark.parametrize("case", cases("steplag"), ids=ids)
def test_how_long_a_step_takes(case):
    parameter, share = given(case, "parameter"), given(case, "share")
    readings = {
        "ema": lambda: step_readings(share=share, alpha=parameter),
        "moving_average": lambda: step_readings(share=share, window=parameter),
        "median": lambda: median_step_readings(parameter),
    }[given(case, "filter")]()
    assert readings == case["expected"]["readings"]["value"]
    interval = given(case, "sample_interval")
    assert agrees(case, "longest_time_from_the_event", readings * interval)


@pytest.mark.parametrize("case", cases("ramplag"), ids=ids)
def test_how_far_a_ramp_is_ahead(case):
    lag = ramp_lag_s(given(case, "sample_interval"), alpha=given(case, "parameter"))
    assert agrees(case, "lag_time", lag)
    assert agrees(case, "steady_error", lag * given(case, "slope"))


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
