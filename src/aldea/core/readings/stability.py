"""Whether a probe has settled: mean, spread and slope of the last minutes of its trace."""

import math
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray

FEWEST = 5
HALF = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Stability:
    """A span of a trace, in the probe's unit; slope per minute."""

    count: int
    mean: float
    sd: float
    slope_per_min: float
    minutes: float
    half_slopes_per_min: tuple[float, float]

    def settled(self, limit_per_min: float) -> bool:
        """Whether the slope lies inside the limit and stands on enough readings.

        A hill has no slope as a whole: each half may not lean by more than three times the limit
        (half as long on half as many readings: noise leans it nearly three times as much).
        """
        halves = max(map(abs, self.half_slopes_per_min))
        return (
            self.count >= FEWEST
            and abs(self.slope_per_min) <= limit_per_min
            and not halves > HALF * limit_per_min
        )


def stability_of(t_ms: IntArray, values: FloatArray) -> Stability | None:
    """Mean, sample standard deviation and least-squares slope of readings of shape (n,).

    Readings that are no number are left out; None where fewer than two are left.
    """
    good = np.isfinite(values)
    t_min, kept = (t_ms[good] - t_ms[good][:1]) / 60_000, values[good]
    if len(kept) < 2:
        return None
    half = len(kept) // 2
    return Stability(
        count=len(kept),
        mean=float(kept.mean()),
        sd=float(kept.std(ddof=1)),
        slope_per_min=_slope(t_min, kept),
        minutes=float(t_min[-1] - t_min[0]),
        half_slopes_per_min=(_slope(t_min[:half], kept[:half]), _slope(t_min[half:], kept[half:]))
        if half >= FEWEST
        else (0.0, 0.0),
    )


def _slope(t_min: FloatArray, values: FloatArray) -> float:
    deviation = t_min - t_min.mean()
    sxx = float(deviation @ deviation)
    return float(deviation @ (values - values.mean())) / sxx if sxx > 0 else math.nan
