"""Uncertainty budgets after JCGM 100:2008 (GUM): rows, their sum, degrees of freedom."""

import math
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import short

Distribution = Literal["standard", "expanded_k2", "rectangular", "triangular", "resolution"]

FEW = 3  # degrees of freedom under which an estimate keeps a factor of its own
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
    """One cause of doubt: its value, how that is spread, and what it does to the result.

    Rows that rest on one estimate of a scatter carry its name in `estimate`: they are not
    independent, and count together in the degrees of freedom.
    """

    label: str
    value: float
    distribution: Distribution
    sensitivity: float = 1.0
    degrees_of_freedom: float = math.inf
    ground: Literal["measured", "table", "stated"] = "stated"
    estimate: str = ""

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
        """Student's factor for 95 % with the effective degrees of freedom (GUM annex G).

        An estimate of one or two degrees of freedom is small by luck too often, and the formula of
        Welch and Satterthwaite then takes it for sure: it keeps a factor of its own, and U is the
        root of the sum of squares.
        """
        return self._factor(0.975)

    def expanded_of(self, tries: int) -> float:
        """U inside which so many tries all lie in 95 % (Bonferroni); of one it is `expanded`."""
        if tries == 1:
            return self.expanded
        return self._factor(1 - 0.025 / tries) * self.combined

    def _factor(self, quantile: float) -> float:
        few = {key: own for key, own in _variances(self.rows).items() if key[1] < FEW}
        if not few or not self.combined > 0:
            return _student(self.effective_degrees_of_freedom, quantile)
        square = sum(_student(dof, quantile) ** 2 * own for (_, dof), own in few.items())
        rest = combine(tuple(row for row in self.rows if not row.degrees_of_freedom < FEW))
        sure = _student(rest.effective_degrees_of_freedom, quantile) * rest.combined
        return math.sqrt(square + sure**2) / self.combined


def _student(degrees_of_freedom: float, quantile: float) -> float:
    from scipy.special import stdtrit  # noqa: PLC0415  a quarter second, for this line alone

    return float(stdtrit(degrees_of_freedom, quantile))


def _variances(rows: tuple[BudgetRow, ...]) -> dict[tuple[str | int, float], float]:
    """The variance of each estimate; rows of one are one variance (G.4.1 wants independence)."""
    estimates: dict[tuple[str | int, float], float] = {}
    for number, row in enumerate(rows):
        key = (row.estimate or number, row.degrees_of_freedom)
        estimates[key] = estimates.get(key, 0.0) + row.standard_uncertainty**2
    return estimates


def combine(rows: tuple[BudgetRow, ...]) -> Budget:
    """Root sum of squares and Welch–Satterthwaite degrees of freedom (GUM 5.1, G.4.1).

    Raises `CalibrationError` where a row is negative or no number.
    """
    for row in rows:
        if not (row.value >= 0 and math.isfinite(row.value) and row.degrees_of_freedom > 0):
            raise CalibrationError(
                f"budget row {row.label!r}", got=f"{short(row.value)}", allowed="zero or more"
            )
    variance = sum(row.standard_uncertainty**2 for row in rows)
    weighted = sum(own**2 / dof for (_, dof), own in _variances(rows).items() if math.isfinite(dof))
    return Budget(
        rows=rows,
        combined=math.sqrt(variance),
        effective_degrees_of_freedom=variance**2 / weighted if weighted > 0 else math.inf,
    )
