"""The supply that was assumed wrongly is found by the supply detective."""

import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.calibrate.detective import Assumptions, investigate


@adaptor("mismatch")
def the_wrong_supply_is_named(case):
    """The error agrees, and the culprit is found; only where the reference is a fixed one."""
    if given(case, "reference") != "fixed":
        return
    supply_v = given(case, "supply_real")
    real = Assumptions(
        side=given(case, "wiring"),
        fixed_ohm=float(given(case, "r_fixed")),
        supply_v=supply_v,
        reference_v=3.3,
        bits=16,
        r25_ohm=float(given(case, "ntc_r25")),
        beta_k=float(given(case, "ntc_beta")),
    )
    temp = given(case, "true_temperature")
    assumed = real.having("supply_v", given(case, "supply_assumed_by_firmware"))
    found = investigate(real.counts(temp), temp, expanded_k=0.2, assumed=assumed)
    supply = next(s for s in found.suspects if s.key == "supply_v")
    assert supply.usual == f"{supply_v:g} V"
    assert supply.explains
    assert supply.left_k == pytest.approx(0, abs=1e-6)
    if case["expected"]["t_error"]["value"] is None:
        assert found.error_k is None
    else:
        assert found.error_k is not None
        assert agrees(case, "t_error", found.error_k)
