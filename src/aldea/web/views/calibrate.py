"""The humidity bench: pairs, error and residual plots, budget, what the fit moves, certificate."""

from dataclasses import dataclass
from typing import Any

from aldea.core.calibrate.humidity import (
    Conditions,
    HumidityFit,
    PairResult,
    fit_humidity,
)
from aldea.core.calibrate.salts import SALTS
from aldea.core.errors import CalibrationError
from aldea.core.plan.document import Calibration, Plan, Probe
from aldea.core.words.figures import figure, short, signed
from aldea.core.words.verdicts import Verdict, calibrate_verdict
from aldea.store.calibrations import TakenPair
from aldea.web.views.plot import Scale, round_range

PLOT_WIDTH, PLOT_LEFT = 520, 40
ERROR_PX, RESIDUAL_PX = 200, 170
LOW_RH, HIGH_RH = 20.0, 90.0
WIDER_FACTOR = 2.05  # below it k = 2 is 95 % for every purpose of a house


@dataclass(frozen=True, slots=True, kw_only=True)
class PairRow:
    """A pair in the table."""

    number: int
    id: int
    salt: str
    came: str
    reference: str
    reading: str
    fitted: str
    residual: str
    check: bool
    beyond: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Point:
    """A pair in a plot: where it stands and how far its reference may be off."""

    x: float
    y: float
    y_low: float
    y_high: float
    shape: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AxisLine:
    """A grid line with its label."""

    at: float
    text: str
    strong: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PairPlot:
    """Points over the reference, with what is drawn behind them."""

    points: tuple[Point, ...]
    grid: tuple[AxisLine, ...]
    line: tuple[float, float, float, float] | None
    band: tuple[float, float] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetBar:
    """A row of the budget."""

    label: str
    figure: str
    px: float
    ground: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """A mark that hangs on the probe."""

    label: str
    was_really: str
    will_be: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibrateView:
    """The whole bench."""

    verdict: Verdict
    fit: HumidityFit | None
    rows: tuple[PairRow, ...]
    errors: PairPlot
    residuals: PairPlot | None
    axis: tuple[AxisLine, ...]
    bars: tuple[BudgetBar, ...]
    moves: tuple[Moved, ...]
    equation: str
    words: str
    range_words: str
    temp_words: str
    factor_95: str


def make_calibrate_view(
    plan: Plan, probe: Probe, taken: list[TakenPair], conditions: Conditions
) -> CalibrateView:
    """Fit what was taken and finish everything that the page shows."""
    pairs = [row.pair for row in taken]
    refusal = ""
    fit: HumidityFit | None = None
    try:
        fit = fit_humidity(pairs, conditions)
    except CalibrationError as exc:
        refusal = f"Got {exc.got}; needed: {exc.allowed}. {exc.mend}".strip()
    results = (
        fit.results
        if fit
        else tuple(PairResult(pair=p, fitted_rh_pct=p.reading_rh_pct) for p in pairs)
    )
    return CalibrateView(
        verdict=calibrate_verdict(probe.name, fit, refusal),
        fit=fit,
        rows=tuple(
            _row(number, row, result if fit else None, fit)
            for number, (row, result) in enumerate(zip(taken, results, strict=True), 1)
        ),
        errors=_error_plot(results, fit),
        residuals=_residual_plot(fit) if fit else None,
        axis=tuple(
            AxisLine(at=round(_x(value), 1), text=f"{value:.0f}")
            for value in range(int(LOW_RH), int(HIGH_RH) + 1, 10)
        ),
        bars=_bars(fit) if fit else (),
        moves=_moves(plan, probe, fit) if fit else (),
        equation=_equation(fit) if fit else "",
        words=_words(fit) if fit else refusal,
        range_words=f"{figure(fit.range_rh_pct[0], 0)} to {figure(fit.range_rh_pct[1], 0)} %RH"
        if fit
        else "",
        temp_words=_temperatures(fit) if fit else "",
        factor_95=figure(fit.budget.factor_95, 2)
        if fit and fit.budget.factor_95 > WIDER_FACTOR
        else "",
    )


def _x(reference: float) -> float:
    scale = Scale(low=LOW_RH, high=HIGH_RH, pixel_low=PLOT_LEFT, pixel_high=PLOT_WIDTH - 8)
    return min(max(scale(reference), PLOT_LEFT), PLOT_WIDTH - 8)


