"""What every bench shares: a line through pairs with its budget, check pairs, a verdict."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from aldea.core.calibrate.calibration_line import CalibrationLine
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.scatter import LINE_LABEL, Scatter
from aldea.core.calibrate.uncertainty_budget import Budget, BudgetRow, combine

WORST_REFERENCE = 2.0  # U of a check's reference over U of what it is to show


@dataclass(frozen=True, slots=True, kw_only=True)
class PairResult:
    """A pair with what the fit makes of it, in the probe's unit."""

    pair: Pair
    fitted: float

    @property
    def error(self) -> float:
        """Reading minus reference, before the fit."""
        return self.pair.reading - self.pair.reference

    @property
    def residual(self) -> float:
        """Reference minus fitted value, after the fit."""
        return self.pair.reference - self.fitted


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """The line of a probe and what it rests on; `low` to `high` is where it holds.

    `outliers` are the numbers (from 1) of fitted pairs that lie beyond U of the fit without them;
    flagged, never dropped by itself.
    """

    line: CalibrationLine
    budget: Budget
    results: tuple[PairResult, ...]
    low: float
    high: float
    scatter: Scatter
    outliers: tuple[int, ...] = ()

    @property
    def expanded(self) -> float:
        """U of a corrected reading inside the range, in the probe's unit, with its budget's k."""
        return self.budget.expanded

    def expanded_at(self, reading: float, tries: int = 1) -> float:
        """U of a corrected reading, in the probe's unit, with the k of its own budget.

        The budget takes the line's doubt where it is largest inside the range; here it is taken at
        the reading itself, so U grows with the leverage outside. Of so many `tries` all lie inside
        in 95 %.
        """
        here = self.scatter.line.sd * self.scatter.leverage_1(self.line, reading)
        rows = tuple(
            replace(row, value=here) if row.label.startswith(LINE_LABEL) else row
            for row in self.budget.rows
        )
        return combine(rows).expanded_of(tries)

    @property
    def mean_reading(self) -> float:
        """The reading at which the doubt of the line is least."""
        means = self.scatter.means
        return sum(means) / len(means) if means else self.line.mean_reading

    @property
    def expanded_per_unit(self) -> float:
        """U of the slope: what the line's doubt grows by for each unit away from its middle."""
        over = self.scatter.leverage_1(self.line, self.mean_reading + 1.0)
        square = over**2 - self.scatter.leverage_1(self.line, self.mean_reading) ** 2
        return self.budget.factor * self.scatter.line.sd * math.sqrt(max(0.0, square))

    def with_rows(self, rows: Sequence[BudgetRow]) -> "Fit":
        """The same fit with further causes of doubt in its budget."""
        return replace(self, budget=combine((*self.budget.rows, *rows))) if rows else self

    @property
    def fitted(self) -> tuple[PairResult, ...]:
        """The pairs that the line goes through."""
        return tuple(r for r in self.results if r.pair.approach != "check")

    @property
    def checks(self) -> tuple[PairResult, ...]:
        """The check pairs."""
        return tuple(r for r in self.results if r.pair.approach == "check")

    @property
    def approaches(self) -> frozenset[str]:
        """How the fitted pairs were approached."""
        return frozenset(r.pair.approach for r in self.results if r.pair.approach != "check")

    @property
    def temp_degc(self) -> tuple[float, float]:
        """Lowest and highest temperature at the pairs, °C."""
        temps = [r.pair.temp_degc for r in self.results]
        return min(temps), max(temps)

    def verifies(self, result: PairResult) -> bool:
        """Whether a check pair that lies inside shows anything."""
        return can_verify(self.expanded_at(result.pair.reading), result.pair.reference_expanded)

    def check_limit(self, result: PairResult) -> float:
        """How far a check pair may lie off: both uncertainties there, combined (k = 2)."""
        return math.hypot(self.expanded_at(result.pair.reading), result.pair.reference_expanded)

    @property
    def verdict(self) -> Literal["holds", "fails", "not_shown"]:
        """`not_shown` without a check pair that can tell: what fixed a line cannot test it."""
        if any(abs(r.residual) > self.check_limit(r) for r in self.checks):
            return "fails"
        return "holds" if any(self.verifies(r) for r in self.checks) else "not_shown"


def can_verify(expanded: float, reference_expanded: float) -> bool:
    """Whether a reference is good enough to show that a promise of ±`expanded` holds.

    One known to worse than twice that would lie inside whatever the probe reads.
    """
    return reference_expanded <= WORST_REFERENCE * expanded


def fit_of(
    pairs: Sequence[Pair],
    line: CalibrationLine,
    budget: Budget,
    low: float,
    high: float,
    scatter: Scatter,
) -> Fit:
    """The fit that a line makes of all pairs, check pairs included."""
    results = tuple(PairResult(pair=pair, fitted=line.at(pair.reading)) for pair in pairs)
    return Fit(line=line, budget=budget, results=results, low=low, high=high, scatter=scatter)
