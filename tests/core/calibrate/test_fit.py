"""What every fit rests on: the scatter of one reading, and how far a check may lie off."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.calibrate.calibration_line import fit_line
from aldea.core.calibrate.certificate import new_calibration
from aldea.core.calibrate.humidity import (
    SINGLE_DIRECTION_HYSTERESIS_RH_PCT,
    Conditions,
    fit_humidity,
)
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.scatter import Scatter, scatter_of
from aldea.core.calibrate.thermometer import ThermometerConditions, fit_thermometer
from aldea.core.calibrate.uncertainty_budget import BudgetRow, combine


def point(reference: float, reading: float, approach: str = "point", expanded: float = 0.1) -> Pair:
    return Pair(
        reference=reference,
        reading=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=reference,
        reference_expanded=expanded,
        medium="beside",
    )


def at(pair: Pair) -> float:
    return pair.reference


def scatter(pairs: list[Pair]) -> Scatter:
    line = fit_line(np.array([p.reading for p in pairs]), np.array([p.reference for p in pairs]))
    return scatter_of(pairs, line, at, assumed=9.0)


def test_the_scatter_about_a_line_is_that_of_readings_and_not_of_values():
    """A probe of half the true span: what lies beside the line counts as the probe reads it."""
    off = [1.0, -1.0, -1.0, 1.0]
    pairs = [point(5.0 * n, 10.0 * n + o) for n, o in enumerate(off)]
    estimate = scatter(pairs)
    assert estimate.source == "misfit"
    assert estimate.reading.sd == pytest.approx(math.sqrt(4 / 2))
    assert estimate.reading.degrees_of_freedom == 2


def test_what_was_repeated_tells_its_own_scatter():
    """Two groups, pooled by hand: (0.5² + 0.5² + 1² + 1²) / 2 degrees of freedom."""
    pairs = [point(0.0, 1.0), point(0.0, 2.0), point(10.0, 13.0), point(10.0, 15.0)]
    estimate = scatter(pairs)
    assert (estimate.source, estimate.points) == ("repeats", None)
    assert estimate.reading.sd == pytest.approx(math.sqrt((0.5 + 2.0) / 2))
    assert estimate.reading.degrees_of_freedom == 2
    alone = scatter(pairs[::2])
    assert (alone.source, alone.reading.sd) == ("assumed", 9.0)
    assert alone.reading.degrees_of_freedom == math.inf


def test_repeats_and_points_of_one_size_are_one_estimate_and_else_two():
    """Readings ±0.1 about their means, which lie 0.05, −0.1, 0.05 beside a line: by hand."""

    def taken(beside: float) -> list[Pair]:
        return [
            point(10.0 * n, 10.0 * n + beside * off + noise)
            for n, off in enumerate((1.0, -2.0, 1.0))
            for noise in (-0.1, 0.1)
        ]

    near = scatter(taken(0.05))
    inside, left = 6 * 0.1**2, 2 * (0.05**2 + 0.1**2 + 0.05**2)
    assert (near.source, near.points) == ("pooled", None)
    assert near.reading.sd == pytest.approx(math.sqrt((inside + left) / 4))
    assert near.reading.degrees_of_freedom == 4
    far = scatter(taken(2.0))  # F is 2400, with 1 and 3 degrees of freedom
    assert far.source == "misfit"
    assert far.reading.sd == pytest.approx(math.sqrt(inside / 3))
    assert far.points is not None
    assert far.points.sd == pytest.approx(math.sqrt(2**2 + 4**2 + 2**2))
    assert far.points.degrees_of_freedom == 1
    assert far.line is far.points


def test_rows_of_one_estimate_count_as_one_in_the_degrees_of_freedom():
    """JCGM 100, G.4.1: 2.68 and 2.54 from one degree of freedom are 3.69 with one, not with two."""

    def row(value: float, estimate: str = "") -> BudgetRow:
        return BudgetRow(
            label="r", value=value, distribution="standard",
            degrees_of_freedom=1.0, estimate=estimate,
        )  # fmt: skip

    one = combine((row(2.68, "reading"), row(2.54, "reading")))
    assert one.effective_degrees_of_freedom == pytest.approx(1.0)
    assert one.factor == pytest.approx(12.706, abs=5e-4)
    assert combine((row(2.68), row(2.54))).effective_degrees_of_freedom > 1.9


SALT_AT = {"MgCl2": 33.0, "Mg(NO3)2": 54.0, "NaCl": 75.5, "KCl": 85.0}
ROOM = Conditions(gradient_k=0.1, drift_rh_pct_per_year=0.0)


def salt(medium: str, off: float, approach: str = "wetter", reference: float | None = None) -> Pair:
    """A pair of a probe that reads `off` too much."""
    at = SALT_AT[medium] if reference is None else reference
    return Pair(
        reference=at,
        reading=at + off,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=22.0,
        reference_expanded=0.3,
        medium=medium,
    )


def rows_of(fit) -> dict[str, float]:
    return {row.label: row.standard_uncertainty for row in fit.budget.rows}


def test_one_repeated_pair_does_not_hide_what_the_line_does_not_go_through():
    """Residuals of some %RH were signed at ±1.7, for one pair was repeated well."""
    bent = [salt("MgCl2", 0.0), salt("Mg(NO3)2", -4.0), salt("NaCl", 0.0)]
    again = [*bent, salt("NaCl", 0.0)]
    for pairs in (bent, again):
        fit = fit_humidity(pairs, ROOM)
        worst = max(abs(result.residual) for result in fit.fitted)
        assert worst > 2
        assert fit.expanded > worst
        assert "Points beside the line" in rows_of(fit)
    first, second = fit_humidity(bent, ROOM), fit_humidity(again, ROOM)
    assert second.expanded > first.expanded / math.sqrt(2)


def test_hysteresis_is_counted_once():
    """Both approaches 2 %RH apart at each salt, on one line: no misfit is left, only half of it."""
    pairs = [
        salt(medium, sign * 1.0, approach)
        for medium in ("MgCl2", "NaCl")
        for approach, sign in (("drier", 1), ("wetter", -1))
    ]
    fit = fit_humidity(pairs, ROOM)
    found = rows_of(fit)
    assert found["Hysteresis, drier to wetter"] == pytest.approx(1 / math.sqrt(3), rel=0.01)
    rest = math.sqrt(fit.budget.combined**2 - found["Hysteresis, drier to wetter"] ** 2)
    plain = fit_humidity([salt("MgCl2", 0.0), salt("NaCl", 0.0)], ROOM)
    own = SINGLE_DIRECTION_HYSTERESIS_RH_PCT / math.sqrt(3)
    assert rest < math.sqrt(plain.budget.combined**2 - own**2) + 1e-9


@pytest.mark.parametrize(("nu", "factor"), [(3.6, 2.90), (1.0, 12.71), (10.0, 2.23), (30.0, 2.04)])
def test_the_factor_is_that_of_95_per_cent(nu, factor):
    """Student's t at 0.975, from tables; for so many degrees of freedom as make no odds, 2."""
    row = BudgetRow(label="one", value=1.0, distribution="standard", degrees_of_freedom=nu)
    budget = combine((row,))
    assert budget.factor_95 == pytest.approx(factor, abs=0.005)
    assert budget.factor == (budget.factor_95 if factor > 2.05 else 2.0)
    assert budget.expanded == budget.factor * budget.combined
    endless = combine((BudgetRow(label="one", value=1.0, distribution="standard"),))
    assert endless.factor_95 == pytest.approx(1.96, abs=5e-4)
    assert endless.factor == 2.0


