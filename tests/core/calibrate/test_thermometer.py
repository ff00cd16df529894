"""The thermometer bench: fixed points, references on both sides, lines, what settles."""

import math

import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.probe_pair import compare_pair
from aldea.core.calibrate.thermometer import ThermometerConditions, between, fit_thermometer
from aldea.core.calibrate.uncertainty_budget import BudgetRow
from aldea.core.physics.water import boiling_degc, pressure_at_pa

CONDITIONS = ThermometerConditions()


def point(reference, reading, medium="beside", approach="point", expanded=0.1):
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,
        temp_degc=reference,
        reference_expanded=expanded,
        medium=medium,
    )


@pytest.mark.parametrize(
    ("formula", "beyond"),
    [(boiling_degc, 600.0), (boiling_degc, math.nan), (pressure_at_pa, 12_000.0)],
)
def test_where_no_formula_holds_none_is_used(formula, beyond):
    with pytest.raises(InputError, match=r"Enter |needed: "):
        formula(beyond)


@drawn(
    slope=st.floats(0.9, 1.1),
    intercept=st.floats(-5, 5),
    references=st.lists(st.floats(-20, 90), min_size=2, max_size=8),
)
def test_a_line_put_into_the_readings_is_found_again(slope, intercept, references):
    points = [point(r, (r - intercept) / slope) for r in references]
    fit = fit_thermometer(points, CONDITIONS)
    if max(references) - min(references) >= 5:
        assert fit.line.slope == pytest.approx(slope, abs=1e-6)
        assert (fit.low, fit.high) == (min(references), max(references))
    for p in points:
        assert abs(fit.line.at(p.reading) - p.reference) < 0.6, "slope 1 across 5 K at the worst"


@drawn(
    first=st.floats(-20, 90),
    second=st.floats(-20, 90),
    first_cm=st.floats(0.1, 200),
    second_cm=st.floats(0.1, 200),
    expanded=st.floats(0.01, 2),
)
def test_between_two_references_lies_between_and_nearer_to_the_near_one(
    first, second, first_cm, second_cm, expanded
):
    found = between(
        first_degc=first,
        second_degc=second,
        first_cm=first_cm,
        second_cm=second_cm,
        each_expanded_k=expanded,
    )
    low, high = sorted((first, second))
    assert low - 1e-9 <= found.reference_degc <= high + 1e-9
    if first_cm < second_cm:
        assert abs(found.reference_degc - first) <= abs(found.reference_degc - second) + 1e-9
    turned = between(
        first_degc=second,
        second_degc=first,
        first_cm=second_cm,
        second_cm=first_cm,
        each_expanded_k=expanded,
    )
    assert turned.reference_degc == pytest.approx(found.reference_degc)
    assert turned.expanded_k == pytest.approx(found.expanded_k)
    assert found.expanded_k >= expanded / math.sqrt(2) - 1e-9, "two references cannot do better"


@drawn(more=st.floats(0, 3), field=st.sampled_from(["contact_k", "position_k", "self_heating_k"]))
def test_more_doubt_never_makes_a_better_certificate(more, field):
    points = [point(0.0, 0.4, "ice"), point(40.0, 40.8)]
    base = fit_thermometer(points, CONDITIONS).expanded
    changed = {f: getattr(CONDITIONS, f) for f in CONDITIONS.__slots__}
    changed[field] += more
    assert fit_thermometer(points, ThermometerConditions(**changed)).expanded >= base - 1e-12


def test_a_check_is_compared_and_never_fitted():
    points = [point(0.0, 0.4, "ice"), point(40.0, 40.8)]
    alone = fit_thermometer(points, CONDITIONS)
    assert alone.verdict == "not_shown"
    good = fit_thermometer([*points, point(20.0, 20.6, approach="check")], CONDITIONS)
    bad = fit_thermometer([*points, point(20.0, 22.0, approach="check")], CONDITIONS)
    assert (good.verdict, bad.verdict) == ("holds", "fails")
    assert good.line == bad.line == alone.line


