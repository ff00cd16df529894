"""The humidity bench: salt pairs from drier and from wetter, line, budget and verdict."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.calibration_line import CalibrationLine, fit_line
from aldea.core.calibrate.fit import Fit, fit_of
from aldea.core.calibrate.outliers import with_outliers
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.salts import SALTS
from aldea.core.calibrate.scatter import Scatter, scatter_of, scatter_rows
from aldea.core.calibrate.uncertainty_budget import BudgetRow, combine
from aldea.core.physics.moist_air import rh_slope_pct_per_k

SINGLE_DIRECTION_HYSTERESIS_RH_PCT = 1.0  # assumed half-width where only one approach was taken
ASSUMED_REPEAT_RH_PCT = 0.3  # assumed scatter of one reading where two pairs leave nothing over


@dataclass(frozen=True, slots=True, kw_only=True)
class Conditions:
    """What a person states about the bench."""

    resolution_rh_pct: float = 0.1
    gradient_k: float = 0.2  # half-width of the difference between salt and probe
    drift_rh_pct_per_year: float = 0.5  # half-width, until a history says better
    lasts_months: int = 12


def fit_humidity(pairs: Sequence[Pair], conditions: Conditions) -> Fit:
    """Fit the line through all salt pairs, sum up its doubt, and name the outliers.

    Needs pairs in two salts at least 20 %RH apart. Raises `CalibrationError` with the fix.
    """
    return with_outliers(
        humidity_line(pairs, conditions),
        lambda others: humidity_line(others, conditions),
        lambda pair: (pair.medium, pair.approach),
    )


def humidity_line(pairs: Sequence[Pair], conditions: Conditions) -> Fit:
    """The same without looking for outliers."""
    fitted = [pair for pair in pairs if pair.approach != "check"]
    salts = {pair.medium for pair in fitted}
    if len(salts) < 2:
        raise CalibrationError(
            "pairs",
            got=f"{len(fitted)} in {len(salts)} salt{'' if len(salts) == 1 else 's'}",
            allowed="pairs in two salts",
            fix="Record a pair in a second salt, far from the first.",
        )
    references = np.array([pair.reference for pair in fitted])
    span = float(references.max() - references.min())
    if span < 20:
        raise CalibrationError(
            "pairs",
            got=f"salts {figure(span)} %RH apart",
            allowed="20 %RH apart or more",
            fix="A short base makes a long error: magnesium chloride and sodium chloride are 42.",
        )
    line = fit_line(np.array([pair.reading for pair in fitted]), references)
    if not 0.2 < line.slope < 5:
        raise CalibrationError(
            "pairs",
            got=f"a slope of {figure(line.slope, 3)}",
            allowed="0.2 to 5",
            fix="A reading stands beside the wrong salt, or the probe is dead.",
        )
    low, high = float(references.min()), float(references.max())
    scatter = scatter_of(fitted, line, lambda pair: pair.medium, ASSUMED_REPEAT_RH_PCT)
    budget = combine(_rows(fitted, line, conditions, scatter))
    return fit_of(pairs, line, budget, low, high, scatter)


def _rows(
    fitted: list[Pair], line: CalibrationLine, conditions: Conditions, scatter: Scatter
) -> tuple[BudgetRow, ...]:
    slope = line.slope
    hysteresis = _hysteresis(fitted, one_size=not scatter.uneven_ways)
    top = max(fitted, key=lambda pair: pair.reference)
    return (
        BudgetRow(
            label="Hysteresis, drier to wetter",
            value=SINGLE_DIRECTION_HYSTERESIS_RH_PCT if hysteresis is None else hysteresis,
            distribution="rectangular",
            sensitivity=slope,
            ground="stated" if hysteresis is None else "measured",
        ),
        BudgetRow(
            label=f"Salt to probe ±{short(conditions.gradient_k)} K",
            value=conditions.gradient_k,
            distribution="rectangular",
            sensitivity=rh_slope_pct_per_k(top.temp_degc, top.reference),
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
        *scatter_rows(line, fitted, scatter, conditions.resolution_rh_pct),
    )


def _groups(fitted: list[Pair]) -> dict[tuple[str | None, str], list[float]]:
    groups: dict[tuple[str | None, str], list[float]] = defaultdict(list)
    for pair in fitted:
        # A jar at another temperature stands at another humidity: compare errors, not readings.
        groups[pair.medium, pair.approach].append(pair.reading - pair.reference)
    return groups


def _hysteresis(fitted: list[Pair], *, one_size: bool) -> float | None:
    """Half the difference between the two approaches to a salt, %RH; None if unseen.

    Of `one_size` it is the mean over the salts, and what they differ in is scatter; else that of
    the salt where it is largest.
    """
    groups = _groups(fitted)
    halves = [
        (_mean(groups[salt, "wetter"]) - _mean(groups[salt, "drier"])) / 2
        for salt in SALTS
        if (salt, "wetter") in groups and (salt, "drier") in groups
    ]
    if not halves:
        return None
    return abs(_mean(halves)) if one_size else max(abs(half) for half in halves)


def _mean(values: list[float]) -> float:
    return sum(values) / len(values)
