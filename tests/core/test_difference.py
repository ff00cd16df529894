"""Two probes against one another: reference values, and what is common cancels."""

import math

import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st
from tests.reference import agrees, cases, given

from aldea.core.calibrate.difference import correlation_of, difference_of, u_difference
from aldea.core.errors import CalibrationError


def ids(case):
    return case["id"]


@pytest.mark.parametrize("case", cases("deltat"), ids=ids)
def test_a_difference_by_its_correlation(case):
    u = u_difference(given(case, "u1"), given(case, "u2"), given(case, "correlation"))
    assert agrees(case, "u_difference", u)
    assert agrees(case, "U_k2", 2 * u)


@pytest.mark.parametrize("case", cases("deltacommon"), ids=ids)
def test_what_is_common_cancels(case):
    common = given(case, "u_reference_common")
    own_1, own_2 = given(case, "u_own_probe1"), given(case, "u_own_probe2")
    assert agrees(case, "u_probe1", math.hypot(common, own_1))
    assert agrees(case, "correlation", correlation_of(common, own_1, own_2))
    found = difference_of(
        [(given(case, "t1"), given(case, "t2"))] * 3,
        expanded_common_k=2 * common,
        expanded_own_1_k=2 * own_1,
        expanded_own_2_k=2 * own_2,
    )
    assert agrees(case, "u_difference", found.u_k)
    assert agrees(case, "U_k2", found.expanded_k)
    assert found.u_uncorrelated_k > found.u_k


@drawn(
    common=st.floats(0, 3),
    more=st.floats(0, 3),
    own=st.tuples(st.floats(0.01, 2), st.floats(0.01, 2)),
    pairs=st.lists(st.tuples(st.floats(-20, 90), st.floats(-20, 90)), min_size=3, max_size=12),
)
def test_a_worse_reference_leaves_nothing_in_a_difference(common, more, own, pairs):
    def of(expanded, rows):
        return difference_of(
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
        difference_of(pairs, expanded_common_k=0.1, expanded_own_1_k=0.1, expanded_own_2_k=0.1)
