"""States of a leak tape."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.leak_tape.states import leak_states
from aldea.core.physics.divider import Divider


@given(
    end=st.floats(1e4, 1e6) | st.none(),
    wet=st.floats(1e3, 9e4),
    fixed=st.floats(1e4, 1e6),
)
def test_leak_states_have_no_hole_and_no_overlap(end, wet, fixed):
    tape = LeakTape(end_of_line_ohm=end, wet_ohm=wet, fixed_ohm=fixed)
    divider = Divider(
        side="sensor_high", fixed_ohm=fixed, supply_v=3.3, reference_v=3.3, full_scale_counts=4095
    )
    states = leak_states(tape, divider)
    assert states[0].low_ohm == 0
    assert states[-1].high_ohm == float("inf")
    for before, after in pairwise(states):
        assert before.high_ohm == after.low_ohm
        assert before.low_ohm <= before.high_ohm
        assert before.high_counts == pytest.approx(after.low_counts)
    assert ("open" in {s.name for s in states}) == (end is not None)
