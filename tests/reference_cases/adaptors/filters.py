"""Filters against reference values, and what each is good at."""

import numpy as np
import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.readings.filters import (
    alpha_of,
    exponential,
    median_step_readings,
    moving_mean,
    moving_median,
    ramp_lag_s,
    step_readings,
)


@adaptor("ma")
def a_mean_grows_at_the_start(case):
    got = moving_mean(np.array(given(case, "series"), dtype=float), given(case, "window"))
    assert got == pytest.approx(case["expected"]["output_growing_start"]["value"])


@adaptor("median")
def a_median_lets_no_lone_spike_pass(case):
    got = moving_median(np.array(given(case, "series"), dtype=float), given(case, "window"))
    assert got == pytest.approx(case["expected"]["output_growing_start"]["value"])


@adaptor("emairregular")
def an_exponential_memory_knows_the_time_between_readings(case):
    samples = np.array(given(case, "samples"), dtype=float)
    got = exponential(samples[:, 0], samples[:, 1], given(case, "time_constant"))
    assert got == pytest.approx(case["expected"]["output"]["value"], abs=1e-6)


@adaptor("alpha")
def alpha_and_the_noise_that_it_leaves(case):
    alpha = alpha_of(given(case, "sample_interval"), given(case, "time_constant"))
    assert agrees(case, "alpha_exact", alpha)
    # The factor on white noise, from the filter itself.
    interval, tau = given(case, "sample_interval"), given(case, "time_constant")
    white = np.random.default_rng(3).normal(0, 1, 400_000)
    t_s = np.arange(0.0, float(interval) * len(white), float(interval))
    left = exponential(t_s, white, tau)[2000:].std()
    assert float(left) == pytest.approx(case["expected"]["noise_factor"]["value"], rel=0.02)


@adaptor("steplag")
def how_long_a_step_takes(case):
    parameter, share = given(case, "parameter"), given(case, "share")
    readings = {
        "ema": lambda: step_readings(share=share, alpha=parameter),
        "moving_average": lambda: step_readings(share=share, window=parameter),
        "median": lambda: median_step_readings(parameter),
    }[given(case, "filter")]()
    assert readings == case["expected"]["readings"]["value"]
    interval = given(case, "sample_interval")
    assert agrees(case, "longest_time_from_the_event", readings * interval)


@adaptor("ramplag")
def how_far_a_ramp_is_ahead(case):
    lag = ramp_lag_s(given(case, "sample_interval"), alpha=given(case, "parameter"))
    assert agrees(case, "lag_time", lag)
    assert agrees(case, "steady_error", lag * given(case, "slope"))
