"""The least-squares line from reading to true value, with its uncertainty.

JCGM 100:2008 (GUM), annex H.3: y = a + b·x with x the reading and y the reference.
"""

import math
from dataclasses import dataclass

import numpy as np

from aldea.core.base.arrays import FloatArray
from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short


def line_words(slope: float, intercept: float, places: tuple[int, int] = (2, 4)) -> str:
    """A line as it is written: `0.42 + 0.9871 × reading`; places of intercept and slope."""
    sign = "+" if slope >= 0 else "−"
    return f"{figure(intercept, places[0])} {sign} {figure(abs(slope), places[1])} × reading"


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibrationLine:
    """A fitted line `true = intercept + slope · reading` over `n` pairs."""

    slope: float
    intercept: float
    n: int
    mean_reading: float
    sxx: float
    residual_sd: float  # s = sqrt(RSS / (n − 2)); NaN with two pairs, which leave nothing over

    @property
    def is_sloped(self) -> bool:
        """Whether the pairs showed a slope; one temperature shows an offset alone."""
        return math.isfinite(self.sxx)

    @property
    def se_slope(self) -> float:
        """Standard uncertainty of the slope."""
        return self.residual_sd / math.sqrt(self.sxx)

    @property
    def se_intercept(self) -> float:
        """Standard uncertainty of the intercept."""
        return self.residual_sd * math.sqrt(1 / self.n + self.mean_reading**2 / self.sxx)

    @property
    def correlation(self) -> float:
        """Correlation of intercept and slope (no unit, −1 to 1)."""
        return -self.mean_reading / math.sqrt(self.sxx / self.n + self.mean_reading**2)

    def at(self, reading: float) -> float:
        """The true value that the line gives for a reading."""
        return self.intercept + self.slope * reading

    def leverage_1(self, reading: float) -> float:
        """Factor on one reading's scatter that gives the line's own uncertainty there."""
        return math.sqrt(1 / self.n + (reading - self.mean_reading) ** 2 / self.sxx)


def fit_line(readings: FloatArray, references: FloatArray) -> CalibrationLine:
    """Fit the unweighted least-squares line through pairs of shape (n,), n ≥ 2.

    Raises `CalibrationError` where the pairs carry no line: fewer than two, not finite, or all at
    one reading.
    """
    n = len(readings)
    if n < 2 or len(references) != n:
        raise CalibrationError("pairs", got=f"{n} pairs", allowed="two or more")
    if not (np.isfinite(readings).all() and np.isfinite(references).all()):
        raise CalibrationError("pairs", got="a value that is no number", allowed="finite numbers")
    mean_reading, mean_reference = float(readings.mean()), float(references.mean())
    deviation = readings - mean_reading
    sxx = float(deviation @ deviation)
    if not sxx > 1e-12 * max(1.0, mean_reading**2):
        raise CalibrationError(
            "readings",
            got=f"all at {short(mean_reading)}",
            allowed="at least two different readings",
            fix="Record pairs in a second salt.",
        )
    slope = float(deviation @ (references - mean_reference)) / sxx
    intercept = mean_reference - slope * mean_reading
    residuals = references - (intercept + slope * readings)
    residual_sd = math.sqrt(float(residuals @ residuals) / (n - 2)) if n > 2 else math.nan
    return CalibrationLine(
        slope=slope,
        intercept=intercept,
        n=n,
        mean_reading=mean_reading,
        sxx=sxx,
        residual_sd=residual_sd,
    )
