"""The Calibrate bench: pairs, error and residual plots, budget, what the fit moves, certificate."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from aldea.core.calibrate.bench import Fit, PairResult
from aldea.core.calibrate.budget import BudgetRow
from aldea.core.errors import CalibrationError
from aldea.core.plan.document import Calibration, Plan, Probe
from aldea.core.plan.edit import calibrated
from aldea.core.words.figures import figure, signed
from aldea.core.words.verdicts import Verdict, calibrate_verdict
from aldea.store.calibrations import TakenPair
from aldea.web.kinds.base import Kind, Stated
from aldea.web.views.budget import BudgetView, make_budget_view
from aldea.web.views.pair_plots import Axis, AxisLine, PairPlot, error_plot, residual_plot

UNSIGNED = 1  # a certificate's number for a rehearsal, before there is one
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
    times_a_day: str


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
    budget: BudgetView | None


TimesADay = Callable[[Plan], dict[str, float]]


def make_calibrate_view(
    plan: Plan,
    probe: Probe,
    kind: Kind,
    taken: list[TakenPair],
    stated: tuple[Stated, tuple[BudgetRow, ...]],
    times_a_day: TimesADay,
) -> CalibrateView:
    """Fit what was taken and finish everything that the page shows.

    `stated` are the figures of the kind and the rows of one's own.
    `times_a_day` rehearses a plan on the record: how often each load is switched on.
    """
    pairs = [row.pair for row in taken]
    refusal = ""
    fit: Fit | None = None
    try:
        fit = kind.fit(pairs, stated[0]).with_rows(stated[1])
    except CalibrationError as exc:
        refusal = f"Got {exc.got}; needed: {exc.allowed}. {exc.mend}".strip()
    results = fit.results if fit else tuple(PairResult(pair=p, fitted=p.reading) for p in pairs)
    axis = Axis(*kind.axis(pairs))
    return CalibrateView(
        verdict=_stands(probe, kind)
        if not taken and probe.calibration.certificate
        else calibrate_verdict(
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
        errors=error_plot(results, fit, axis, kind.difference),
        residuals=residual_plot(fit, axis, kind.difference) if fit else None,
        axis=tuple(
            AxisLine(at=axis.x(value), text=f"{value:.0f}".replace("-", "−"))
            for value in np.arange(axis.low, axis.high + axis.step / 2, axis.step).tolist()
        ),
        bars=_bars(fit) if fit else (),
        moves=_moves(plan, probe, fit, times_a_day) if fit else (),
        equation=_equation(fit) if fit else "",
        words=_words(fit, kind) if fit else refusal,
        where=kind.where(fit) if fit else "",
        expanded=figure(fit.expanded, kind.places) if fit else "",
        one_point=fit is not None and math.isinf(fit.line.sxx),
        factor_95=figure(fit.budget.factor_95, 2)
        if fit and fit.budget.factor_95 > WIDER_FACTOR
        else "",
        budget=make_budget_view(fit, kind.unit, kind.difference) if fit else None,
    )


def _stands(probe: Probe, kind: Kind) -> Verdict:
    """What is said while no pair was taken since the last certificate."""
    own = probe.calibration
    return Verdict(
        mark="holds",
        sentence=f"{probe.name}: certificate {own.certificate} stands, "
        f"±{figure(own.expanded_uncertainty, kind.places)} {kind.unit}.",
        rest="Pairs that are taken from now on make the next one.",
    )


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


def _moves(plan: Plan, probe: Probe, fit: Fit, times_a_day: TimesADay) -> tuple[Moved, ...]:
    """What each mark on this probe really was, when the old line said that it was reached."""
    old = probe.calibration
    moved = []
    claims = plan.claims_on(probe.id)
    if not claims:
        return ()
    before = times_a_day(plan)
    after = times_a_day(calibrated(plan, probe.id, new_calibration(fit, UNSIGNED)))
    for claim in claims:
        times = "–"
        if claim.load in before and claim.load in after:
            times = f"{figure(before[claim.load])} → {figure(after[claim.load])}"
        load = plan.load(claim.load)
        for word, mark in (("on", claim.condition.on), ("off", claim.condition.off)):
            raw = (mark - old.intercept) / old.slope
            moved.append(
                Moved(
                    label=f"{load.name if load else claim.load} {word}",
                    was_really=figure(fit.line.at(raw)),
                    will_be=figure(mark),
                    times_a_day=times,
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
    if fit.outliers:
        which = " and ".join(str(number) for number in fit.outliers)
        several = "Pairs" if len(fit.outliers) > 1 else "Pair"
        parts.append(
            f"{several} {which} beyond ±{figure(fit.expanded, kind.places)}: look again; nothing "
            "is dropped by itself."
        )
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
