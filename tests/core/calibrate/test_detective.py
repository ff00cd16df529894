"""The supply detective: one known temperature, and which wrong assumption explains the reading."""

from dataclasses import replace

import pytest
from hypothesis import assume
from hypothesis import given as prop
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.detective import (
    USUAL_BETAS_K,
    USUAL_BITS,
    USUAL_REFERENCES_V,
    USUAL_SUPPLIES_V,
    Assumptions,
    investigate,
    shift_k,
)

USUAL = {
    "supply_v": USUAL_SUPPLIES_V,
    "reference_v": USUAL_REFERENCES_V,
    "beta_k": USUAL_BETAS_K,
    "bits": USUAL_BITS,
    "fixed_ohm": (4700.0, 8200.0, 10_000.0, 12_000.0, 22_000.0),
    "side": ("sensor_low", "sensor_high"),
}
PLAIN = Assumptions(
    side="sensor_low",
    fixed_ohm=10_000.0,
    supply_v=3.3,
    reference_v=3.3,
    bits=12,
    r25_ohm=10_000.0,
    beta_k=3950.0,
)


@prop(
    key=st.sampled_from(sorted(USUAL)),
    pick=st.integers(0, 6),
    temp=st.floats(-10, 60),
)
def test_whatever_usual_thing_was_wrong_is_among_those_that_explain(key, pick, temp):
    options = USUAL[key]
    real = PLAIN.having(key, options[pick % len(options)])
    assume(real != PLAIN)
    assume(key != "beta_k" or abs(temp - 25) > 2)
    counts = real.counts(temp)
    assume(0 < counts < 2**PLAIN.bits - 1)
    found = investigate(counts, temp, expanded_k=0.1, assumed=PLAIN)
    culprit = next((s for s in found.suspects if s.key == key), None)
    if culprit is None:  # the reading is beyond the divider: only its feeds can have been wrong
        assert found.reads_degc is None
        return
    assert culprit.explains
    assert culprit.instead == real
    left = [abs(s.left_k) for s in found.suspects if s.left_k is not None]
    assert left == sorted(left), "the least unexplained comes first"


@prop(temp=st.floats(-10, 60))
def test_a_right_reading_has_no_culprit_to_look_for(temp):
    found = investigate(PLAIN.counts(temp), temp, expanded_k=0.1, assumed=PLAIN)
    assert found.innocent
    assert found.error_k == pytest.approx(0, abs=1e-6)


@pytest.mark.parametrize(
    ("supply_v", "reference_v", "side", "counts", "told"),
    [
        (3.3, 3.3, "sensor_low", 4095, "is open"),
        (3.3, 3.3, "sensor_low", 0, "is shorted"),
        (3.3, 3.3, "sensor_high", 0, "is open"),
        (3.3, 3.3, "sensor_high", 4095, "is shorted"),
        (3.0, 3.3, "sensor_low", 3723, "is open"),  # 4095 · 3.0 / 3.3 = 3722.7
        (3.0, 3.3, "sensor_high", 3722, "is shorted"),
        (5.0, 3.3, "sensor_low", 4095, "at its full scale"),
        (5.0, 3.3, "sensor_high", 4095, "at its full scale"),
        (5.0, 3.3, "sensor_high", 0, "is open"),
        (3.3, 3.3, "sensor_low", 5000, "cannot give that"),
        (3.3, 3.3, "sensor_low", -3, "cannot give that"),
    ],
)
def test_an_end_of_the_scale_is_no_assumption(supply_v, reference_v, side, counts, told):
    """Unplugged is told from shorted and from a saturated converter, whatever feeds what."""
    assumed = replace(PLAIN, supply_v=supply_v, reference_v=reference_v, side=side)
    with pytest.raises(CalibrationError, match=told):
        investigate(counts, 20, expanded_k=0.3, assumed=assumed)


def test_counts_that_the_divider_cannot_give_are_looked_into():
    """Of a 3.0 V supply that is really 3.3 V: −25 °C lies above its top."""
    real = replace(PLAIN, supply_v=3.3, reference_v=3.3)
    counts = real.counts(-25)
    found = investigate(counts, -25, expanded_k=0.3, assumed=replace(real, supply_v=2.5))
    assert found.reads_degc is None
    assert [s.key for s in found.suspects if s.explains]


def test_a_resistor_of_the_finer_series_is_named():
    """10.2 kΩ is of E96: with E24's 10 kΩ the rest would not be explained."""
    real = replace(PLAIN, fixed_ohm=10_200.0)
    assumed = replace(PLAIN, fixed_ohm=12_000.0)
    found = investigate(real.counts(5), 5, expanded_k=0.05, assumed=assumed)
    culprit = next(s for s in found.suspects if s.key == "fixed_ohm")
    assert culprit.instead.fixed_ohm == pytest.approx(10_200)
    assert culprit.explains


def test_what_a_correction_moves():
    assert shift_k(PLAIN, PLAIN, 20) == pytest.approx(0)
    moved = shift_k(PLAIN, PLAIN.having("fixed_ohm", 8200.0), 20)
    assert moved == pytest.approx(4.3, abs=0.3)
    assert shift_k(PLAIN, PLAIN.having("supply_v", 1.0), -10) is None
