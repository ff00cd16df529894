"""The humidity bench: line, budget, verdict, and what it refuses."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.humidity import Conditions, fit_humidity
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.salts import SALTS, salt_rh_pct
from aldea.demo.load import CHECK, JARS


def pair(salt: str, approach: str, reading: float, temp: float = 20.0) -> Pair:
    return Pair(
        reference=salt_rh_pct(salt, temp),
        reading=reading,
        approach=approach,  # type: ignore[arg-type]
        temp_degc=temp,
        reference_expanded=SALTS[salt].expanded_uncertainty_rh_pct,
        medium=salt,
    )


def check(reference: float, reading: float) -> Pair:
    return Pair(
        reference=reference,
        reading=reading,
        approach="check",
        temp_degc=20.0,
        reference_expanded=1.0,
    )


DEMO = [pair(salt, approach, r) for salt, approach, readings in JARS for r in readings]


@settings(deadline=None)
@given(
    slope=st.floats(0.7, 1.4),
    intercept=st.floats(-8, 8),
    noise=st.lists(st.floats(-0.4, 0.4), min_size=8, max_size=8),
)
def test_a_line_put_into_the_readings_is_found_again(slope, intercept, noise):
    taken = [
        pair(p.medium or "", p.approach, (p.reference - intercept) / slope + e)
        for p, e in zip(DEMO, noise, strict=True)
    ]
    fit = fit_humidity(taken, Conditions())
    assert fit.line.slope == pytest.approx(slope, abs=0.05)
    for p in taken:
        assert abs(fit.line.at(p.reading) - p.reference) < 1.0


def test_the_demo_pairs_hold_with_their_check():
    fit = fit_humidity([*DEMO, check(CHECK[0], CHECK[1])], Conditions())
    assert fit.verdict == "holds"
    assert fit.line.n == 8, "a check pair is never fitted"
    assert 1.0 < fit.expanded < 1.8


def test_without_a_check_the_line_is_not_shown_and_a_bad_check_fails_it():
    assert fit_humidity(DEMO, Conditions()).verdict == "not_shown"
    assert fit_humidity([*DEMO, check(54.8, 60.0)], Conditions()).verdict == "fails"


@given(st.floats(0.1, 4), st.floats(0, 5))
def test_more_doubt_never_makes_a_better_certificate(gradient_k, drift):
    base = fit_humidity(DEMO, Conditions()).expanded
    worse = fit_humidity(
        DEMO, Conditions(gradient_k=0.2 + gradient_k, drift_rh_pct_per_year=0.5 + drift)
    )
    assert worse.expanded > base


def test_one_direction_assumes_hysteresis_and_says_that_it_is_stated():
    fit = fit_humidity([p for p in DEMO if p.approach == "drier"], Conditions())
    row = next(r for r in fit.budget.rows if r.label.startswith("Hysteresis"))
    assert row.ground == "stated"
    assert row.value == 1.0


@pytest.mark.parametrize(
    ("taken", "fix"),
    [
        ([], "second salt"),
        ([DEMO[0], DEMO[2]], "second salt"),
        ([pair("sodium_chloride", "drier", 74), pair("potassium_chloride", "drier", 83)], "short"),
        ([pair("magnesium_chloride", "drier", 40), pair("sodium_chloride", "drier", 40)], "Record"),
        (
            [pair("magnesium_chloride", "drier", 75), pair("sodium_chloride", "drier", 33)],
            "wrong salt",
        ),
    ],
)
def test_pairs_that_carry_no_line_are_refused_with_the_fix(taken, fix):
    with pytest.raises(CalibrationError) as refused:
        fit_humidity(taken, Conditions())
    assert fix in refused.value.fix


def test_a_salt_is_refused_outside_its_range():
    with pytest.raises(CalibrationError, match="0 to 30"):
        salt_rh_pct("potassium_carbonate", 35.0)
    with pytest.raises(CalibrationError, match="salt"):
        salt_rh_pct("table_salt", 20.0)
