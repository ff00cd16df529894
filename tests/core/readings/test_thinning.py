"""Thinning keeps what a drawing shows."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.readings.thinning import thin
from aldea.core.readings.trace import Trace

logs = st.lists(
    st.tuples(st.integers(1, 400), st.floats(0, 100, width=32)), min_size=1, max_size=300
)


def trace_of(log) -> Trace:
    return Trace(
        t_ms=np.cumsum([step for step, _ in log]).astype(np.int64),
        raw=np.array([value for _, value in log], dtype=float),
    )


@settings(deadline=None)
@given(logs, st.integers(2, 60))
def test_thinning_keeps_every_extreme_and_never_more_than_the_pixels_show(log, pixels):
    trace = trace_of(log)
    end = int(trace.t_ms[-1]) + 1
    pieces = thin(trace.t_ms, trace.raw, start_ms=0, end_ms=end, pixels=pixels, gap_ms=10**9)
    t = np.concatenate([a for a, _ in pieces])
    v = np.concatenate([b for _, b in pieces])
    assert len(t) <= 4 * pixels
    assert (np.diff(t) > 0).all()
    columns, all_columns = t * pixels // end, trace.t_ms * pixels // end
    for column in np.unique(all_columns):
        assert v[columns == column].max() == trace.raw[all_columns == column].max()
        assert v[columns == column].min() == trace.raw[all_columns == column].min()


@given(logs)
def test_thinning_parts_the_line_at_every_gap(log):
    trace = trace_of(log)
    end = int(trace.t_ms[-1]) + 1
    pieces = thin(trace.t_ms, trace.raw, start_ms=0, end_ms=end, pixels=50, gap_ms=200)
    assert len(pieces) == 1 + int((np.diff(trace.t_ms) > 200).sum())
