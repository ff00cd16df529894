"""Figures as they are written."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.figures import GAP, as_typed, figure, places_of, short, signed, thousands


@given(st.floats(-1e6, 1e6), st.integers(0, 3))
def test_figures_have_a_true_minus_and_no_minus_zero(value, places):
    text = figure(value, places)
    assert "-" not in text
    assert float(text.replace("−", "-").replace(GAP, "")) == pytest.approx(
        value, abs=0.51 * 10**-places
    )
    assert not text.startswith("−0") or any(c in "123456789" for c in text)
    assert signed(value, places).lstrip("+") == text


def test_thousands_stand_apart_from_five_figures_on():
    assert [figure(value, 0) for value in (1234, 12345, -1234567)] == [
        "1234",
        f"12{GAP}345",
        f"−1{GAP}234{GAP}567",
    ]
    assert figure(12345.678, 2) == f"12{GAP}345.68"
    assert (short(15000.0), short(math.inf), figure(math.nan)) == (f"15{GAP}000", "inf", "–")


@pytest.mark.parametrize(
    ("value", "told"),
    [
        (62.0, "62"),
        (-0.25, "−0.25"),
        (1e6, f"1{GAP}000{GAP}000"),
        (-1e-7, "−0.0000001"),
        (1234.567, "1234.57"),
    ],
)
def test_a_short_figure_has_six_digits_and_no_exponent(value, told):
    assert short(value) == told


@given(st.floats(-1e9, 1e9).map(lambda value: float(f"{value:.9g}")))
def test_what_a_form_field_holds_reads_back_as_what_was_typed(value):
    text = as_typed(value)
    assert "e" not in text
    assert float(text.replace("−", "-").replace(GAP, "")) == value


def test_thousands_stand_apart_and_never_break():
    assert thousands(1048576) == "1\u202f048\u202f576"
    assert thousands(-12345.4) == "−12\u202f345"


@pytest.mark.parametrize(
    ("resolution", "told"),
    [(10.0, "1906"), (1.0, "1906"), (0.5, "1906.2"), (0.1, "1906.2"), (0.0625, "1906.2"),
     (0.01, "1906.25"), (0.005, "1906.25"), (0.001, "1906.250")],
)  # fmt: skip
def test_a_reading_is_told_to_the_step_that_its_probe_can_tell(resolution, told):
    assert figure(1906.25, places_of(resolution)) == told
