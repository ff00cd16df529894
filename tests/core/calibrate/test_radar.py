"""Radar gates and hold times: reference values, and laws of thresholds."""

import math

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.presence_hold import hold_of
from aldea.core.calibrate.radar import gates_of
from aldea.core.calibrate.share import Share


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
def test_a_wider_margin_mistakes_less_and_misses_more(seed, quantile, margin):
    empty, occupied = room(seed, 10), room(seed + 1, 60)
    found = gates_of(empty, occupied, quantile_1=quantile, margin=margin)
    bare = gates_of(empty, occupied, quantile_1=quantile, margin=0)
    set_here = [(empty[:, i] > gate.threshold).mean() for i, gate in enumerate(bare.gates)]
    assert max(set_here) <= 1 - quantile + 1e-9
    wider = gates_of(empty, occupied, quantile_1=quantile, margin=margin + 5)
    for narrow, wide in zip(found.gates, wider.gates, strict=True):
        assert wide.false.count <= narrow.false.count
        assert wide.missed.count >= narrow.missed.count
    assert found.missed.count <= min(gate.missed.count for gate in found.gates)
    assert found.false.count >= max(gate.false.count for gate in found.gates)


def test_the_empty_room_is_tried_by_thresholds_that_it_did_not_set():
    """The highest of each half stands above all of the other half once, or not at all."""
    empty = room(1, 10)
    found = gates_of(empty, room(2, 60), quantile_1=1.0, margin=0)
    assert [gate.threshold for gate in found.gates] == empty.max(axis=0).tolist()
    assert not (empty > [gate.threshold for gate in found.gates]).any(), "by its own: nothing"
    assert all(gate.false.count >= 1 for gate in found.gates)
    moved = np.concatenate([np.full((30, 8), 5.0), np.full((30, 8), 9.0)])
    later = gates_of(moved, room(2, 60), quantile_1=1.0, margin=0)
    assert later.false.count == 30, "what is only in the second half is seen"


@pytest.mark.parametrize(
    ("count", "of", "most"),
    [(0, 120, 1 - 0.05 ** (1 / 120)), (0, 3, 0.6316), (1, 20, 0.2161), (5, 100, 0.1023)],
)
def test_a_share_is_a_bound(count, of, most):
    """0 of n: 1 − 0.05^(1/n); others from tables of Clopper and Pearson, one-sided 95 %."""
    share = Share(count=count, of=of)
    assert share.at_most_1 == pytest.approx(most, abs=2e-4)
    # By its meaning: at that share so few are seen in one of twenty trials.
    seen = sum(math.comb(of, k) * most**k * (1 - most) ** (of - k) for k in range(count + 1))
    assert seen == pytest.approx(0.05, abs=2e-3)
    assert Share(count=of, of=of).at_most_1 == 1.0


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
