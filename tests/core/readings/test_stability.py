"""How steady a span of readings is."""

import math

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.readings.stability import stability_of


@drawn(
    mean=st.floats(-20, 80),
    slope=st.floats(-1, 1),
    count=st.integers(5, 60),
)
def test_a_span_has_the_slope_that_was_put_into_it(mean, slope, count):
    t_ms = np.arange(count) * 10_000
    values = mean + slope * t_ms / 60_000
    values[1] = math.nan
    soak = stability_of(t_ms, values)
    assert soak is not None
    assert soak.count == count - 1
    assert soak.slope_per_min == pytest.approx(slope, abs=1e-6)
    assert soak.settled(abs(slope) + 1e-6) == (count - 1 >= 5)
    assert not soak.settled(abs(slope) - 0.01)


def test_one_reading_has_no_stability():
    assert stability_of(np.array([0]), np.array([20.0])) is None
    assert stability_of(np.array([0, 1]), np.array([20.0, math.nan])) is None


def test_a_hill_has_no_slope_and_is_not_settled():
    t_ms = np.arange(40) * 60_000
    hill = 20 + 2 * np.sin(np.linspace(0, math.pi, 40))
    flat = 20 + np.random.default_rng(4).normal(0, 0.02, 40)
    for values, settled in ((hill, False), (flat, True)):
        soak = stability_of(t_ms, values)
        assert soak is not None
        assert abs(soak.slope_per_min) < 0.01
        assert soak.settled(0.02) is settled
