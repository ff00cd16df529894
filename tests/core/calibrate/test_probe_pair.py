"""Two probes against one another: reference values, and what is common cancels."""

import math

import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.probe_pair import compare_pair


@drawn(
    common=st.floats(0, 3),
    more=st.floats(0, 3),
    own=st.tuples(st.floats(0.01, 2), st.floats(0.01, 2)),
    pairs=st.lists(st.tuples(st.floats(-20, 90), st.floats(-20, 90)), min_size=3, max_size=12),
)
def test_a_worse_reference_leaves_nothing_in_a_difference(common, more, own, pairs):
    def of(expanded, rows):
        return compare_pair(
            rows, expanded_common_k=expanded, expanded_own_1_k=own[0], expanded_own_2_k=own[1]
        )

    good, bad = of(common, pairs), of(common + more, pairs)
    assert bad.u_k == pytest.approx(good.u_k, abs=1e-9)
    assert bad.u_uncorrelated_k >= good.u_uncorrelated_k - 1e-12
    turned = of(common, [(b, a) for a, b in pairs])
    assert turned.mean_k == pytest.approx(-good.mean_k, abs=1e-9)


@pytest.mark.parametrize("pairs", [[], [(20.0, 20.1)] * 2, [(20.0, math.nan)] * 5])
def test_too_little_is_refused(pairs):
    with pytest.raises(CalibrationError, match="3 pairs"):
        compare_pair(pairs, expanded_common_k=0.1, expanded_own_1_k=0.1, expanded_own_2_k=0.1)
