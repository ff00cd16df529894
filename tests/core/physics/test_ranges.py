"""Formulas outside their range of validity."""

import math

import pytest

from aldea.core.base.errors import InputError
from aldea.core.base.limits import ABOVE_ZERO, FINITE, INNER_SHARE, SHARE, ZERO_OR_MORE
from aldea.core.calibrate.addresses import checksum
from aldea.core.calibrate.light import law_of
from aldea.core.calibrate.multiplexer import settling_of
from aldea.core.calibrate.presence_hold import hold_of
from aldea.core.calibrate.tape import exceeds_1, run_1
from aldea.core.devices.sensors.light_resistor.law import (
    photoresistor_lux,
    photoresistor_ohm,
)
from aldea.core.devices.sensors.thermistor.law import (
    thermistor_degc,
    thermistor_ohm,
)
from aldea.core.physics.bus import fitting_pull_ohm
from aldea.core.physics.cable import cable_drop, ohm_per_km
from aldea.core.physics.divider import source_ohm
from aldea.core.physics.driver import base_resistor
from aldea.core.physics.level import (
    best_lower_ohm,
)
from aldea.core.physics.memory_life import slots_for
from aldea.core.physics.moist_air import dew_point_degc
from aldea.core.physics.sound import (
    sound_m_per_s,
)
from aldea.core.physics.steps import step_of_percent
from aldea.core.physics.water import pressure_at_pa


def test_what_is_outside_its_range_is_refused():
    for wrong in (
        lambda: thermistor_ohm(-300, r25_ohm=1e4, beta_k=3950),
        lambda: thermistor_degc(0, r25_ohm=1e4, beta_k=3950),
        lambda: photoresistor_ohm(0, r10_ohm=1e4, gamma_1=0.7),
        lambda: photoresistor_lux(-1, r10_ohm=1e4, gamma_1=0.7),
        lambda: sound_m_per_s(200),
        lambda: base_resistor(coil_a=0.1, drive_v=0.5, pin_limit_a=0.01),
        lambda: best_lower_ohm(
            upper_ohm=1e4, tolerance_1=0.01, input_v=3, input_tolerance_1=0, limit_v=5
        ),
    ):
        with pytest.raises(InputError) as refused:
            wrong()
        assert refused.value.allowed
    assert source_ohm(1e4, 1e4) == 5000


@pytest.mark.parametrize(
    "wrong",
    [
        lambda: fitting_pull_ohm(0.0, 1e-6),
        lambda: ohm_per_km(0.0),
        lambda: cable_drop(length_m=1, ohm_per_km=36, current_a=1, supply_v=0),
        lambda: cable_drop(length_m=math.nan, ohm_per_km=36, current_a=1, supply_v=5),
        lambda: source_ohm(-1e3, 1e3),
        lambda: slots_for(10, 0, 5),
        lambda: step_of_percent(math.inf, 4),
        lambda: step_of_percent(50, 0),
        lambda: pressure_at_pa(100, -300),
        lambda: dew_point_degc(-20, 0.1),
        lambda: dew_point_degc(20, math.nan),
        lambda: law_of((0.0, 10.0), (1e4, 1e3)),
        lambda: law_of((10.0, 100.0), (15.0, 3.0)),
        lambda: hold_of([1.0, 2.0], false_1=1.0, confidence_1=0.95),
        lambda: run_1(0.1, 0, 100),
        lambda: exceeds_1(1.0, 0.0, 4),
        lambda: settling_of([1, 2, 3], [1, 2], within=1),
        lambda: checksum("x"),
    ],
)
def test_what_has_no_answer_is_refused_in_words(wrong):
    """Never by a division, a logarithm, or an answer that is no number."""
    with pytest.raises(InputError) as refused:
        wrong()
    assert refused.value.allowed
    assert "finite" in refused.value.allowed or any(c.isdigit() for c in refused.value.sentence)


def test_limits_say_their_range():
    words = [limit.words for limit in (ABOVE_ZERO, ZERO_OR_MORE, INNER_SHARE, SHARE, FINITE)]
    assert words == ["above 0", "0 or more", "between 0 and 1", "from 0 to 1", "a finite number"]
    with pytest.raises(InputError, match=r"section: Enter a value above 0, not 0"):
        ohm_per_km(0.0)
