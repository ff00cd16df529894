"""The Calibrate bench: pairs, error and residual plots, budget, what the fit moves, certificate."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from aldea.core.calibrate.bench import Fit, PairResult
from aldea.core.errors import CalibrationError
from aldea.core.plan.document import Calibration, Plan, Probe
from aldea.core.words.figures import figure, signed
from aldea.core.words.verdicts import Verdict, calibrate_verdict
from aldea.store.calibrations import TakenPair
from aldea.web.kinds.base import Kind, Stated
from aldea.web.views.plot import Scale, round_range

PLOT_WIDTH, PLOT_LEFT = 520, 40
ERROR_PX, RESIDUAL_PX = 200, 170
WIDER_FACTOR = 2.05  # below it k = 2 is 95 % for every purpose of a house


@dataclass(frozen=True, slots=True, kw_only=True)
class PairRow:
    """A pair in the table."""

    number: int
    id: int
    medium: str
    came: str
    detail: str
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
    fit: Fit | None
    rows: tuple[PairRow, ...]
    errors: PairPlot
    residuals: PairPlot | None
    axis: tuple[AxisLine, ...]
    bars: tuple[BudgetBar, ...]
    moves: tuple[Moved, ...]
    equation: str
    words: str
    where: str
    expanded: str
    one_point: bool
    factor_95: str


def make_calibrate_view(
    plan: Plan, probe: Probe, kind: Kind, taken: list[TakenPair], stated: Stated
) -> CalibrateView:
    """Fit what was taken and finish everything that the page shows."""
    pairs = [row.pair for row in taken]
    refusal = ""
    fit: Fit | None = None
    try:
        fit = kind.fit(pairs, stated)
    except CalibrationError as exc:
        refusal = f"Got {exc.got}; needed: {exc.allowed}. {exc.mend}".strip()
    results = fit.results if fit else tuple(PairResult(pair=p, fitted=p.reading) for p in pairs)
    axis = Axis(*kind.axis(pairs))
    return CalibrateView(
        verdict=calibrate_verdict(
            probe.name,
            fit,
            refusal=refusal,
            unit=kind.unit,
            difference=kind.difference,
            places=kind.places,
            ends=kind.ends(fit) if fit else "",
            doubt_these=kind.doubt_these,
            untested=kind.untested,
        ),
        fit=fit,
        rows=tuple(
            _row(number, row, kind, result if fit else None, fit)
            for number, (row, result) in enumerate(zip(taken, results, strict=True), 1)
        ),
        errors=_error_plot(results, fit, axis, kind.difference),
        residuals=_residual_plot(fit, axis, kind.difference) if fit else None,
        axis=tuple(
            AxisLine(at=axis.x(value), text=f"{value:.0f}".replace("-", "−"))
            for value in np.arange(axis.low, axis.high + axis.step / 2, axis.step).tolist()
        ),
        bars=_bars(fit) if fit else (),
        moves=_moves(plan, probe, fit) if fit else (),
        equation=_equation(fit) if fit else "",
        words=_words(fit, kind) if fit else refusal,
        where=kind.where(fit) if fit else "",
        expanded=figure(fit.expanded, kind.places) if fit else "",
        one_point=fit is not None and math.isinf(fit.line.sxx),
        factor_95=figure(fit.budget.factor_95, 2)
        if fit and fit.budget.factor_95 > WIDER_FACTOR
        else "",
    )


@dataclass(frozen=True, slots=True)
class Axis:
    """The references along the plots."""

    low: float
    high: float
    step: float

    def x(self, reference: float) -> float:
        """Where a reference stands, px; at the edge where it is beyond."""
        left, right = PLOT_LEFT, PLOT_WIDTH - 8
        scale = Scale(low=self.low, high=self.high, pixel_low=left, pixel_high=right)
        return round(min(max(scale(reference), left), right), 1)


def _row(
    number: int, taken: TakenPair, kind: Kind, result: PairResult | None, fit: Fit | None
) -> PairRow:
    pair = taken.pair
    check = pair.approach == "check"
    beyond = False
    if result is not None and fit is not None:
        limit = fit.check_limit(result) if check else fit.expanded
        beyond = abs(result.residual) > limit
    return PairRow(
        number=number,
        id=taken.id,
        medium=kind.medium(pair),
        came=kind.came(pair),
        detail=pair.detail,
        reference=figure(pair.reference, kind.places),
        reading=figure(pair.reading, kind.places),
        fitted=figure(result.fitted, kind.places) if result else "–",
        residual=signed(result.residual, kind.places) if result else "–",
        check=check,
        beyond=beyond,
    )


def _spread(results: tuple[PairResult, ...]) -> list[float]:
    """Sideways offsets, so that pairs of one jar do not cover one another."""
    seen: dict[int, int] = {}
    offsets = []
    for result in results:
        place = round(result.pair.reference)
        offsets.append(seen.get(place, 0) * 9.0)
        seen[place] = seen.get(place, 0) + 1
    return [
        offset - (seen[round(r.pair.reference)] - 1) * 4.5
        for offset, r in zip(offsets, results, strict=True)
    ]


def _shape(approach: str) -> str:
    return {"drier": "up", "wetter": "down", "point": "up", "check": "diamond"}[approach]


def _points(
    results: tuple[PairResult, ...], values: list[float], y: Scale, axis: Axis, unit: str
) -> tuple[Point, ...]:
    return tuple(
        Point(
            x=round(axis.x(result.pair.reference) + offset, 1),
            y=round(y(value), 1),
            y_low=round(y(value - result.pair.reference_expanded), 1),
            y_high=round(y(value + result.pair.reference_expanded), 1),
            shape=_shape(result.pair.approach),
            label=f"{figure(result.pair.reference)}: {signed(value)} {unit}",
        )
        for result, value, offset in zip(results, values, _spread(results), strict=True)
    )


def _grid(low: float, high: float, step: float, y: Scale) -> tuple[AxisLine, ...]:
    count = round((high - low) / step)
    return tuple(
        AxisLine(
            at=round(y(low + i * step), 1),
            text=signed(low + i * step, 0 if step >= 1 else 1 if step >= 0.1 else 2),
            strong=abs(low + i * step) < 1e-9,
        )
        for i in range(count + 1)
    )


def _step(top: float) -> float:
    """Distance of grid lines: a round figure that leaves three to eight of them each way."""
    for step in (0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0):
        if top <= 4 * step:
            return step
    return 10.0 * math.ceil(top / 40)


def _error_plot(
    results: tuple[PairResult, ...], fit: Fit | None, axis: Axis, unit: str
) -> PairPlot:
    values = [result.error for result in results]
    reach = [abs(v) + r.pair.reference_expanded for v, r in zip(values, results, strict=True)]
    top = max([*reach, 2.0 if unit == "%RH" else 0.5])
    step = _step(top)
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    y = Scale(low=low, high=high, pixel_low=ERROR_PX - 6, pixel_high=6)
    line = None
    if fit is not None:
        ends = [
            (reference - fit.line.intercept) / fit.line.slope - reference
            for reference in (axis.low, axis.high)
        ]
        line = (axis.x(axis.low), round(y(ends[0]), 1), axis.x(axis.high), round(y(ends[1]), 1))
    return PairPlot(
        points=_points(results, values, y, axis, unit),
        grid=_grid(low, high, step, y),
        line=line,
        band=None,
    )


def _residual_plot(fit: Fit, axis: Axis, unit: str) -> PairPlot:
    values = [result.residual for result in fit.results]
    reach = [abs(v) + r.pair.reference_expanded for v, r in zip(values, fit.results, strict=True)]
    top = max([*reach, fit.expanded * 1.25])
    step = _step(top)
    low, high = round_range(-top, top, at_least=2 * step, step=step)
    y = Scale(low=low, high=high, pixel_low=RESIDUAL_PX - 6, pixel_high=6)
    edge = fit.expanded
    return PairPlot(
        points=_points(fit.results, values, y, axis, unit),
        grid=_grid(low, high, step, y),
        line=None,
        band=(round(y(edge), 1), round(y(-edge), 1)),
    )


def _bars(fit: Fit) -> tuple[BudgetBar, ...]:
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


def new_calibration(fit: Fit, certificate: int) -> Calibration:
    """What a signed certificate puts into the plan."""
    return Calibration(
        slope=round(fit.line.slope, 6),
        intercept=round(fit.line.intercept, 5),
        expanded_uncertainty=round(fit.expanded, 2),
        basis="certificate",
        certificate=certificate,
    )


def _moves(plan: Plan, probe: Probe, fit: Fit) -> tuple[Moved, ...]:
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


def _equation(fit: Fit) -> str:
    sign = "+" if fit.line.slope >= 0 else "−"
    return (
        f"true = {figure(fit.line.intercept, 2)} {sign} {figure(abs(fit.line.slope), 4)} × reading"
    )


def _words(fit: Fit, kind: Kind) -> str:
    parts = kind.words(fit)
    if fit.checks:
        worst = max(fit.checks, key=lambda r: abs(r.residual))
        parts.append(
            f"The check pair lies {figure(abs(worst.residual), kind.places)} {kind.difference} "
            f"off; it may lie ±{figure(fit.check_limit(worst), kind.places)}."
        )
    else:
        parts.append("What fixed a line cannot test it. A check pair can.")
    return " ".join(parts)


def certificate_document(
    probe: Probe, kind: Kind, fit: Fit, taken: list[TakenPair], stated: Stated
) -> dict[str, Any]:
    """What is signed: the line, what it rests on, and where it holds; in the probe's unit."""
    return {
        "format": "aldea-certificate/2",
        "probe": {"id": probe.id, "name": probe.name, "quantity": probe.quantity},
        "unit": kind.unit,
        "line": {"slope": fit.line.slope, "intercept": fit.line.intercept},
        "expanded_uncertainty": fit.expanded,
        "coverage_factor": 2,
        "factor_95": fit.budget.factor_95,
        "effective_degrees_of_freedom": fit.budget.effective_degrees_of_freedom
        if math.isfinite(fit.budget.effective_degrees_of_freedom)
        else None,
        "range": [fit.low, fit.high],
        "temp_degc": list(fit.temp_degc),
        "verdict": fit.verdict,
        "conditions": dict(stated),
        "budget": [
            {
                "label": row.label,
                "value": row.value,
                "distribution": row.distribution,
                "sensitivity": row.sensitivity,
                "degrees_of_freedom": row.degrees_of_freedom
                if math.isfinite(row.degrees_of_freedom)
                else None,
                "standard_uncertainty": row.standard_uncertainty,
                "ground": row.ground,
            }
            for row in fit.budget.rows
        ],
        "pairs": [
            {
                "pair": row.id,
                "medium": row.pair.medium,
                "approach": row.pair.approach,
                "temp_degc": row.pair.temp_degc,
                "reference": row.pair.reference,
                "reading": row.pair.reading,
                "residual": result.residual,
                "detail": row.pair.detail,
                "taken_by": row.by,
                "taken_ms": row.taken_ms,
            }
            for row, result in zip(taken, fit.results, strict=True)
        ],
        "before": probe.calibration.model_dump(mode="json"),
    }
