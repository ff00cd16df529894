"""Formulas outside their range of validity."""

import pytest

from aldea.core.base.errors import InputError
from aldea.core.devices.sensors.light_resistor.law import (
    photoresistor_lux,
    photoresistor_ohm,
)
from aldea.core.devices.sensors.thermistor.law import (
    thermistor_degc,
    thermistor_ohm,
)
from aldea.core.physics.divider import source_ohm
from aldea.core.physics.driver import base_resistor
from aldea.core.physics.level import (
    best_lower_ohm,
)
from aldea.core.physics.sound import (
    sound_m_per_s,
)


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
