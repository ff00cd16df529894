"""Uncertainty budgets after JCGM 100:2008 (GUM): rows, their sum, degrees of freedom."""

import math
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short

Distribution = Literal["standard", "expanded_k2", "rectangular", "triangular", "resolution"]

CLEARLY_MORE = 2.05  # below it k = 2 is 95 % for every purpose of a house
DIVISOR: dict[Distribution, float] = {
    "standard": 1.0,
    "expanded_k2": 2.0,
    "rectangular": math.sqrt(3),
    "triangular": math.sqrt(6),
    "resolution": math.sqrt(12),  # the value is one whole step
}


# As people read it; certificates keep the words with which they were signed.
GROUND_WORDS = {"measured": "measured", "table": "from a table", "stated": "entered"}


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetRow:
    """One cause of doubt: its value, how that is spread, and what it does to the result."""

    label: str
    value: float
    distribution: Distribution
    sensitivity: float = 1.0
    degrees_of_freedom: float = math.inf
    ground: Literal["measured", "table", "stated"] = "stated"

    @property
    def standard_uncertainty(self) -> float:
        """One sigma of the result from this row (GUM 4.3: U/2, a/√3, a/√6, q/√12)."""
        return abs(self.sensitivity) * self.value / DIVISOR[self.distribution]


@dataclass(frozen=True, slots=True, kw_only=True)
class Budget:
    """Rows and what they come to."""

    rows: tuple[BudgetRow, ...]
    combined: float
    effective_degrees_of_freedom: float

    @property
    def expanded(self) -> float:
        """U with the factor `factor`, in the unit of the rows."""
        return self.factor * self.combined

    @property
    def factor(self) -> float:
        """The k of U: 2, or that of 95 % where few degrees of freedom ask for clearly more."""
        return self.factor_95 if self.factor_95 > CLEARLY_MORE else 2.0

    @property
    def factor_95(self) -> float:
        """Student's factor for 95 % with the effective degrees of freedom (GUM annex G)."""
        from scipy.special import stdtrit  # noqa: PLC0415  a quarter second, for this line alone

        return float(stdtrit(self.effective_degrees_of_freedom, 0.975))


def combine(rows: tuple[BudgetRow, ...]) -> Budget:
    """Root sum of squares and Welch–Satterthwaite degrees of freedom (GUM 5.1, G.4).

    Raises `CalibrationError` where a row is negative or no number.
    """
    for row in rows:
        if not (row.value >= 0 and math.isfinite(row.value) and row.degrees_of_freedom > 0):
            raise CalibrationError(
                f"budget row {row.label!r}", got=f"{short(row.value)}", allowed="zero or more"
            )
    variance = sum(row.standard_uncertainty**2 for row in rows)
    weighted = sum(
        row.standard_uncertainty**4 / row.degrees_of_freedom
        for row in rows
        if math.isfinite(row.degrees_of_freedom)
    )
    return Budget(
        rows=rows,
        combined=math.sqrt(variance),
        effective_degrees_of_freedom=variance**2 / weighted if weighted > 0 else math.inf,
    )
