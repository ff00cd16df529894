"""The budget as a table, and what is promised along the range."""

import math
from dataclasses import dataclass

from aldea.core.base.figures import figure, short, thousands
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.uncertainty_budget import DIVISOR
from aldea.web.benches.calibrate.budget.own_rows import SPREADS
from aldea.web.shell.sketch import Sketch, make_sketch

STEPS = 40

MANY_DEGREES, FEW_DEGREES = 1000, 30


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetLine:
    """A row of the budget, every column finished."""

    label: str
    ground: str
    value: str
    spread: str
    divisor: str
    sensitivity: str
    freedom: str
    sigma: str
    share: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetView:
    """The rows, what they come to, and U along the range."""

    lines: tuple[BudgetLine, ...]
    combined: str
    freedom: str
    expanded: str
    factor_95: str
    coverage: str
    along: Sketch


def _freedom(value: float) -> str:
    return "∞" if math.isinf(value) else figure(value, 0 if value == int(value) else 1)


def make_budget_view(fit: Fit, unit: str, difference: str) -> BudgetView:
    """Finish every figure; the drawing is U of a corrected reading over the true value."""
    budget = fit.budget
    variance = budget.combined**2 or 1.0
    span = fit.high - fit.low
    trues = [fit.low + span * (i / STEPS * 1.2 - 0.1) for i in range(STEPS + 1)]
    readings = [(true - fit.line.intercept) / fit.line.slope for true in trues]
    pairs = [(r.pair.reference, abs(r.residual)) for r in fit.results]
    return BudgetView(
        lines=tuple(
            BudgetLine(
                label=row.label,
                ground=row.ground,
                value=short(float(f"{row.value:.4g}")),
                spread=SPREADS[row.distribution],
                divisor=figure(DIVISOR[row.distribution], 2),
                sensitivity=figure(row.sensitivity, 3),
                freedom=_freedom(row.degrees_of_freedom),
                sigma=figure(row.standard_uncertainty, 3),
                share=f"{figure(100 * row.standard_uncertainty**2 / variance, 0)} %",
            )
            for row in sorted(budget.rows, key=lambda row: -row.standard_uncertainty)
        ),
        combined=figure(budget.combined, 3),
        freedom=_effective(budget.effective_degrees_of_freedom),
        expanded=figure(budget.expanded, 3),
        factor_95=figure(budget.factor_95, 2),
        coverage=f"k = {short(round(budget.factor, 2))}",
        along=make_sketch(
            "Stated uncertainty over the range, and the error of each pair",
            x_words=f"true value, {unit}",
            y_words=f"± {difference}, k = {short(round(budget.factor, 2))}",
            points=[
                ("line", trues, [fit.expanded_at(reading) for reading in readings]),
                ("dots", [x for x, _ in pairs], [y for _, y in pairs]),
            ],
            levels=[(fit.expanded, f"the certificate states ±{figure(fit.expanded, 2)}")],
            from_zero=True,
        ),
    )


def _effective(dof: float) -> str:
    """Effective degrees of freedom, no finer than they are worth."""
    if dof > MANY_DEGREES:
        return f"over {thousands(MANY_DEGREES)}"
    return figure(dof, 1 if dof < FEW_DEGREES else 0)
