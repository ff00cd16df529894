"""Two probes against one another: reference values, and what is common cancels."""

import math

from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.calibrate.probe_pair import compare_pair, correlation_of, u_difference


@adaptor("deltat")
def a_difference_by_its_correlation(case):
    u = u_difference(given(case, "u1"), given(case, "u2"), given(case, "correlation"))
    assert agrees(case, "u_difference", u)
    assert agrees(case, "U_k2", 2 * u)


@adaptor("deltacommon")
def what_is_common_cancels(case):
    common = given(case, "u_reference_common")
    own_1, own_2 = given(case, "u_own_probe1"), given(case, "u_own_probe2")
    assert agrees(case, "u_probe1", math.hypot(common, own_1))
    assert agrees(case, "correlation", correlation_of(common, own_1, own_2))
    found = compare_pair(
        [(given(case, "t1"), given(case, "t2"))] * 3,
        expanded_common_k=2 * common,
        expanded_own_1_k=2 * own_1,
        expanded_own_2_k=2 * own_2,
    )
    assert agrees(case, "u_difference", found.u_k)
    assert agrees(case, "U_k2", found.expanded_k)
    assert found.u_uncorrelated_k > found.u_k
