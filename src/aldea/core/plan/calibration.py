"""The line of a probe as its plan holds it: slope, intercept, U, and where that was shown."""

import math
from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.arrays import FloatArray
from aldea.core.base.parts import Identifier, Part, text_of

Value = Annotated[float, Field(ge=-100_000, le=100_000)]


class ProvenRange(Part):
    """Values between which pairs showed a line, and how fast U grows outside, in its unit.

    `middle` is the mean of the values at the pairs, `expanded_per_unit` U of the slope: one more
    unit of the probe for each unit away from the middle.
    """

    low: Value
    high: Value
    middle: Value
    expanded_per_unit: Annotated[float, Field(ge=0, le=100)]

    def expanded_at(self, value: float, inside: float) -> float:
        """U at a value: `inside` the range as given, outside with the line's leverage.

        The line's variance is s²/n + u_slope² (x − x̄)² (JCGM 100, H.3.4): beyond an end it has
        grown by u_slope² ((x − x̄)² − (end − x̄)²).
        """
        end = min(max(value, self.low), self.high)
        more = (value - self.middle) ** 2 - (end - self.middle) ** 2
        return math.sqrt(inside**2 + self.expanded_per_unit**2 * max(0.0, more))


class Calibration(Part):
    """The line that turns a reading into a true value, and what it rests on.

    A line that was carried from an identical probe says from which; nothing was measured here yet.
    `circuit` is the digest of the circuit that a certificate was signed for; empty where it was
    signed before such digests, or where the line is only stated. `proven` is where pairs showed it.
    """

    slope: Annotated[float, Field(gt=0.2, lt=5)] = 1.0
    intercept: Annotated[float, Field(ge=-1000, le=1000)] = 0.0
    expanded_uncertainty: Annotated[float, Field(gt=0, le=1000)]
    basis: Literal["entered", "carried", "certificate"] = "entered"
    carried_from: Identifier | None = None
    certificate: Annotated[int, Field(ge=1)] | None = None
    circuit: Annotated[str, text_of(r"^([0-9a-f]{16})?$", "16 digits 0–9, a–f, or nothing")] = ""
    proven: ProvenRange | None = None

    def at(self, reading: float) -> float:
        """The true value of a reading."""
        return self.intercept + self.slope * reading

    def over(self, readings: FloatArray) -> FloatArray:
        """The true values of readings, shape (n,)."""
        return self.intercept + self.slope * readings

    def expanded_at(self, value: float) -> float:
        """U (k = 2) of a true value, in the probe's unit; it grows outside what pairs showed."""
        return (
            self.proven.expanded_at(value, self.expanded_uncertainty)
            if self.proven
            else (self.expanded_uncertainty)
        )

    def is_outside(self, value: float) -> bool:
        """Whether a value lies outside what the pairs of its line showed."""
        return self.proven is not None and not self.proven.low <= value <= self.proven.high

    def reading_at(self, value: float) -> float:
        """The reading that stands for a true value."""
        return (value - self.intercept) / self.slope
