"""Distance by echo: the speed of sound in dry air follows the air's temperature."""

import math

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short
from aldea.core.base.limits import ABOVE_ZERO, AIR_DEGC, HUMID, takes
from aldea.core.physics.moist_air import KELVIN_AT_ZERO_DEGC

SPEED_AT_ZERO_M_PER_S = 331.3


def sound_m_per_s(temp_degc: float) -> float:
    """Speed of sound in dry air, m/s: 331.3 · √(1 + t/273.15); −40 to 80 °C."""
    if not -40 <= temp_degc <= 80:
        raise InputError("air temperature", got=f"{short(temp_degc)} °C", allowed="−40 to 80 °C")
    return SPEED_AT_ZERO_M_PER_S * math.sqrt(1 + temp_degc / KELVIN_AT_ZERO_DEGC)


def echo_distance_m(echo_s: float, temp_degc: float) -> float:
    """Distance for the time there and back, m."""
    return sound_m_per_s(temp_degc) * echo_s / 2


def uncompensated_error_m(distance_m: float, *, air_degc: float, assumed_degc: float) -> float:
    """Reported minus true distance when another air temperature is assumed, m."""
    echo_s = 2 * distance_m / sound_m_per_s(air_degc)
    return echo_distance_m(echo_s, assumed_degc) - distance_m


def ping_interval_s(*, reach_m: float, temp_degc: float, guard_s: float = 0.01) -> float:
    """Shortest time between two pings that do not hear each other, s."""
    return 2 * reach_m / sound_m_per_s(temp_degc) + guard_s


@takes(temp_degc=AIR_DEGC, rh_pct=HUMID, pressure_pa=ABOVE_ZERO)
def moist_sound_m_per_s(temp_degc: float, rh_pct: float, pressure_pa: float = 101_325.0) -> float:
    """Speed of sound in moist air, m/s, after Cramer 1993 (JASA 93, 2510), 0.04 % CO2.

    0 to 40 °C; its humidity part stays usable a little beyond.
    """
    t, kelvin = temp_degc, temp_degc + KELVIN_AT_ZERO_DEGC
    enhance = 1.00062 + 3.14e-8 * pressure_pa + 5.6e-7 * t * t
    saturated = math.exp(
        1.2811805e-5 * kelvin * kelvin - 1.9509874e-2 * kelvin + 34.04926034 - 6.3536311e3 / kelvin
    )
    water = rh_pct / 100 * enhance * saturated / pressure_pa
    carbon, p = 0.0004, pressure_pa
    return (
        331.5024
        + 0.603055 * t
        - 0.000528 * t * t
        + (51.471935 + 0.1495874 * t - 0.000782 * t * t) * water
        + (-1.82e-7 + 3.73e-8 * t - 2.93e-10 * t * t) * p
        + (-85.20931 - 0.228525 * t + 5.91e-5 * t * t) * carbon
        - 2.835149 * water * water
        - 2.15e-13 * p * p
        + 29.179762 * carbon * carbon
        + 0.000486 * water * p * carbon
    )
