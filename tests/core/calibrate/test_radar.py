"""Radar gates and hold times: reference values, and laws of thresholds."""

import math

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.presence_hold import hold_of
from aldea.core.calibrate.radar import gates_of


@drawn(
    gaps=st.lists(st.floats(0, 3600), min_size=1, max_size=80),
    false=st.floats(0.01, 0.5),
    confidence=st.floats(0.5, 0.99),
)
def test_a_hold_keeps_its_promise_on_its_own_gaps(gaps, false, confidence):
    hold = hold_of(gaps, false_1=false, confidence_1=confidence)
    assert hold.false_offs <= false * len(gaps) + 1e-6
    if hold.bound_s is None:
        assert len(gaps) < hold.needed
    else:
        assert hold.bound_s >= hold.hold_s
    patient = hold_of(gaps, false_1=false / 2, confidence_1=confidence)
    assert patient.hold_s >= hold.hold_s


def room(seed, middle, rows=400, gates=8):
    return np.random.default_rng(seed).gamma(4.0, middle / 4.0, (rows, gates))


@drawn(seed=st.integers(0, 10_000), quantile=st.floats(0.5, 1.0), margin=st.floats(0, 20))
def test_thresholds_keep_the_share_that_was_asked(seed, quantile, margin):
    empty, occupied = room(seed, 10), room(seed + 1, 60)
    found = gates_of(empty, occupied, quantile_1=quantile, margin=margin)
    assert all(gate.false_1 <= 1 - quantile + 1e-9 for gate in found.gates)
    wider = gates_of(empty, occupied, quantile_1=quantile, margin=margin + 5)
    for narrow, wide in zip(found.gates, wider.gates, strict=True):
        assert wide.false_1 <= narrow.false_1
        assert wide.missed_1 >= narrow.missed_1
    assert found.missed_1 <= min(gate.missed_1 for gate in found.gates) + 1e-12
    assert found.false_1 >= max(gate.false_1 for gate in found.gates) - 1e-12


def test_the_whole_empty_room_below_its_thresholds():
    empty = room(1, 10)
    found = gates_of(empty, room(2, 60), quantile_1=1.0, margin=0)
    assert found.false_1 == 0
    assert [gate.threshold for gate in found.gates] == empty.max(axis=0).tolist()


@pytest.mark.parametrize(
    ("empty", "occupied", "said"),
    [
        (room(1, 10, rows=5), room(2, 60), "20 or more"),
        (room(1, 10), room(2, 60, rows=0), "20 or more"),
        (room(1, 10), room(2, 60, gates=7), "the same number"),
        (room(1, 10, gates=17), room(2, 60, gates=17), "up to 16"),
        (room(1, 10) - 50, room(2, 60), "0 or more"),
        (np.full((30, 8), math.nan), room(2, 60), "0 or more"),
    ],
)
def test_recordings_that_cannot_be_compared_are_refused(empty, occupied, said):
    with pytest.raises(CalibrationError) as refused:
        gates_of(empty, occupied, quantile_1=0.99, margin=0)
    assert said in refused.value.sentence
    with pytest.raises(CalibrationError):
        hold_of([], false_1=0.1, confidence_1=0.9)
