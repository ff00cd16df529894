"""Standard resistors."""

from hypothesis import given
from hypothesis import strategies as st

from aldea.core.physics.resistors import below_ohm, nearest_ohm, series_ohm


@given(st.floats(1.0, 1e7))
def test_standard_resistors_are_nearest_in_ratio_and_never_above(ohm):
    values = series_ohm("E24")
    near = nearest_ohm(ohm)
    assert max(near / ohm, ohm / near) <= min(max(v / ohm, ohm / v) for v in values) + 1e-12
    assert below_ohm(ohm) <= ohm * (1 + 1e-9)
