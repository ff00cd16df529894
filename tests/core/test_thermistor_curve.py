"""Curves of thermistors against reference values, and laws that hold for every curve."""

import math

import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st
from tests.reference import agrees, cases, given

from aldea.core.calibrate.thermistor_curve import (
    BetaCurve,
    CurvePoint,
    beta_curve,
    self_heating_k,
    steinhart_hart,
    warmed_degc,
)
from aldea.core.errors import CalibrationError, InputError
from aldea.core.sensing.divider import Divider
from aldea.core.sensing.thermistor import thermistor_ohm


def ids(case):
    return case["id"]


def points_of(case):
    return [CurvePoint(temp, ohm) for temp, ohm in given(case, "points")]


def divider_of(case):
    supply = given(case, "supply")
    return Divider(
        side="sensor_low",
        fixed_ohm=given(case, "r_fixed"),
        supply_v=supply,
        reference_v=supply,
        full_scale_counts=4095,
    )


@pytest.mark.parametrize("case", cases("beta2pt"), ids=ids)
def test_two_points_give_b_and_r25(case):
    curve = beta_curve([CurvePoint(given(case, f"t{i}"), given(case, f"r{i}")) for i in (1, 2)])
    assert agrees(case, "beta", curve.beta_k)
    assert agrees(case, "r25", curve.r25_ohm)


@pytest.mark.parametrize("case", cases("sh3"), ids=ids)
def test_three_points_give_the_coefficients(case):
    curve = steinhart_hart(points_of(case))
    for name, got in (("A", curve.a), ("B", curve.b), ("C", curve.c)):
        assert agrees(case, name, got), name
    resistance, temperature = given(case, "test_resistance"), given(case, "test_temperature")
    assert agrees(case, "temperature_at_test_resistance", curve.degc(resistance))
    assert agrees(case, "resistance_at_test_temperature", curve.ohm(temperature))
    assert curve.doubtful == (case["expected"]["C"]["value"] < 0)


@pytest.mark.parametrize("case", cases("shlsq"), ids=ids)
def test_many_points_are_fitted_by_least_squares(case):
    points = points_of(case)
    curve = steinhart_hart(points)
    for name, got in (("A", curve.a), ("B", curve.b), ("C", curve.c)):
        assert agrees(case, name, got), name
    assert agrees(
        case, "temperature_at_test_resistance", curve.degc(given(case, "test_resistance"))
    )
    misses = [curve.degc(p.ohm) - p.temp_degc for p in points]
    assert agrees(case, "rms_residual", math.sqrt(sum(m * m for m in misses) / len(misses)))
    assert agrees(case, "max_abs_residual", max(map(abs, misses)))


@pytest.mark.parametrize("case", cases("selfheat"), ids=ids)
def test_the_divider_warms_its_thermistor(case):
    rise = self_heating_k(
        divider_of(case),
        given(case, "ntc_resistance"),
        dissipation_w_per_k=given(case, "dissipation_constant"),
    )
    assert agrees(case, "temperature_rise", rise)
    assert agrees(case, "power", rise * given(case, "dissipation_constant"))


@pytest.mark.parametrize("case", cases("selfheatbal"), ids=ids)
def test_it_settles_where_power_and_loss_balance(case):
    curve = BetaCurve(r25_ohm=given(case, "ntc_r25"), beta_k=given(case, "ntc_beta"))
    settled = warmed_degc(
        divider_of(case),
        given(case, "ambient"),
        curve=curve,
        dissipation_w_per_k=given(case, "dissipation_constant"),
        duty=given(case, "duty"),
    )
    assert agrees(case, "ntc_temperature", settled)
    assert agrees(case, "temperature_rise", settled - given(case, "ambient"))


TEMPS = st.lists(st.integers(-30, 110), min_size=3, max_size=9, unique=True).filter(
    lambda temps: max(temps) - min(temps) >= 20
)


@drawn(r25=st.floats(1e3, 1e5), beta=st.floats(2500, 5000), temps=TEMPS)
def test_a_curve_put_into_the_points_is_found_again_both_ways(r25, beta, temps):
    points = [CurvePoint(t, thermistor_ohm(t, r25_ohm=r25, beta_k=beta)) for t in temps]
    found = beta_curve(points)
    assert found.beta_k == pytest.approx(beta, rel=1e-6)
    assert found.r25_ohm == pytest.approx(r25, rel=1e-6)
    curve = steinhart_hart(points)
    for p in points:
        assert curve.degc(p.ohm) == pytest.approx(p.temp_degc, abs=1e-4)
        assert curve.ohm(p.temp_degc) == pytest.approx(p.ohm, rel=1e-4)
    ordered = sorted(points, key=lambda p: p.ohm)
    degrees = [curve.degc(p.ohm) for p in ordered]
    assert degrees == sorted(degrees, reverse=True), "warmer is always less resistance"


@pytest.mark.parametrize(
    ("points", "said"),
    [
        ([(0, 32650), (25, 10000)], "2 temperatures"),
        ([(0, 32650), (0, 32650), (25, 10000)], "2 temperatures"),
        ([(0, 3603), (25, 10000), (50, 32650)], "less resistance when warmer"),
        ([(0, 32650), (25, 10000), (300, 30)], "150 °C"),
        ([(0, 32650), (25, 0), (50, 3603)], "more than 0"),
        ([(0, math.nan), (25, 10000), (50, 3603)], "more than 0"),
    ],
)
def test_points_that_carry_no_curve_are_refused(points, said):
    with pytest.raises(CalibrationError) as refused:
        steinhart_hart([CurvePoint(*p) for p in points])
    assert said in refused.value.sentence


def test_beyond_where_it_turns_back_a_curve_gives_no_resistance():
    curve = steinhart_hart([CurvePoint(2, 14080), CurvePoint(22, 5300), CurvePoint(58, 1285)])
    assert curve.doubtful
    with pytest.raises(InputError, match="2 to 58"):
        curve.ohm(-200)
    with pytest.raises(InputError, match="above 0"):
        curve.degc(0)
