"""Something under a distance sensor or nothing: the midway threshold, and what the air does to it.

An echo sensor that is not told the air's temperature reads too far in the cold and too near in the
heat; the threshold has to hold at both ends of the span.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.physics.sound import moist_sound_m_per_s, uncompensated_error_m
from aldea.core.readings.filters import MAD_TO_SIGMA

SIGMAS = 3.0
STRAY_SIGMAS, LEAST_SIGMA_M = 6.0, 0.002  # an echo sensor tells millimetres
MOST_STRAY_1 = 0.1  # of all readings
FEWEST = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class AtTemperature:
    """What would be read, m, at one air temperature."""

    air_degc: float
    empty_m: float
    occupied_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Geometry:
    """A threshold, m, and what is left on both sides of it in the worst air, m."""

    empty_m: float
    occupied_m: float
    noise_m: float
    threshold_m: float
    rows: tuple[AtTemperature, ...]
    room_empty_m: float
    room_occupied_m: float
    moist_m: float
    lost: int
    stray: int
    readings: int

    @property
    def is_clean(self) -> bool:
        """Whether stray echoes are few enough for a median of three to leave them out."""
        return self.stray <= MOST_STRAY_1 * self.readings

    @property
    def holds(self) -> bool:
        """Whether both sides keep three sigma of noise from the threshold, and echoes are clean."""
        return (
            self.is_clean and min(self.room_empty_m, self.room_occupied_m) > SIGMAS * self.noise_m
        )


def geometry_of(
    empty_m: Sequence[float],
    occupied_m: Sequence[float],
    *,
    at_degc: float,
    span_degc: tuple[float, float],
    compensated: bool,
    longest_m: float,
) -> Geometry:
    """The midway threshold from two recordings taken at `at_degc`, judged over a span of air.

    `compensated` means that the controller knows the air's temperature; else it takes `at_degc` to
    be always right. Readings of 0 or beyond `longest_m` are lost echoes, those beyond six robust
    sigma from the others stray ones (off another surface): both are counted and left out.
    """
    kept: list[np.ndarray] = []
    lost, stray = 0, 0
    for name, readings in (("empty", empty_m), ("occupied", occupied_m)):
        good = [r for r in readings if 0 < r <= longest_m]
        lost += len(readings) - len(good)
        if len(good) < FEWEST:
            raise CalibrationError(
                name,
                got=f"{len(good)} readings in 0 to {short(longest_m)} m",
                allowed=f"{FEWEST} or more",
                fix="Record half a minute; readings in metres?",
            )
        clean = _without_strays(np.array(good))
        stray += len(good) - len(clean)
        kept.append(clean)
    empty, occupied = float(np.median(kept[0])), float(np.median(kept[1]))
    if occupied >= empty:
        raise CalibrationError(
            "occupied",
            got=f"{figure(occupied, 3)} m where empty reads {figure(empty, 3)} m",
            allowed="nearer than empty",
            fix="Are the two recordings changed over?",
        )
    low, high = span_degc
    if low > high:
        raise CalibrationError(
            "span", got=f"{short(low)} to {short(high)} °C", allowed="the colder one first"
        )
    noise = max(float(np.std(part, ddof=1)) for part in kept)
    rows = tuple(
        AtTemperature(
            air_degc=air,
            empty_m=_read_m(empty, air, at_degc, compensated),
            occupied_m=_read_m(occupied, air, at_degc, compensated),
        )
        for air in dict.fromkeys((low, at_degc, high))
    )
    threshold = (empty + occupied) / 2
    moist = moist_sound_m_per_s(high, 90.0) / moist_sound_m_per_s(high, 0.0) - 1
    return Geometry(
        empty_m=empty,
        occupied_m=occupied,
        noise_m=noise,
        threshold_m=threshold,
        rows=rows,
        room_empty_m=min(row.empty_m for row in rows) - threshold,
        room_occupied_m=threshold - max(row.occupied_m for row in rows),
        moist_m=empty * moist,
        lost=lost,
        stray=stray,
        readings=len(empty_m) + len(occupied_m),
    )


def _without_strays(readings: FloatArray) -> FloatArray:
    """Readings without those that lie far from the others, against their robust σ (MAD)."""
    off = np.abs(readings - np.median(readings))
    sigma = max(MAD_TO_SIGMA * float(np.median(off)), LEAST_SIGMA_M)
    clean: FloatArray = readings[off <= STRAY_SIGMAS * sigma]
    return clean


def _read_m(true_m: float, air_degc: float, assumed_degc: float, compensated: bool) -> float:
    if compensated:
        return true_m
    error = uncompensated_error_m(true_m, air_degc=air_degc, assumed_degc=assumed_degc)
    return true_m + error


@dataclass(frozen=True, slots=True, kw_only=True)
class Tank:
    """How full an upright tank is: level in m, share in percent (0 to 100), volume in m³."""

    level_m: float
    level_pct: float
    volume_m3: float


def tank_of(*, area_m2: float, empty_m: float, full_m: float, measured_m: float) -> Tank:
    """Level from the distance down to the water; the volume is kept within empty and full."""
    height = empty_m - full_m
    if height <= 0:
        raise CalibrationError(
            "full", got=f"{short(full_m)} m", allowed=f"nearer than empty, {short(empty_m)} m"
        )
    level = empty_m - measured_m
    share = min(1.0, max(0.0, level / height))
    return Tank(level_m=level, level_pct=100 * share, volume_m3=area_m2 * share * height)
