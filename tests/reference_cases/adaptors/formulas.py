"""Formulas against reference values that were computed by two routes each."""

import math

import numpy as np
import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.base.instants import local, ms_of_local
from aldea.core.calibrate.calibration_line import fit_line
from aldea.core.calibrate.salts import SALTS, salt_rh_pct
from aldea.core.calibrate.uncertainty_budget import BudgetRow, Distribution, combine
from aldea.core.physics.moist_air import (
    absolute_humidity_g_per_m3,
    dew_point_degc,
    saturation_pressure_hpa,
    vapour_pressure_hpa,
)
from aldea.core.rehearse.consequence import relay_life_years

FORMULA = {salt.formula: key for key, salt in SALTS.items()}


KIND: dict[str, Distribution] = {
    "expanded_k2": "expanded_k2",
    "standard": "standard",
    "rectangular_halfwidth": "rectangular",
    "triangular_halfwidth": "triangular",
    "resolution_step": "resolution",
}


@adaptor("svp")
def saturation_pressure_is_the_wmo_magnus_form(case):
    assert agrees(case, "magnus_wmo_water", saturation_pressure_hpa(given(case, "temperature")))


@adaptor("dew")
def dew_point(case):
    temp, rh = given(case, "temperature"), given(case, "relative_humidity")
    assert agrees(case, "vapour_pressure", vapour_pressure_hpa(temp, rh))
    assert agrees(case, "dew_point", dew_point_degc(temp, rh))


@adaptor("abs")
def absolute_humidity(case):
    got = absolute_humidity_g_per_m3(given(case, "temperature"), given(case, "relative_humidity"))
    assert agrees(case, "absolute_humidity", got)


@adaptor("salt")
def humidity_over_salts(case):
    salt = FORMULA[given(case, "salt")]
    assert agrees(case, "relative_humidity", salt_rh_pct(salt, given(case, "temperature")))


@adaptor("rhcal")
def two_salts_fix_a_line(case):
    temp = given(case, "temperature")
    references = [salt_rh_pct(FORMULA[given(case, f"salt{i}")], temp) for i in (1, 2)]
    readings = [given(case, "raw1"), given(case, "raw2")]
    line = fit_line(np.array(readings), np.array(references))
    assert agrees(case, "gain", line.slope)
    assert agrees(case, "offset", line.intercept)
    assert agrees(case, "corrected", line.at(given(case, "later_raw_reading")))


@adaptor("twopoint")
def two_points_fix_a_line(case):
    line = fit_line(
        np.array([given(case, "raw1"), given(case, "raw2")]),
        np.array([given(case, "ref1"), given(case, "ref2")]),
    )
    assert agrees(case, "gain", line.slope)
    assert agrees(case, "offset", line.intercept)
    assert agrees(case, "corrected", line.at(given(case, "later_raw_reading")))
    assert math.isnan(line.residual_sd)


@adaptor("line")
def least_squares_line_with_its_uncertainty(case):
    line = fit_line(
        np.array(given(case, "readings_x"), float), np.array(given(case, "references_y"), float)
    )
    at = given(case, "at_reading")
    u_line = line.residual_sd * line.leverage_1(at)
    assert agrees(case, "slope", line.slope)
    assert agrees(case, "intercept", line.intercept)
    assert agrees(case, "residual_sd", line.residual_sd)
    assert agrees(case, "se_slope", line.se_slope)
    assert agrees(case, "se_intercept", line.se_intercept)
    assert agrees(case, "correlation_intercept_slope", line.correlation)
    assert agrees(case, "predicted", line.at(at))
    assert agrees(case, "u_line", u_line)
    assert agrees(case, "u_new_reading", math.hypot(u_line, line.residual_sd))


@adaptor("budget")
def a_budget_is_combined_after_gum(case):
    rows = tuple(
        BudgetRow(
            label=row["name"],
            value=row["value"],
            distribution=KIND[row["kind"]],
            sensitivity=row["sensitivity"],
            degrees_of_freedom=row["dof"] or math.inf,
        )
        for row in given(case, "components")
    )
    budget = combine(rows)
    wanted = case["expected"]["u_contributions"]["value"]
    assert [row.standard_uncertainty for row in rows] == pytest.approx(wanted, rel=1e-6)
    assert agrees(case, "u_combined", budget.combined)
    assert agrees(case, "U_k2", 2 * budget.combined)
    assert agrees(case, "effective_dof", budget.effective_degrees_of_freedom)
    assert budget.factor >= 2.0


@adaptor("life")
def relay_life(case):
    got = relay_life_years(given(case, "rated_operations"), given(case, "cycles_per_day"))
    assert agrees(case, "years", got)


@adaptor("local")
def wall_clock_to_utc_over_clock_changes(case):
    from datetime import datetime

    wall = datetime.fromisoformat(given(case, "local"))
    got = local(ms_of_local(wall, given(case, "time_zone")), "UTC")
    assert got.strftime("%Y-%m-%dT%H:%M:%SZ") == case["expected"]["utc"]["value"]
