"""What every bench shares: a pair, a line through pairs with its budget, check pairs, a verdict."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from aldea.core.base.figures import short
from aldea.core.calibrate.calibration_line import CalibrationLine
from aldea.core.calibrate.uncertainty_budget import Budget, BudgetRow, combine

Approach = Literal["drier", "wetter", "point", "check"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """One reading beside a known value; a `check` pair is compared, never fitted.

    `reference`, `reading` and `reference_expanded` (U, k = 2) are in the probe's unit: %RH or °C.
    `medium` is what gave the reference (a salt, an ice bath), `temp_degc` the temperature there,
    `detail` what else was noted.
    """

    reference: float
    reading: float
    approach: Approach
    temp_degc: float
    reference_expanded: float
    medium: str | None = None
    detail: str = ""


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

    `scatter_sd` is the scatter of one reading that the budget counts with.
    """

    line: CalibrationLine
    budget: Budget
    results: tuple[PairResult, ...]
    low: float
    high: float
    scatter_sd: float = 0.0

    @property
    def expanded(self) -> float:
        """U of a corrected reading inside the range, in the probe's unit, with its budget's k."""
        return self.budget.expanded

    def expanded_at(self, reading: float) -> float:
        """U of a corrected reading, in the probe's unit, with the budget's k.

        The budget takes the line's doubt where it is largest inside the range; here it is taken at
        the reading itself: s √(1/n + (x − x̄)²/Sxx), times the slope.
        """
        widest = max(self.line.leverage_1(p.pair.reading) for p in self.fitted)
        at_most = self.line.slope * self.scatter_sd * widest
        here = self.line.slope * self.scatter_sd * self.line.leverage_1(reading)
        return self.budget.factor * math.sqrt(
            max(0.0, self.budget.combined**2 - at_most**2 + here**2)
        )

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
    scatter_sd: float,
) -> Fit:
    """The fit that a line makes of all pairs, check pairs included."""
    results = tuple(PairResult(pair=pair, fitted=line.at(pair.reading)) for pair in pairs)
    return Fit(line=line, budget=budget, results=results, low=low, high=high, scatter_sd=scatter_sd)


@dataclass(frozen=True, slots=True, kw_only=True)
class Scatter:
    """Standard deviation of one reading, its degrees of freedom, and what told it.

    `repeats`: the same point taken again; `misfit`: points that the line does not go through;
    `assumed`: nothing was left over to tell it.
    """

    sd: float
    degrees_of_freedom: float
    told_by: Literal["repeats", "misfit", "assumed"]


def scatter(
    groups: Iterable[Sequence[float]],
    points: Sequence[tuple[float, float]],
    line: CalibrationLine,
    assumed: float,
) -> Scatter:
    """The scatter of one reading: by repeats or by misfit, whichever is larger.

    `groups` are errors that were repeated under one condition, pooled (JCGM 100, H.3.4: s of
    repeated observations). `points` are distinct points, reading and reference, each the mean of
    what was taken there, with what has a row of its own (hysteresis) evened out: what the line
    leaves at them is lack of fit, s² = Σ r² / (points − 2) over the slope (Draper and Smith,
    Applied Regression Analysis, 2.1). A pair that contradicts the others so never hides behind one
    that was repeated well. With nothing left over it is `assumed`, and infinitely sure.
    """
    kept = [group for group in groups if group]
    dof = sum(len(group) - 1 for group in kept)
    estimate = Scatter(sd=assumed, degrees_of_freedom=math.inf, told_by="assumed")
    if dof > 0:
        rss = sum((x - sum(g) / len(g)) ** 2 for g in kept for x in g)
        estimate = Scatter(
            sd=math.sqrt(rss / dof), degrees_of_freedom=float(dof), told_by="repeats"
        )
    left = len(points) - 2 if math.isfinite(line.sxx) else len(points) - 1
    if left > 0:
        rss = sum((reference - line.at(reading)) ** 2 for reading, reference in points)
        misfit = math.sqrt(rss / left) / line.slope
        if estimate.told_by == "assumed" or misfit > estimate.sd:
            estimate = Scatter(sd=misfit, degrees_of_freedom=float(left), told_by="misfit")
    return estimate


LABELS = {
    "repeats": "One reading's scatter",
    "misfit": "Points beside the line",
    "assumed": "One reading's scatter",
}


def line_rows(
    line: CalibrationLine, fitted: Sequence[Pair], scatter: Scatter, resolution: float
) -> tuple[BudgetRow, ...]:
    """Rows that every line has: one reading's scatter, the line's own doubt, the resolution."""
    sd, dof = scatter.sd, scatter.degrees_of_freedom
    readings = [pair.reading for pair in fitted]
    leverage = max(line.leverage_1(min(readings)), line.leverage_1(max(readings)))
    ground: Literal["measured", "stated"] = "stated" if scatter.told_by == "assumed" else "measured"
    several = "pair" if line.n == 1 else "pairs"
    return (
        BudgetRow(
            label=LABELS[scatter.told_by],
            value=sd,
            distribution="standard",
            sensitivity=line.slope,
            degrees_of_freedom=dof,
            ground=ground,
        ),
        BudgetRow(
            label=f"The line through {line.n} {several}",
            value=sd * leverage,
            distribution="standard",
            sensitivity=line.slope,
            degrees_of_freedom=dof,
            ground=ground,
        ),
        BudgetRow(
            label=f"Resolution {short(resolution)}",
            value=resolution,
            distribution="resolution",
            sensitivity=line.slope,
            ground="stated",
        ),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenPair:
    """A pair with its number and who took it."""

    id: int
    pair: Pair
    by: str
    taken_ms: int
