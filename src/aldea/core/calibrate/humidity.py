"""The humidity bench: salt pairs from drier and from wetter, line, budget and verdict."""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from aldea.core.calibrate.budget import Budget, BudgetRow, combine
from aldea.core.calibrate.line import Line, fit_line
from aldea.core.calibrate.salts import SALTS
from aldea.core.errors import CalibrationError
from aldea.core.sensing.humidity import rh_slope_pct_per_k

Approach = Literal["drier", "wetter", "check"]
SINGLE_DIRECTION_HYSTERESIS_RH_PCT = 1.0  # assumed half-width where only one approach was taken
ASSUMED_REPEAT_RH_PCT = 0.3  # assumed scatter of one reading where two pairs leave nothing over


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """One reading in a known humidity; a `check` pair is compared, never fitted.

    All figures are in %RH but `temp_degc`; `reference_expanded` is U (k = 2) of the reference.
    """

    reference_rh_pct: float
    reading_rh_pct: float
    approach: Approach
    temp_degc: float
    reference_expanded: float
    salt: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Conditions:
    """What a person states about the bench."""

    resolution_rh_pct: float = 0.1
    gradient_k: float = 0.2  # half-width of the difference between salt and probe
    drift_rh_pct_per_year: float = 0.5  # half-width, until a history says better
    lasts_months: int = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class PairResult:
    """A pair with what the fit makes of it, in %RH."""

    pair: Pair
    fitted_rh_pct: float

    @property
    def error_rh_pct(self) -> float:
        """Reading minus reference, before the fit."""
        return self.pair.reading_rh_pct - self.pair.reference_rh_pct

    @property
    def residual_rh_pct(self) -> float:
        """Reference minus fitted value, after the fit."""
        return self.pair.reference_rh_pct - self.fitted_rh_pct


@dataclass(frozen=True, slots=True, kw_only=True)
class HumidityFit:
    """The line of a humidity probe and what it rests on."""

    line: Line
    budget: Budget
    results: tuple[PairResult, ...]
    range_rh_pct: tuple[float, float]
    temp_degc: tuple[float, float]
    approaches: frozenset[str]

    @property
    def expanded_rh_pct(self) -> float:
        """U (k = 2) of a corrected reading inside the range, %RH."""
        return self.budget.expanded

    @property
    def checks(self) -> tuple[PairResult, ...]:
        """The check pairs."""
        return tuple(r for r in self.results if r.pair.approach == "check")

    def check_limit_rh_pct(self, result: PairResult) -> float:
        """How far a check pair may lie off: both uncertainties, combined (k = 2)."""
        return math.hypot(self.expanded_rh_pct, result.pair.reference_expanded)

    @property
    def verdict(self) -> Literal["holds", "fails", "not_shown"]:
        """`not_shown` without a check pair: two salts fix a line but cannot test it."""
        if not self.checks:
            return "not_shown"
        inside = all(abs(r.residual_rh_pct) <= self.check_limit_rh_pct(r) for r in self.checks)
        return "holds" if inside else "fails"


def fit_humidity(pairs: Sequence[Pair], conditions: Conditions) -> HumidityFit:
    """Fit the line through all salt pairs and sum up its doubt.

    Needs pairs in two salts at least 20 %RH apart. Raises `CalibrationError` with the mend.
    """
    fitted = [pair for pair in pairs if pair.approach != "check"]
    salts = {pair.salt for pair in fitted}
    if len(salts) < 2:
        raise CalibrationError(
            "pairs",
            got=f"{len(fitted)} in {len(salts)} salt{'' if len(salts) == 1 else 's'}",
            allowed="pairs in two salts",
            mend="Take a pair in a second salt, far from the first.",
        )
    references = np.array([pair.reference_rh_pct for pair in fitted])
    span = float(references.max() - references.min())
    if span < 20:
        raise CalibrationError(
            "pairs",
            got=f"salts {span:.1f} %RH apart",
            allowed="20 %RH apart or more",
            mend="A short base makes a long error: magnesium chloride and sodium chloride are 42.",
        )
    line = fit_line(np.array([pair.reading_rh_pct for pair in fitted]), references)
    if not 0.2 < line.slope < 5:
        raise CalibrationError(
            "pairs",
            got=f"a slope of {line.slope:.3f}",
            allowed="0.2 to 5",
            mend="A reading stands beside the wrong salt, or the probe is dead.",
        )
    return HumidityFit(
        line=line,
        budget=combine(_rows(fitted, line, conditions)),
        results=tuple(
            PairResult(pair=pair, fitted_rh_pct=line.at(pair.reading_rh_pct)) for pair in pairs
        ),
        range_rh_pct=(float(references.min()), float(references.max())),
        temp_degc=(min(p.temp_degc for p in pairs), max(p.temp_degc for p in pairs)),
        approaches=frozenset(pair.approach for pair in fitted),
    )