def _row(
    number: int, taken: TakenPair, result: PairResult | None, fit: HumidityFit | None
) -> PairRow:
    pair = taken.pair
    check = pair.approach == "check"
    name = SALTS[pair.salt].formula if pair.salt else "instrument"
    beyond = False
    if result is not None and fit is not None:
        limit = fit.check_limit_rh_pct(result) if check else fit.expanded_rh_pct
        beyond = abs(result.residual_rh_pct) > limit
    return PairRow(
        number=number,
        id=taken.id,
        salt=name,
        came="check" if check else f"from {pair.approach}",
        reference=figure(pair.reference_rh_pct),
        reading=figure(pair.reading_rh_pct),
        fitted=figure(result.fitted_rh_pct) if result else "–",
        residual=signed(result.residual_rh_pct) if result else "–",
        check=check,
        beyond=beyond,
    )


def _spread(results: tuple[PairResult, ...]) -> list[float]:
    """Sideways offsets, so that pairs of one jar do not cover one another."""
    seen: dict[int, int] = {}
    offsets = []
    for result in results:
        place = round(result.pair.reference_rh_pct)
        offsets.append(seen.get(place, 0) * 9.0)
        seen[place] = seen.get(place, 0) + 1
    return [
        offset - (seen[round(r.pair.reference_rh_pct)] - 1) * 4.5
        for offset, r in zip(offsets, results, strict=True)
    ]


def _shape(approach: str) -> str:
    return {"drier": "up", "wetter": "down", "check": "diamond"}[approach]


def _points(results: tuple[PairResult, ...], values: list[float], y: Scale) -> tuple[Point, ...]:
    return tuple(
        Point(
            x=round(_x(result.pair.reference_rh_pct) + offset, 1),
            y=round(y(value), 1),
            y_low=round(y(value - result.pair.reference_expanded), 1),
            y_high=round(y(value + result.pair.reference_expanded), 1),
            shape=_shape(result.pair.approach),
            label=f"{figure(result.pair.reference_rh_pct)}: {signed(value)} %RH",
        )
        for result, value, offset in zip(results, values, _spread(results), strict=True)
    )


def _grid(low: float, high: float, step: float, y: Scale) -> tuple[AxisLine, ...]:
    count = round((high - low) / step)
    return tuple(
        AxisLine(
            at=round(y(low + i * step), 1),
            text=signed(low + i * step, 0 if step >= 1 else 1),
            strong=abs(low + i * step) < 1e-9,
        )
        for i in range(count + 1)
    )


def _error_plot(results: tuple[PairResult, ...], fit: HumidityFit | None) -> PairPlot:
    values = [result.error_rh_pct for result in results]
    reach = [abs(v) + r.pair.reference_expanded for v, r in zip(values, results, strict=True)]
    top = max([*reach, 2.0])
    step = 1.0 if top <= 4 else 2.0 if top <= 8 else 5.0
    low, high = round_range(-top, top, at_least=2, step=step)
    y = Scale(low=low, high=high, pixel_low=ERROR_PX - 6, pixel_high=6)
    line = None
    if fit is not None:
        ends = [
            (reference - fit.line.intercept) / fit.line.slope - reference
            for reference in (LOW_RH, HIGH_RH)
        ]
        line = (_x(LOW_RH), round(y(ends[0]), 1), _x(HIGH_RH), round(y(ends[1]), 1))
    return PairPlot(
        points=_points(results, values, y), grid=_grid(low, high, step, y), line=line, band=None
    )


def _residual_plot(fit: HumidityFit) -> PairPlot:
    values = [result.residual_rh_pct for result in fit.results]
    reach = [abs(v) + r.pair.reference_expanded for v, r in zip(values, fit.results, strict=True)]
    top = max([*reach, fit.expanded_rh_pct * 1.25])
    step = 0.5 if top <= 1.5 else 1.0 if top <= 4 else 2.0
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    y = Scale(low=low, high=high, pixel_low=RESIDUAL_PX - 6, pixel_high=6)
    edge = fit.expanded_rh_pct
    return PairPlot(
        points=_points(fit.results, values, y),
        grid=_grid(low, high, step, y),
        line=None,
        band=(round(y(edge), 1), round(y(-edge), 1)),
    )


def _bars(fit: HumidityFit) -> tuple[BudgetBar, ...]:
    rows = sorted(fit.budget.rows, key=lambda row: -row.standard_uncertainty)
    top = max(row.standard_uncertainty for row in rows) or 1.0
    return tuple(
        BudgetBar(
            label=row.label,
            figure=figure(row.standard_uncertainty, 2),
            px=round(96 * row.standard_uncertainty / top, 1),
            ground=row.ground,
        )
        for row in rows
    )