@pytest.mark.parametrize(
    ("points", "said"),
    [
        ([], "ice bath"),
        ([point(20.0, 20.1, approach="check")], "ice bath"),
        ([point(0.0, 32.0), point(40.0, 104.0)], "°F"),
        ([point(0.0, 40.0), point(40.0, 0.0)], "slope"),
        ([point(0.0, math.nan)], "no number"),
        ([point(0.0, 5.0), point(40.0, 5.0)], "at least two different readings"),
    ],
)
def test_what_carries_no_line_is_refused_with_the_fix(points, said):
    with pytest.raises(CalibrationError) as refused:
        fit_thermometer(points, CONDITIONS)
    assert said in refused.value.sentence


U = 0.1


def test_what_is_promised_is_narrowest_in_the_middle_and_never_above_the_certificate():
    pairs = [
        Pair(
            reference=r, reading=r + 0.3 + e, approach="point", temp_degc=r, reference_expanded=0.1
        )
        for r, e in ((0.0, 0.1), (0.0, -0.1), (20.0, 0.12), (40.0, -0.1), (40.0, 0.1))
    ]
    fit = fit_thermometer(pairs, ThermometerConditions())
    middle, ends = fit.expanded_at(20.3), [fit.expanded_at(r) for r in (0.3, 40.3)]
    assert middle < min(ends)
    assert max(ends) == pytest.approx(fit.expanded, rel=0.01)
    assert fit.expanded_at(80.3) > fit.expanded, "beyond the range the promise ends"
    wider = fit.with_rows((BudgetRow(label="x", value=1.0, distribution="standard"),))
    assert wider.budget.combined**2 == pytest.approx(fit.budget.combined**2 + 1.0)


def test_an_outlier_is_flagged_and_stays():
    pairs = [
        Pair(reference=r, reading=r + e, approach="point", temp_degc=r, reference_expanded=0.02)
        for r, e in ((0.0, 0.0), (10.0, 0.0), (20.0, 2.5), (30.0, 0.0), (40.0, 0.0), (50.0, 0.0))
    ]
    small = ThermometerConditions(contact_k=0.0, position_k=0.0, drift_k_per_year=0.0)
    fit = fit_thermometer(pairs, small)
    assert len(fit.results) == 6
    assert fit.line.n == 6
    assert all(number == 3 for number in fit.outliers)


def test_a_weather_report_is_reduced_by_heights_and_not_by_a_factor():
    """ICAO: the height of the station above the level where p0 would lie, by hand for 985 hPa.

    QNH lies (1 − (985/1013.25)^(1/5.25588)) · 288.15 / 0.0065 = 239 m above p0; the station 1450 m
    above that: p0 (1 − 0.0065 · 1689 / 288.15)^5.25588.
    """
    above_m = (1 - (985 / 1013.25) ** (1 / 5.25588)) * 288.15 / 0.0065
    by_hand = 101_325 * (1 - 0.0065 * (above_m + 1450) / 288.15) ** 5.25588
    assert pressure_at_pa(1450.0, 98_500.0) == pytest.approx(by_hand, rel=1e-9)
    assert pressure_at_pa(1450.0) == pytest.approx(85_100, abs=80)


def test_the_mean_of_a_difference_has_its_own_scatter():
    """Of readings that differ by 0.0 and 0.6 K in turn: s = 0.3464, s / √3 = 0.2."""
    pairs = [(20.0, 20.0), (20.0, 20.6), (20.0, 20.0)]
    found = compare_pair(pairs, expanded_common_k=0.5, expanded_own_1_k=0.0, expanded_own_2_k=0.0)
    assert found.u_k == pytest.approx(0.2, abs=1e-4)
    assert found.u_k == pytest.approx(found.u_mean_k)
