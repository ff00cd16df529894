"""States of a leak tape."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.tape import baseline_of, check_steady
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.leak_tape.states import (
    check_dry,
    leak_states,
    settling_s,
    tape_edges,
)
from aldea.core.physics.divider import Divider, Side


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


def made(side: Side = "sensor_high", **facts: object) -> tuple[LeakTape, Divider]:
    tape = LeakTape.model_validate({"side": side, **facts})
    divider = Divider(
        side=side,
        fixed_ohm=tape.fixed_ohm,
        supply_v=3.3,
        reference_v=3.3,
        full_scale_counts=4095,
    )
    return tape, divider


@pytest.mark.parametrize("side", ["sensor_high", "sensor_low"])
@given(counts=st.floats(1, 4094), wet=st.floats(1e3, 9e4), damp=st.floats(1e5, 4e5))
def test_circuits_bench_and_plan_name_one_state_at_every_reading(side, counts, wet, damp):
    """The table of Circuits and the edges of bench and plan agree, whichever way it reads."""
    tape, divider = made(side, wet_ohm=wet, damp_ohm=damp)
    edges = tape_edges(tape, divider)
    states = leak_states(tape, divider)
    for at in (counts, edges.damp_at, edges.wet_at, edges.short_at, edges.open_at):
        assert at is not None
        named = edges.state_of(at)
        row = next(s for s in states if s.name == named)
        low, high = sorted((row.low_counts, row.high_counts))
        assert low - 1e-6 <= at <= high + 1e-6
    assert edges.state_of(divider.counts(wet)) == "wet", "an edge belongs to the alarm"
    assert edges.state_of(divider.counts(damp)) == "damp"
    assert edges.state_of(divider.counts(430e3)) == "dry"
    assert edges.state_of(divider.counts(100.0)) == "short"


def test_a_new_baseline_moves_percent_and_leaves_ohms_where_they_are():
    percent, divider = made(thresholds="percent", baseline_counts=2100.0)
    moved = percent.model_copy(update={"baseline_counts": 2000.0})
    assert tape_edges(percent, divider).damp_at == pytest.approx(2100 * 1.05)
    assert tape_edges(moved, divider).damp_at == pytest.approx(2000 * 1.05)
    low, low_divider = made("sensor_low", thresholds="percent", baseline_counts=2000.0)
    assert tape_edges(low, low_divider).wet_at == pytest.approx(2000 * 0.8)
    in_ohms, divider = made(baseline_counts=2100.0, wet_ohm=60e3)
    again = in_ohms.model_copy(update={"baseline_counts": 2000.0})
    assert tape_edges(in_ohms, divider).wet_at == tape_edges(again, divider).wet_at


@pytest.mark.parametrize(
    ("counts", "why"),
    [(2139.0, ""), (1960.0, ""), (1500.0, "Unplugged"), (2600.0, "Half wet"), (0.0, "Unplugged")],
)
def test_a_baseline_is_one_that_the_far_end_allows(counts, why):
    """470 kΩ beside a dry tape is 365 to 494 kΩ, five percent more with the fixed resistor."""
    tape, divider = made()
    if not why:
        check_dry(tape, divider, counts)
        return
    with pytest.raises(CalibrationError, match=why):
        check_dry(tape, divider, counts)


def test_a_baseline_that_scatters_or_drifts_is_none():
    check_steady(baseline_of([2100.0, 2101.0] * 10))
    with pytest.raises(CalibrationError, match="loose contact"):
        check_steady(baseline_of([2100.0, 1700.0] * 10))
    with pytest.raises(CalibrationError, match="still drying"):
        check_steady(baseline_of([2100.0 + 10 * n for n in range(20)]))


def test_an_input_capacitor_is_part_of_the_time_to_the_alarm():
    """235 kΩ and 100 nF: 4.6 times 23.5 ms."""
    tape, _ = made(input_nf=100.0)
    assert settling_s(tape) == pytest.approx(4.605 * 235e3 * 100e-9)
    assert settling_s(tape.model_copy(update={"input_nf": 0.0})) == 0.0
