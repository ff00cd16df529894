"""Standard resistor values (IEC 60063): the nearest, the next below, all in a span."""

import math
from bisect import bisect_right
from functools import cache
from typing import Literal

from aldea.core.base.errors import InputError
from aldea.core.base.figures import short

Series = Literal["E12", "E24", "E96"]
E24 = (
    10,
    11,
    12,
    13,
    15,
    16,
    18,
    20,
    22,
    24,
    27,
    30,
    33,
    36,
    39,
    43,
    47,
    51,
    56,
    62,
    68,
    75,
    82,
    91,
)
LOWEST_OHM, HIGHEST_OHM = 1.0, 10e6


@cache
def series_ohm(series: Series) -> tuple[float, ...]:
    """All values of a series from 1 Ω to 10 MΩ, in ohms."""
    if series == "E96":
        decade = tuple(round(10 ** (i / 96) * 100) / 100 for i in range(96))
    else:
        decade = tuple(v / 10 for v in (E24[::2] if series == "E12" else E24))
    values = [round(v * 10**power, 6) for power in range(7) for v in decade]
    return (*values, HIGHEST_OHM)


def nearest_ohm(wanted_ohm: float, series: Series = "E24") -> float:
    """The value nearest in ratio to a wanted one; `InputError` outside 1 Ω to 10 MΩ."""
    values = series_ohm(series)
    if not LOWEST_OHM <= wanted_ohm <= HIGHEST_OHM:
        raise InputError("resistor", got=f"{short(wanted_ohm)} Ω", allowed="1 Ω to 10 MΩ")
    return min(values, key=lambda v: abs(math.log(v / wanted_ohm)))


def below_ohm(wanted_ohm: float, series: Series = "E24") -> float:
    """The highest value that is not above a wanted one; `InputError` below 1 Ω."""
    values = series_ohm(series)
    index = bisect_right(values, wanted_ohm * (1 + 1e-9)) - 1
    if index < 0:
        raise InputError("resistor", got=f"{short(wanted_ohm)} Ω", allowed="1 Ω or more")
    return values[index]
