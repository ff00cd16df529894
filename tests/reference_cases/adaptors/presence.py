"""Radar gates and hold times: reference values, and laws of thresholds."""

from tests.reference_cases.cases import adaptor, given

from aldea.core.calibrate.presence_hold import hold_of


@adaptor("hold")
def the_hold_time_is_an_order_statistic_with_its_bound(case):
    wanted = {key: row["value"] for key, row in case["expected"].items()}
    hold = hold_of(
        given(case, "gaps"),
        false_1=given(case, "allowed_false_share"),
        confidence_1=given(case, "confidence"),
    )
    assert hold.hold_s == wanted["hold_time"]
    assert hold.order == wanted["order_statistic"]
    assert hold.false_offs == wanted["false_offs_in_sample"]
    assert hold.bound_s == wanted["upper_bound_hold_time"]
    assert hold.bound_order == wanted["upper_bound_order_statistic"]
    assert hold.needed == wanted["gaps_needed_for_a_bound"]