def new_calibration(fit: HumidityFit, certificate: int) -> Calibration:
    """What a signed certificate puts into the plan."""
    return Calibration(
        slope=round(fit.line.slope, 6),
        intercept=round(fit.line.intercept, 5),
        expanded_uncertainty=round(fit.expanded_rh_pct, 2),
        basis="certificate",
        certificate=certificate,
    )


def _moves(plan: Plan, probe: Probe, fit: HumidityFit) -> tuple[Moved, ...]:
    """What each mark on this probe really was, when the old line said that it was reached."""
    old = probe.calibration
    moved = []
    for claim in plan.claims_on(probe.id):
        load = plan.load(claim.load)
        for word, mark in (("on", claim.condition.on), ("off", claim.condition.off)):
            raw = (mark - old.intercept) / old.slope
            moved.append(
                Moved(
                    label=f"{load.name if load else claim.load} {word}",
                    was_really=figure(fit.line.at(raw)),
                    will_be=figure(mark),
                )
            )
    return tuple(moved)


def _equation(fit: HumidityFit) -> str:
    sign = "+" if fit.line.slope >= 0 else "−"
    return (
        f"true = {figure(fit.line.intercept, 2)} {sign} {figure(abs(fit.line.slope), 4)} × reading"
    )


def _words(fit: HumidityFit) -> str:
    parts = []
    if "wetter" not in fit.approaches or "drier" not in fit.approaches:
        only = next(iter(fit.approaches))
        parts.append(
            f"All pairs came from {only}: hysteresis is not shown, ±1.0 %RH is assumed for it."
        )
    if fit.checks:
        worst = max(fit.checks, key=lambda r: abs(r.residual_rh_pct))
        parts.append(
            f"The check pair lies {figure(abs(worst.residual_rh_pct))} %RH off; "
            f"it may lie ±{figure(fit.check_limit_rh_pct(worst))}."
        )
    else:
        parts.append("Two salts fix a line but cannot test it. A check pair can.")
    return " ".join(parts)


def _temperatures(fit: HumidityFit) -> str:
    low, high = fit.temp_degc
    if high - low < 0.05:
        return f"{figure(low)} °C"
    return f"{figure(low)} to {figure(high)} °C"


def certificate_document(
    probe: Probe, fit: HumidityFit, taken: list[TakenPair], conditions: Conditions
) -> dict[str, Any]:
    """What is signed: the line, what it rests on, and where it holds."""
    return {
        "format": "aldea-certificate/1",
        "probe": {"id": probe.id, "name": probe.name, "quantity": probe.quantity},
        "line": {"slope": fit.line.slope, "intercept": fit.line.intercept},
        "expanded_uncertainty_rh_pct": fit.expanded_rh_pct,
        "coverage_factor": 2,
        "factor_95": fit.budget.factor_95,
        "range_rh_pct": list(fit.range_rh_pct),
        "temp_degc": list(fit.temp_degc),
        "verdict": fit.verdict,
        "conditions": {
            "resolution_rh_pct": conditions.resolution_rh_pct,
            "gradient_k": conditions.gradient_k,
            "drift_rh_pct_per_year": conditions.drift_rh_pct_per_year,
            "lasts_months": conditions.lasts_months,
        },
        "budget": [
            {
                "label": row.label,
                "value": row.value,
                "distribution": row.distribution,
                "sensitivity": row.sensitivity,
                "standard_uncertainty_rh_pct": row.standard_uncertainty,
                "ground": row.ground,
            }
            for row in fit.budget.rows
        ],
        "pairs": [
            {
                "pair": row.id,
                "salt": row.pair.salt,
                "approach": row.pair.approach,
                "temp_degc": row.pair.temp_degc,
                "reference_rh_pct": row.pair.reference_rh_pct,
                "reading_rh_pct": row.pair.reading_rh_pct,
                "residual_rh_pct": result.residual_rh_pct,
                "taken_by": row.by,
                "taken_ms": row.taken_ms,
            }
            for row, result in zip(taken, fit.results, strict=True)
        ],
        "before": probe.calibration.model_dump(mode="json"),
    }


def words_of_conditions(conditions: Conditions) -> dict[str, str]:
    """The conditions as they stand in their fields."""
    return {
        "resolution_rh_pct": short(conditions.resolution_rh_pct),
        "gradient_k": short(conditions.gradient_k),
        "drift_rh_pct_per_year": short(conditions.drift_rh_pct_per_year),
        "lasts_months": str(conditions.lasts_months),
    }
