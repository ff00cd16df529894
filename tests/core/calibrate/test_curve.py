"""Curves of thermistors against reference values, and laws that hold for every curve."""

import math

import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.calibrate.thermistor_curve import (
    CurvePoint,
    beta_curve,
    steinhart_hart,
)
from aldea.core.devices.sensors.thermistor.law import thermistor_ohm

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


def test_points_of_an_exact_b_law_are_no_slip_whatever_their_rounding_makes_of_c():
    """To a tenth of an ohm the third coefficient comes out a little below zero."""
    temps = (0.0, 25.0, 50.0)
    exact = [thermistor_ohm(t, r25_ohm=10_000.0, beta_k=3950.0) for t in temps]
    signs = set()
    for off in (-0.05, 0.05):
        ohms = [exact[0], exact[1] + off, exact[2]]
        curve = steinhart_hart([CurvePoint(t, r) for t, r in zip(temps, ohms, strict=True)])
        signs.add(curve.c < 0)
        assert not curve.doubtful
        assert curve.needs_c_k < 0.001
    assert True in signs, "one of the two roundings makes it negative"


def test_beyond_where_it_turns_back_a_curve_gives_no_resistance():
    curve = steinhart_hart([CurvePoint(2, 14080), CurvePoint(22, 5300), CurvePoint(58, 1285)])
    assert curve.doubtful
    with pytest.raises(InputError, match="2 to 58"):
        curve.ohm(-200)
    with pytest.raises(InputError, match="above 0"):
        curve.degc(0)
