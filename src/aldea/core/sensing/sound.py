"""Distance by echo: the speed of sound in dry air follows the air's temperature."""

import math

from aldea.core.errors import InputError
from aldea.core.sensing.humidity import KELVIN_AT_ZERO_DEGC

SPEED_AT_ZERO_M_PER_S = 331.3


def sound_m_per_s(temp_degc: float) -> float:
    """Speed of sound in dry air, m/s: 331.3 · √(1 + t/273.15); −40 to 80 °C."""
    if not -40 <= temp_degc <= 80:
        raise InputError("air temperature", got=f"{temp_degc:g} °C", allowed="−40 to 80 °C")
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
