"""Cells that leave the product: no formula, and every number a number."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.numbers import number_of
from aldea.formats.cells import safe_cell


@pytest.mark.parametrize("text", ["=1+1", "+A1", "-A1", "-1+1", "@x", "\tx", "\r=1"])
def test_no_cell_is_a_formula(text):
    assert safe_cell(text) == f"'{text}"


@given(st.floats(-1e6, 1e6))
def test_a_number_stays_a_number_below_zero_too(value):
    """-3.2000 left as text is lost to every other program."""
    text = f"{value:.4f}"
    assert safe_cell(text) == text
    assert number_of(text) == float(text)
