"""Moist air: saturation pressure, dew point and absolute humidity.

Relative humidity is over water at all temperatures (WMO). The Magnus form is up to 0.3 % low at
15 to 35 °C against IAPWS-95; for a household probe of ±1 %RH that does not show.
"""

import math

from aldea.core.base.errors import InputError
from aldea.core.base.figures import figure, short
from aldea.core.base.limits import FINITE, PER_CENT, takes

KELVIN_AT_ZERO_DEGC = 273.15
VAPOUR_GAS_CONSTANT = 461.52  # J/(kg K)
MAGNUS_HPA, MAGNUS_FACTOR, MAGNUS_DEGC = 6.112, 17.62, 243.12
MAGNUS_RANGE_DEGC = (-45.0, 60.0)


def saturation_pressure_hpa(temp_degc: float) -> float:
    """Saturation vapour pressure over water.

    In hPa, for −45 to 60 °C; `InputError` outside. Source: WMO-No. 8, annex 4.B (Magnus form after
    Sonntag 1990).
    """
    low, high = MAGNUS_RANGE_DEGC
    if not low <= temp_degc <= high:
        raise InputError(
            "temperature", got=f"{short(temp_degc)} °C", allowed=f"{short(low)} to {short(high)} °C"
        )
    return MAGNUS_HPA * math.exp(MAGNUS_FACTOR * temp_degc / (MAGNUS_DEGC + temp_degc))


def vapour_pressure_hpa(temp_degc: float, rh_pct: float) -> float:
    """Vapour pressure in hPa at a temperature and relative humidity of 0 to 100 %."""
    if not 0 <= rh_pct <= 100:
        raise InputError("relative humidity", got=f"{short(rh_pct)} %", allowed="0 to 100 %")
    return rh_pct / 100 * saturation_pressure_hpa(temp_degc)


def dew_point_degc(temp_degc: float, rh_pct: float) -> float:
    """Dew point over water in °C, the inverse of the Magnus form.

    RH above 0 up to 100 %; `InputError` where the air is so dry that the form does not hold there.
    """
    pressure_hpa = vapour_pressure_hpa(temp_degc, rh_pct)
    if not pressure_hpa > 0:
        raise InputError("relative humidity", got=f"{short(rh_pct)} %", allowed="above 0 %")
    logarithm = math.log(pressure_hpa / MAGNUS_HPA)
    dew = MAGNUS_DEGC * logarithm / (MAGNUS_FACTOR - logarithm)
    if dew < MAGNUS_RANGE_DEGC[0]:
        raise InputError(
            "relative humidity",
            got=f"{short(rh_pct)} %, a dew point of {figure(dew, 0)} °C",
            allowed=f"air whose dew point is {short(MAGNUS_RANGE_DEGC[0])} °C or more",
        )
    return dew


def rh_after_pct(temp_degc: float, rh_pct: float, after_degc: float) -> float:
    """Relative humidity of the same air at another temperature, %; above 100 it condenses."""
    return 100 * vapour_pressure_hpa(temp_degc, rh_pct) / saturation_pressure_hpa(after_degc)


@takes(temp_degc=FINITE, rh_pct=PER_CENT, wanted_pct=PER_CENT)
def surface_for_rh_degc(temp_degc: float, rh_pct: float, wanted_pct: float) -> float:
    """How cold a surface may be before the air at it reaches a relative humidity, °C."""
    pressure_hpa = vapour_pressure_hpa(temp_degc, rh_pct) * 100 / wanted_pct
    logarithm = math.log(pressure_hpa / MAGNUS_HPA)
    return MAGNUS_DEGC * logarithm / (MAGNUS_FACTOR - logarithm)


def surface_degc(inside_degc: float, outside_degc: float, factor_1: float) -> float:
    """Inner surface temperature from the temperature factor fRsi of ISO 13788, °C."""
    return outside_degc + factor_1 * (inside_degc - outside_degc)


def absolute_humidity_g_per_m3(temp_degc: float, rh_pct: float) -> float:
    """Mass of vapour in a cubic metre of moist air, g/m³ (ideal gas, Rv = 461.52 J/(kg K))."""
    pressure_pa = 100 * vapour_pressure_hpa(temp_degc, rh_pct)
    return 1000 * pressure_pa / (VAPOUR_GAS_CONSTANT * (temp_degc + KELVIN_AT_ZERO_DEGC))


def rh_slope_pct_per_k(temp_degc: float, rh_pct: float) -> float:
    """How much relative humidity a probe misreads per kelvin between it and the air, %RH/K.

    Derivative of the Magnus form at constant vapour pressure: RH · d(ln e)/dt.
    """
    saturation_pressure_hpa(temp_degc)  # the range check
    return rh_pct * MAGNUS_FACTOR * MAGNUS_DEGC / (MAGNUS_DEGC + temp_degc) ** 2
