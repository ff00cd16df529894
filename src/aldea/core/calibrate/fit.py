"""What every bench shares: a line through pairs with its budget, check pairs, a verdict."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from aldea.core.calibrate.calibration_line import CalibrationLine
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.scatter import LINE_LABEL, Scatter
from aldea.core.calibrate.uncertainty_budget import Budget, BudgetRow, combine


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
    """The line of a probe and what it rests on; `low` to `high` is where it holds."""

    line: CalibrationLine
    budget: Budget
    results: tuple[PairResult, ...]
    low: float
    high: float
    scatter: Scatter

    @property
    def expanded(self) -> float:
        """U of a corrected reading inside the range, in the probe's unit, with its budget's k."""
        return self.budget.expanded

    def expanded_at(self, reading: float) -> float:
        """U of a corrected reading, in the probe's unit, with the k of its own budget.

        The budget takes the line's doubt where it is largest inside the range; here it is taken at
        the reading itself, so U grows with the leverage outside.
        """
        here = self.scatter.line.sd * self.scatter.leverage_1(self.line, reading)
        return combine(
            tuple(
                replace(row, value=here) if row.label.startswith(LINE_LABEL) else row
                for row in self.budget.rows
            )
        ).expanded

    def with_rows(self, rows: Sequence[BudgetRow]) -> "Fit":
        """The same fit with further causes of doubt in its budget."""
        return replace(self, budget=combine((*self.budget.rows, *rows))) if rows else self

    @property
    def fitted(self) -> tuple[PairResult, ...]:
        """The pairs that the line goes through."""
        return tuple(r for r in self.results if r.pair.approach != "check")

    @property
    def outliers(self) -> tuple[int, ...]:
        """Numbers (from 1) of fitted pairs that lie beyond U; flagged, never dropped by itself."""
        return tuple(
            number
            for number, r in enumerate(self.results, 1)
            if r.pair.approach != "check" and abs(r.residual) > self.expanded
        )

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

    def check_limit(self, result: PairResult) -> float:
        """How far a check pair may lie off: both uncertainties, combined (k = 2)."""
        return math.hypot(self.expanded, result.pair.reference_expanded)

    @property
    def verdict(self) -> Literal["holds", "fails", "not_shown"]:
        """`not_shown` without a check pair: what fixed a line cannot test it."""
        if not self.checks:
            return "not_shown"
        inside = all(abs(r.residual) <= self.check_limit(r) for r in self.checks)
        return "holds" if inside else "fails"


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