def _rows(fitted: list[Pair], line: Line, conditions: Conditions) -> tuple[BudgetRow, ...]:
    slope = line.slope
    repeat_sd, repeat_dof = _repeat(fitted, line)
    hysteresis = _hysteresis(fitted)
    readings = [pair.reading_rh_pct for pair in fitted]
    leverage = max(line.leverage_1(min(readings)), line.leverage_1(max(readings)))
    top = max(fitted, key=lambda pair: pair.reference_rh_pct)
    return (
        BudgetRow(
            label="Hysteresis, drier to wetter",
            value=SINGLE_DIRECTION_HYSTERESIS_RH_PCT if hysteresis is None else hysteresis,
            distribution="rectangular",
            sensitivity=slope,
            ground="stated" if hysteresis is None else "measured",
        ),
        BudgetRow(
            label=f"Salt to probe ±{conditions.gradient_k:g} K",
            value=conditions.gradient_k,
            distribution="rectangular",
            sensitivity=rh_slope_pct_per_k(top.temp_degc, top.reference_rh_pct),
            ground="stated",
        ),
        BudgetRow(
            label="Drift until it is due",
            value=conditions.drift_rh_pct_per_year * conditions.lasts_months / 12,
            distribution="rectangular",
            ground="stated",
        ),
        BudgetRow(
            label="Salt points",
            value=max(pair.reference_expanded for pair in fitted),
            distribution="expanded_k2",
            ground="table",
        ),
        BudgetRow(
            label="One reading's scatter",
            value=repeat_sd,
            distribution="standard",
            sensitivity=slope,
            degrees_of_freedom=repeat_dof,
            ground="measured" if math.isfinite(repeat_dof) else "stated",
        ),
        BudgetRow(
            label=f"The line through {line.n} pairs",
            value=repeat_sd * leverage,
            distribution="standard",
            sensitivity=slope,
            degrees_of_freedom=repeat_dof,
            ground="measured" if math.isfinite(repeat_dof) else "stated",
        ),
        BudgetRow(
            label=f"Resolution {conditions.resolution_rh_pct:g}",
            value=conditions.resolution_rh_pct,
            distribution="resolution",
            sensitivity=slope,
            ground="stated",
        ),
    )


def _groups(fitted: list[Pair]) -> dict[tuple[str | None, str], list[float]]:
    groups: dict[tuple[str | None, str], list[float]] = defaultdict(list)
    for pair in fitted:
        # A jar at another temperature stands at another humidity: compare errors, not readings.
        groups[pair.salt, pair.approach].append(pair.reading_rh_pct - pair.reference_rh_pct)
    return groups


def _repeat(fitted: list[Pair], line: Line) -> tuple[float, float]:
    """Pooled standard deviation inside each salt and approach, and its degrees of freedom.

    Where nothing was repeated: the scatter about the line; with two pairs an assumed 0.3 %RH.
    """
    groups = list(_groups(fitted).values())
    dof = sum(len(group) - 1 for group in groups)
    if dof > 0:
        rss = sum((x - sum(g) / len(g)) ** 2 for g in groups for x in g)
        return math.sqrt(rss / dof), float(dof)
    if line.n > 2:
        return line.residual_sd / line.slope, float(line.n - 2)
    return ASSUMED_REPEAT_RH_PCT, math.inf


def _hysteresis(fitted: list[Pair]) -> float | None:
    """Half the largest difference between the two approaches to one salt, %RH; None if unseen."""
    groups = _groups(fitted)
    halves = [
        abs(_mean(groups[salt, "wetter"]) - _mean(groups[salt, "drier"])) / 2
        for salt in SALTS
        if (salt, "wetter") in groups and (salt, "drier") in groups
    ]
    return max(halves) if halves else None


def _mean(values: list[float]) -> float:
    return sum(values) / len(values)
