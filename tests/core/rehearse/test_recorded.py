"""Figures a day are of the time that was recorded: silence, gaps and days without a log are not."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.core.plans import one_band

from aldea.core.base.instants import MS_PER_DAY
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.recorded import Recorded, common, recorded_of
from aldea.core.rehearse.rehearsal import beyond_limit, load_consequence, rehearse

HOUR = 3_600_000
DAY_0 = 1_762_992_000_000
spans = st.lists(st.integers(0, 60), unique=True, max_size=12).map(
    lambda edges: [*zip(*[iter(sorted(edges))] * 2, strict=False)]
)


@given(spans, spans)
def test_common_spans_are_the_seconds_that_both_have(one, other):
    seconds = [{s for a, b in rows for s in range(a, b)} for rows in (one, other)]
    arrays = [np.array(rows, dtype=np.int64).reshape(-1, 2) for rows in (one, other)]
    both = common(*arrays)
    assert {s for a, b in both.tolist() for s in range(a, b)} == seconds[0] & seconds[1]
    recorded = Recorded(from_ms=0, to_ms=60, spans=arrays[0])
    assert recorded.within(arrays[1]) == len(seconds[0] & seconds[1])
    instants = np.arange(60)
    assert set(recorded.holds(instants).tolist()) == seconds[0]


def swings(*days: int) -> Trace:
    """A humidity that swings four times a day, 40 to 80 %RH, recorded on some days only."""
    t_ms = np.concatenate(
        [np.arange(DAY_0 + d * MS_PER_DAY, DAY_0 + (d + 1) * MS_PER_DAY, 60_000) for d in days]
    )
    turns = 2 * np.pi * (t_ms - DAY_0) / (6 * HOUR)
    return Trace(t_ms=t_ms.astype(np.int64), raw=60 - 20 * np.cos(turns))


def figures(trace: Trace, *, end_day: int, from_day: int = 0):
    plan = one_band(stale_after_s=300.0, limit={"value": 70.0, "reason": ""})
    done = rehearse(plan, {"rh": trace}, start_ms=DAY_0, end_ms=DAY_0 + end_day * MS_PER_DAY)
    span = {"from_ms": DAY_0 + from_day * MS_PER_DAY, "to_ms": DAY_0 + end_day * MS_PER_DAY}
    recorded = recorded_of(done.run, ("rh",), **span)
    rule = plan.rules[0]
    return recorded, load_consequence(done, rule, beyond_limit(plan, rule, trace), recorded)


def test_a_log_of_two_days_in_ten_counts_two_days():
    """Four starts a day, also where the log has a hole of three days and ends five days ago."""
    whole, each_day = figures(swings(0, 1), end_day=2)
    thin, with_holes = figures(swings(0, 4), end_day=10)
    assert whole.days == pytest.approx(2.0, abs=0.001)
    assert thin.days == pytest.approx(2.0, abs=0.01), "five minutes until a probe counts as silent"
    assert thin.share == pytest.approx(0.2, abs=0.001)
    assert each_day.starts == with_holes.starts == 8
    assert with_holes.starts_per_day == pytest.approx(4.0, rel=0.01)
    for key in ("on_hours_per_day", "relay_years", "beyond_hours_per_week", "energy_kwh_per_day"):
        assert getattr(with_holes, key) == pytest.approx(getattr(each_day, key), rel=0.02), key


def test_of_a_shorter_span_only_what_lies_in_it_counts():
    recorded, part = figures(swings(0, 4), end_day=5, from_day=3)
    assert recorded.days == pytest.approx(1.0, abs=0.005)
    assert recorded.share == pytest.approx(0.5, abs=0.005)
    assert part.starts == 4


def test_where_nothing_was_heard_there_are_no_figures_a_day():
    recorded, part = figures(swings(0), end_day=9, from_day=5)
    assert (recorded.days, part.starts, part.starts_per_day) == (0.0, 0, 0.0)
    assert part.relay_years == float("inf")


def test_a_probe_that_begins_late_is_not_heard_before():
    recorded, _ = figures(swings(3), end_day=4)
    assert recorded.days == pytest.approx(1.0, abs=0.001)
    assert recorded.spans.tolist() == [[DAY_0 + 3 * MS_PER_DAY, DAY_0 + 4 * MS_PER_DAY]]
