"""Fixed points of water: ice and boiling at the day's pressure, and what the pressure is.

Boiling: IAPWS-IF97, backward equation of the saturation line (region 4), 611.213 Pa to 22.064 MPa.
Pressure: ISO 2533 standard atmosphere. Ice: 0.0025 °C pure at 101,325 Pa, 7.5 mK less per 1e5 Pa;
air dissolved in the bath takes 2.4 mK more.
"""

import math

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short
from aldea.core.base.limits import FINITE, Limit, takes

SEA_LEVEL_PA = 101_325.0
SEA_LEVEL_K, LAPSE_K_PER_M, EXPONENT = 288.15, 0.0065, 5.25588
TRIPLE_POINT_DEGC, MELTING_K_PER_PA, DISSOLVED_AIR_K = 0.01, 7.38e-8, 0.00242
HIGHEST_M = 11_000.0
SALT_K_KG_PER_MOL, NACL_G_PER_MOL = 3.716, 58.443
IF97 = (
    0.11670521452767e4,
    -0.72421316703206e6,
    -0.17073846940092e2,
    0.12020824702470e5,
    -0.32325550322333e7,
    0.14915108613530e2,
    -0.48232657361591e4,
    0.40511340542057e6,
    -0.23855557567849,
    0.65017534844798e3,
)
WEATHER_PA = Limit(low=85_000.0, high=110_000.0)  # of what has been measured at sea level


def boiling_degc(pressure_pa: float) -> float:
    """Boiling point of pure water at a local absolute pressure, °C; 611.213 Pa to 22.064 MPa."""
    if not 611.213 <= pressure_pa <= 22.064e6:
        raise InputError(
            "pressure",
            got=f"{short(pressure_pa)} Pa",
            allowed="611 Pa to 22 MPa, local, not reduced",
        )
    n1, n2, n3, n4, n5, n6, n7, n8, n9, n10 = IF97
    beta = math.sqrt(math.sqrt(pressure_pa / 1e6))
    e = beta * beta + n3 * beta + n6
    f = n1 * beta * beta + n4 * beta + n7
    g = n2 * beta * beta + n5 * beta + n8
    d = 2 * g / (-f - math.sqrt(f * f - 4 * e * g))
    temp_k = (n10 + d - math.sqrt((n10 + d) ** 2 - 4 * (n9 + n10 * d))) / 2
    return temp_k - 273.15


@takes(altitude_m=FINITE, sea_level_pa=WEATHER_PA)
def pressure_at_pa(altitude_m: float, sea_level_pa: float = SEA_LEVEL_PA) -> float:
    """Pressure at an altitude, Pa: ISO 2533, p = p0 (1 − 0.0065 h / 288.15)^5.25588; to 11 km.

    With a weather report's sea-level pressure (QNH) as `sea_level_pa` it gives the local one, by
    the standard atmosphere in which QNH lies at sea level (ICAO Doc 7488): heights add, pressures
    do not scale, p^(1/n) = QNH^(1/n) − p0^(1/n) · 0.0065 h / 288.15.
    """
    if not -500 <= altitude_m <= HIGHEST_M:
        raise InputError("altitude", got=f"{short(altitude_m)} m", allowed="−500 to 11 000 m")
    root = 1 / EXPONENT
    lost = math.pow(SEA_LEVEL_PA, root) * LAPSE_K_PER_M * altitude_m / SEA_LEVEL_K
    return math.pow(math.pow(sea_level_pa, root) - lost, EXPONENT)


def salt_lowering_k(salt_g_per_kg: float) -> float:
    """How far table salt in an ice bath lowers it, K: 3.7 K per mol/kg; rough, a few grams only."""
    return SALT_K_KG_PER_MOL * salt_g_per_kg / NACL_G_PER_MOL


def ice_degc(pressure_pa: float = SEA_LEVEL_PA, *, air_saturated: bool = True) -> float:
    """Melting point of ice in pure water, °C, near atmospheric pressure."""
    pure = TRIPLE_POINT_DEGC - MELTING_K_PER_PA * pressure_pa
    return pure - DISSOLVED_AIR_K if air_saturated else pure
