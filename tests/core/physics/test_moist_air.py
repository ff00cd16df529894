"""Laws of moist air."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.errors import InputError
from aldea.core.physics.moist_air import dew_point_degc, rh_slope_pct_per_k, vapour_pressure_hpa


@given(st.floats(-10, 55), st.floats(10, 99))
def test_moist_air_laws(temp, rh):
    assert dew_point_degc(temp, 100.0) == pytest.approx(temp, abs=1e-9)
    assert dew_point_degc(temp, rh) <= temp
    step = 1e-4
    if temp < 59:
        warmer = vapour_pressure_hpa(temp + step, rh) / vapour_pressure_hpa(temp, rh)
        assert rh_slope_pct_per_k(temp, rh) == pytest.approx(rh * (warmer - 1) / step, rel=1e-2)


def test_air_outside_the_formula_is_refused():
    with pytest.raises(InputError, match="−45 to 60"):
        vapour_pressure_hpa(80.0, 50.0)
    with pytest.raises(InputError):
        vapour_pressure_hpa(20.0, 101.0)
