"""The second stage of a certificate, by hand."""

import pytest

from aldea.core.calibrate.in_place import InPlace


@pytest.mark.parametrize(("corrected", "holds"), [(60.4, True), (60.51, False), (59.49, False)])
def test_in_place_both_uncertainties_count(corrected, holds):
    """Of ±0.3 and ±0.4 it may be ±0.5 off."""
    found = InPlace(reference=60.0, reference_expanded=0.4, corrected=corrected, expanded=0.3)
    assert found.allowed == pytest.approx(0.5)
    assert found.off == pytest.approx(corrected - 60.0)
    assert found.holds == holds
