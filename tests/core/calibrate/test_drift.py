"""Drift from certificate to certificate, and when it leaves what was promised."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.drift import LEAST_YEARS, MS_PER_YEAR, Signed, drift_of


def signed(years: float, offset: float, *, expanded: float = 1.3, slope: float = 1.0) -> Signed:
    return Signed(
        at_ms=round(years * MS_PER_YEAR),
        slope=slope,
        intercept=offset,
        expanded=expanded,
        low=33.0,
        high=75.0,
    )


def test_one_certificate_tells_no_drift_and_two_of_one_instant_are_refused():
    assert drift_of([signed(0, -1)]) is None
    with pytest.raises(CalibrationError):
        drift_of([signed(1, -1), signed(1, -2)])


def test_two_certificates_a_year_apart():
    """Half a per cent in a year uses up ±1.3 in 2.6 years."""
    found = drift_of([signed(0, 0.0), signed(1, 0.5)])
    assert found is not None
    assert found.per_year == pytest.approx(0.5)
    assert found.middle == 54.0
    assert found.leaves_ms == pytest.approx(3.6 * MS_PER_YEAR, abs=2)


def test_a_slope_that_turns_moves_the_middle():
    found = drift_of([signed(0, 0.0, slope=1.0), signed(2, 0.0, slope=1.05)])
    assert found is not None
    assert found.per_year == pytest.approx(54.0 * 0.05 / 2)


@given(
    per_year=st.floats(-3, 3),
    start=st.floats(-5, 5),
    years=st.lists(st.floats(0.1, 8), min_size=2, max_size=6, unique=True),
)
def test_a_steady_drift_is_found_in_any_order(per_year, start, years):
    rows = [signed(t, start + per_year * t) for t in years]
    if max(years) - min(years) < LEAST_YEARS:
        return
    for order in (rows, rows[::-1]):
        found = drift_of(order)
        assert found is not None
        assert found.per_year == pytest.approx(per_year, abs=1e-6)
        assert found.certificates == len(years)
        if abs(per_year) < 1e-10:
            assert found.leaves_ms is None
        elif found.leaves_ms is not None:
            assert found.leaves_ms > max(row.at_ms for row in rows)
