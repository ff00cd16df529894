"""A trace as a path."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.web.shell.plot import Scale, trace_path


@given(st.lists(st.floats(0, 100), min_size=2, max_size=200))
def test_a_path_stays_inside_its_axes_and_keeps_the_extremes(values):
    t_ms = np.arange(len(values), dtype=np.int64) * 1000
    y = Scale(low=0, high=100, pixel_low=300, pixel_high=10)
    path = trace_path(
        t_ms, np.array(values), start_ms=0, end_ms=len(values) * 1000, width=90, y=y, gap_ms=5000
    )
    ys = [float(point.split(" ")[1]) for point in path.lstrip("M").split("L")]
    assert min(ys) == pytest.approx(y(max(values)), abs=0.06)
    assert max(ys) == pytest.approx(y(min(values)), abs=0.06)
