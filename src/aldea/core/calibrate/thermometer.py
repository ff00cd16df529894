"""The thermometer bench: fixed points of water, a reference beside the probe or on both sides."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError, InputError
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.calibration_line import CalibrationLine, fit_line
from aldea.core.calibrate.fit import Fit, fit_of
from aldea.core.calibrate.outliers import with_outliers
from aldea.core.calibrate.pairs import Pair
from aldea.core.calibrate.scatter import Scatter, scatter_of, scatter_rows
from aldea.core.calibrate.uncertainty_budget import BudgetRow, combine

WAYS = {
    "ice": "ice bath",
    "boiling": "boiling water",
    "beside": "reference beside",
    "between": "between two",
}
ICE_EXPANDED_K = 0.04  # a bath well made: crushed ice, packed, stirred, own meltwater drained
BOILING_EXPANDED_K = 0.2  # steam above boiling water, 3 hPa of pressure, dissolved minerals
SAME_TEMPERATURE_K = 1.0
SHORTEST_BASE_K = 5.0
ASSUMED_REPEAT_K = 0.05  # assumed scatter of one reading where nothing was repeated


@dataclass(frozen=True, slots=True, kw_only=True)
class ThermometerConditions:
    """What a person states about the bench; K, half-widths where not said otherwise."""

    resolution_k: float = 0.1
    contact_k: float = 0.1  # paste, clamp, insulation: reading against the thing itself
    position_k: float = 0.0  # along the pipe or across the room, where the probe will stay
    self_heating_k: float = 0.0
    drift_k_per_year: float = 0.05
    reach_k: float = 10.0  # how far from a single point it is to be used
    gain_pct: float = 1.0  # how far the slope may be off where one point cannot show it
    lasts_months: int = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Between:
    """A value between two references, and its U (k = 2)."""

    reference_degc: float
    expanded_k: float


def between(
    *,
    first_degc: float,
    second_degc: float,
    first_cm: float,
    second_cm: float,
    each_expanded_k: float,
    place_cm: float = 0.5,
) -> Between:
    """The temperature at a probe between two references, by its distance to each.

    Linear in the distance: T = (d2 T1 + d1 T2) / (d1 + d2). Its doubt (JCGM 100) is that of both
    references by their weights and of the place, ±`place_cm` along the slope between them.
    """
    whole = first_cm + second_cm
    if not (first_cm >= 0 and second_cm >= 0 and whole > 0):
        raise InputError(
            "distances",
            got=f"{short(first_cm)} and {short(second_cm)} cm",
            allowed="zero or more, and not both zero",
        )
    share_1 = second_cm / whole
    each = each_expanded_k / 2
    place = abs(second_degc - first_degc) / whole * place_cm / math.sqrt(3)
    u = math.sqrt((share_1 * each) ** 2 + ((1 - share_1) * each) ** 2 + place**2)
    return Between(
        reference_degc=share_1 * first_degc + (1 - share_1) * second_degc, expanded_k=2 * u
    )


def fit_thermometer(pairs: Sequence[Pair], conditions: ThermometerConditions) -> Fit:
    """One point gives an offset, two or more a line; the doubt of what is not shown is stated.

    Two temperatures nearer than 5 K are taken for one. Outliers are named. Raises
    `CalibrationError` with the fix.
    """
    return with_outliers(_line(pairs, conditions), lambda others: _line(others, conditions), _point)


def _line(pairs: Sequence[Pair], conditions: ThermometerConditions) -> Fit:
    fitted = [pair for pair in pairs if pair.approach != "check"]
    if not fitted:
        raise CalibrationError(
            "points",
            got="none",
            allowed="one or more",
            fix="An ice bath is the cheapest point; a second far from it gives the slope.",
        )
    references = np.array([pair.reference for pair in fitted])
    readings = np.array([pair.reading for pair in fitted])
    if not (np.isfinite(references).all() and np.isfinite(readings).all()):
        raise CalibrationError("points", got="a value that is no number", allowed="finite numbers")
    span = float(references.max() - references.min())
    if span < SHORTEST_BASE_K:
        line = _offset(references, readings)
        middle = float(references.mean())
        low, high = middle - conditions.reach_k, middle + conditions.reach_k
    else:
        line = fit_line(readings, references)
        low, high = float(references.min()), float(references.max())
    if not 0.8 < line.slope < 1.25:
        raise CalibrationError(
            "points",
            got=f"a slope of {figure(line.slope, 3)}",
            allowed="0.8 to 1.25 for a thermometer",
            fix="A reading stands beside the wrong point, is in °F, or the probe’s conversion is "
            "wrong: ask the supply detective.",
        )
    scatter = scatter_of(fitted, line, _point, ASSUMED_REPEAT_K)
    budget = combine(_rows(fitted, line, conditions, scatter))
    return fit_of(pairs, line, budget, low, high, scatter)


def _offset(references: np.ndarray, readings: np.ndarray) -> CalibrationLine:
    """The line of slope 1 through the mean of points at one temperature."""
    offsets = references - readings
    n = len(offsets)
    return CalibrationLine(
        slope=1.0,
        intercept=float(offsets.mean()),
        n=n,
        mean_reading=float(readings.mean()),
        sxx=math.inf,
        residual_sd=float(offsets.std(ddof=1)) if n > 1 else math.nan,
    )


def _rows(
    fitted: list[Pair],
    line: CalibrationLine,
    conditions: ThermometerConditions,
    scatter: Scatter,
) -> tuple[BudgetRow, ...]:
    stated = [
        (f"Contact ±{short(conditions.contact_k)} K", conditions.contact_k),
        (f"Position ±{short(conditions.position_k)} K", conditions.position_k),
        (f"Warms itself, up to {short(conditions.self_heating_k)} K", conditions.self_heating_k),
        ("Drift until it is due", conditions.drift_k_per_year * conditions.lasts_months / 12),
    ]
    if not line.is_sloped:
        doubt = conditions.gain_pct / 100 * conditions.reach_k
        stated.append((f"Slope not shown, ±{short(conditions.gain_pct)} %", doubt))
    return (
        BudgetRow(
            label="References",
            value=max(pair.reference_expanded for pair in fitted),
            distribution="expanded_k2",
            ground="stated",
        ),
        *(
            BudgetRow(label=label, value=value, distribution="rectangular")
            for label, value in stated
            if value > 0
        ),
        *scatter_rows(line, fitted, scatter, conditions.resolution_k),
    )


def _point(pair: Pair) -> tuple[str | None, int]:
    """What was repeated: the same way, at the same temperature."""
    return pair.medium, round(pair.reference / SAME_TEMPERATURE_K)