OFFS = st.lists(st.floats(-3, 3), min_size=3, max_size=4)


@given(OFFS, st.sampled_from(["drier", "wetter"]))
def test_repeating_every_pair_never_does_more_than_its_root(offs, approach):
    pairs = [salt(m, off, approach) for m, off in zip(SALT_AT, offs, strict=False)]
    once, twice = fit_humidity(pairs, ROOM), fit_humidity([*pairs, *pairs], ROOM)
    assert twice.budget.combined >= once.budget.combined / math.sqrt(2) - 1e-9


@given(OFFS, st.floats(4, 10), st.sampled_from([-1, 1]))
def test_a_pair_that_contradicts_the_others_never_narrows(offs, far, sign):
    """Another at the last salt, further off than all others are: pooled over three at most."""
    pairs = [salt(m, off) for m, off in zip(SALT_AT, offs, strict=False)]
    contrary = salt(list(SALT_AT)[len(offs) - 1], offs[-1] + sign * far)
    one, two = fit_humidity(pairs, ROOM), fit_humidity([*pairs, contrary], ROOM)
    assert two.budget.combined >= min(one.budget.combined, far / math.sqrt(6)) - 1e-9


@given(OFFS, st.randoms())
def test_the_order_of_pairs_changes_nothing(offs, chance):
    pairs = [salt(m, off) for m, off in zip(SALT_AT, offs, strict=False)]
    mixed = pairs[:]
    chance.shuffle(mixed)
    one, two = fit_humidity(pairs, ROOM), fit_humidity(mixed, ROOM)
    assert two.expanded == pytest.approx(one.expanded, rel=1e-9)
    assert two.line.slope == pytest.approx(one.line.slope, rel=1e-9)


