"""Figures as they are written."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.figures import figure, signed


@given(st.floats(-1e6, 1e6), st.integers(0, 3))
def test_figures_have_a_true_minus_and_no_minus_zero(value, places):
    text = figure(value, places)
    assert "-" not in text
    assert float(text.replace("−", "-")) == pytest.approx(value, abs=0.51 * 10**-places)
    assert not text.startswith("−0") or any(c in "123456789" for c in text)
    assert signed(value, places).lstrip("+") == text
