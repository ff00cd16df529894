"""Curves of thermistors against reference values, and laws that hold for every curve."""

import math

from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.calibrate.thermistor_curve import (
    BetaCurve,
    CurvePoint,
    beta_curve,
    self_heating_k,
    steinhart_hart,
    warmed_degc,
)
from aldea.core.physics.divider import Divider


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


@adaptor("beta2pt")
def two_points_give_b_and_r25(case):
    curve = beta_curve([CurvePoint(given(case, f"t{i}"), given(case, f"r{i}")) for i in (1, 2)])
    assert agrees(case, "beta", curve.beta_k)
    assert agrees(case, "r25", curve.r25_ohm)


@adaptor("sh3")
def three_points_give_the_coefficients(case):
    curve = steinhart_hart(points_of(case))
    for name, got in (("A", curve.a), ("B", curve.b), ("C", curve.c)):
        assert agrees(case, name, got), name
    resistance, temperature = given(case, "test_resistance"), given(case, "test_temperature")
    assert agrees(case, "temperature_at_test_resistance", curve.degc(resistance))
    assert agrees(case, "resistance_at_test_temperature", curve.ohm(temperature))
    assert curve.doubtful == (case["expected"]["C"]["value"] < 0)


@adaptor("shlsq")
def many_points_are_fitted_by_least_squares(case):
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


@adaptor("selfheat")
def the_divider_warms_its_thermistor(case):
    rise = self_heating_k(
        divider_of(case),
        given(case, "ntc_resistance"),
        dissipation_w_per_k=given(case, "dissipation_constant"),
    )
    assert agrees(case, "temperature_rise", rise)
    assert agrees(case, "power", rise * given(case, "dissipation_constant"))


@adaptor("selfheatbal")
def it_settles_where_power_and_loss_balance(case):
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
