"""A gas or smoke hint: how long it warms up, what clean air reads, at which ratio it speaks.

It is a hint for ventilation and no certified detector. The ratio is volts over volts in clean air.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short

FEWEST = 10
REST_SHARE = 0.2  # the last fifth of the recording tells the settled level


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmUp:
    """A warm-up curve: from when it stays settled, s, the clean-air level, V, its noise, drift.

    `drift_expanded_pct_per_h` is U of the drift (95 %, Student's factor of the slope).
    """

    warm_up_s: float
    clean_air_v: float
    noise_v: float
    drift_pct_per_h: float
    drift_expanded_pct_per_h: float
    readings: int

    def alarm_v(self, ratio_1: float) -> float:
        """Volts at which a ratio to clean air is reached."""
        return self.clean_air_v * ratio_1

    def sigmas(self, ratio_1: float) -> float:
        """How many standard deviations of clean air lie below the alarm."""
        above = self.alarm_v(ratio_1) - self.clean_air_v
        return above / self.noise_v if self.noise_v > 0 else math.inf


def warm_up_of(t_s: Sequence[float], volts: Sequence[float], *, settled_pct: float) -> WarmUp:
    """When a sensor has settled: from then on no reading leaves the final level by more.

    Raises `CalibrationError` for too few readings, a clock that runs backwards, volts that are not
    above zero, and a recording that ends before the sensor has settled.
    """
    t, v = np.array(t_s, dtype=float), np.array(volts, dtype=float)
    if len(t) < FEWEST:
        raise CalibrationError(
            "curve",
            got=f"{len(t)} rows",
            allowed=f"{FEWEST} or more",
            fix="One row every ten seconds, from switching on, in clean air.",
        )
    if (np.diff(t) <= 0).any():
        raise CalibrationError("curve", got="times that do not rise", allowed="rising seconds")
    if not (v > 0).all():
        raise CalibrationError("curve", got=f"{short(v.min())} V", allowed="above 0 V")
    rest = t >= t[-1] - REST_SHARE * (t[-1] - t[0])
    final = float(np.median(v[rest]))
    outside = np.abs(v - final) > final * settled_pct / 100
    if outside[rest].any():
        raise CalibrationError(
            "curve",
            got="still moving at the end",
            allowed=f"within {short(settled_pct)} % over the last fifth",
            fix="Record longer; a new sensor may need two days of burning in.",
        )
    beyond = np.flatnonzero(outside)
    settled_from = beyond[-1] + 1 if len(beyond) else 0
    settled = v[settled_from:]
    slope, start = np.polyfit(t[rest], v[rest], 1)
    left = v[rest] - (start + slope * t[rest])
    per_h = 3600 / final * 100
    return WarmUp(
        warm_up_s=float(t[settled_from] - t[0]),
        clean_air_v=float(np.median(settled)),
        noise_v=float(np.std(left, ddof=1)) if rest.sum() > 2 else 0.0,
        drift_pct_per_h=float(slope) * per_h,
        drift_expanded_pct_per_h=_expanded_slope(t[rest], left) * per_h,
        readings=len(settled),
    )


def _expanded_slope(t: FloatArray, left: FloatArray) -> float:
    """U (95 %) of a least-squares slope over `t` from what it left; inf for two points or fewer."""
    from scipy.special import stdtrit  # noqa: PLC0415  a quarter second, for this line alone

    degrees = len(t) - 2
    if degrees < 1:
        return math.inf
    spread = float(((t - t.mean()) ** 2).sum())
    sd = math.sqrt(float((left**2).sum()) / degrees / spread)
    return float(stdtrit(degrees, 0.975)) * sd