def test_a_check_may_lie_off_by_both_doubts_combined_and_not_by_their_sum():
    """By the root of the squares (JCGM 100, k = 2): 3 and 4 make 5."""
    points = [point(0.0, 0.0, expanded=0.1), point(40.0, 40.0, expanded=0.1)]
    alone = fit_thermometer(points, ThermometerConditions())
    checked = fit_thermometer(
        [*points, point(20.0, 20.0, "check", expanded=4 / 3 * alone.expanded_at(20.0))],
        ThermometerConditions(),
    )
    limit = checked.check_limit(checked.checks[0])
    assert limit == pytest.approx(5 / 3 * checked.expanded_at(20.0))
    assert checked.expanded_at(20.0) < checked.expanded, "the line is surest in its middle"


def test_a_check_that_can_tell_nothing_shows_nothing():
    """±20 beside ±1 lay inside whatever the probe read; far off, it still shows a fault."""
    points = [point(0.0, 0.0), point(40.0, 40.0)]
    poor = fit_thermometer([*points, point(20.0, 25.0, "check", 20.0)], ThermometerConditions())
    assert poor.verdict == "not_shown"
    far = fit_thermometer([*points, point(20.0, 45.0, "check", 20.0)], ThermometerConditions())
    assert far.verdict == "fails"
    both = [*points, point(20.0, 25.0, "check", 20.0), point(20.0, 20.0, "check", 0.1)]
    assert fit_thermometer(both, ThermometerConditions()).verdict == "holds"


def test_an_outlier_is_named_against_the_fit_without_it():
    """Four good pairs and one 3.9 off: beside a fit that it widens to ±13 it lay inside."""
    good = [
        salt("MgCl2", 0.1, "drier"), salt("MgCl2", -0.1), salt("KCl", -0.1, "drier"),
        salt("KCl", 0.1), salt("NaCl", 0.0, "drier"),
    ]  # fmt: skip
    assert fit_humidity(good, ROOM).outliers == ()
    fit = fit_humidity([*good, salt("NaCl", -3.9)], ROOM)
    assert 6 in fit.outliers
    many = [*good, *[salt("Mg(NO3)2", 5.0 + 0.01 * n) for n in range(4)]]
    assert {6, 7, 8, 9} <= set(fit_humidity(many, ROOM).outliers), "repeats hide each other"


def test_u_grows_outside_the_range_as_the_plan_keeps_it():
    """Two salts at 33 and 75.5: by hand, s² (1/n + (x − x̄)²/Sxx) at the value."""
    pairs = [salt(m, off) for m in ("MgCl2", "NaCl") for off in (0.2, -0.2, 0.0)]
    fit = fit_humidity(pairs, ROOM)
    line = new_calibration(fit, 1)
    assert line.expanded_at(50.0) == line.expanded_uncertainty == round(fit.expanded, 2)
    s = math.sqrt(4 * 0.2**2 / 4)
    more = s**2 * ((95 - 54.25) ** 2 - (75.5 - 54.25) ** 2) / (6 * 21.25**2)
    by_hand = fit.budget.factor * math.sqrt(fit.budget.combined**2 + more)
    assert line.expanded_at(95.0) == pytest.approx(by_hand, rel=0.01)
    assert line.expanded_at(95.0) == pytest.approx(fit.expanded_at(95.0), rel=0.02)
    assert (line.is_outside(95.0), line.is_outside(60.0)) == (True, False)
