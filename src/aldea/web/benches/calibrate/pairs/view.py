"""The Calibrate bench: pairs, error and residual plots, budget, what the fit moves, certificate."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short, signed
from aldea.core.base.memo import ByIdentity
from aldea.core.base.quantities import unit_of
from aldea.core.calibrate.calibration_line import line_words
from aldea.core.calibrate.certificate import new_calibration
from aldea.core.calibrate.fit import Fit, PairResult
from aldea.core.calibrate.identical import proofs_of
from aldea.core.calibrate.methods.method import Method, Stated
from aldea.core.calibrate.pairs import Pair, TakenPair
from aldea.core.calibrate.uncertainty_budget import BudgetRow
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.tuning import calibrated
from aldea.core.wiring.evidence import VOID_WORDS, is_void
from aldea.core.words.proven import outside_words
from aldea.core.words.verdicts import Verdict, calibrate_verdict
from aldea.store.calibrations import Certificate
from aldea.web.benches.calibrate.budget.view import BudgetView, make_budget_view
from aldea.web.benches.calibrate.pairs.plots import Axis, PairPlot, error_plot, residual_plot
from aldea.web.shell.plot import GridLine

MOST_BARS = 4
UNSIGNED = 1  # a certificate's number for a rehearsal, before there is one


@dataclass(frozen=True, slots=True, kw_only=True)
class PairRow:
    """A pair in the table."""

    number: int
    id: int
    medium: str
    approach: str
    detail: str
    reference: str
    reading: str
    fitted: str
    residual: str
    check: bool
    beyond: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetBar:
    """A row of the budget, small."""

    label: str
    figure: str
    px: float
    ground: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Moved:
    """A threshold of the probe."""

    label: str
    note: str
    was_really: str
    will_be: str
    times_a_day: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CarriedView:
    """A line that was carried here, and what this probe's own points say to it."""

    source: str
    equation: str
    expanded: str
    rows: tuple[tuple[str, str, str, str], ...]
    words: str
    proven: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CalibrateView:
    """The whole bench."""

    verdict: Verdict
    carried: CarriedView | None
    fit: Fit | None
    rows: tuple[PairRow, ...]
    errors: PairPlot
    residuals: PairPlot | None
    axis: tuple[GridLine, ...]
    bars: tuple[BudgetBar, ...]
    bars_left: int
    pairs_chip: str
    moves: tuple[Moved, ...]
    equation: str
    words: str
    where: str
    expanded: str
    one_point: bool
    coverage: str
    budget: BudgetView | None


TimesADay = Callable[[Plan], dict[str, float]]
# Plans as they would be with a line that is not signed: tried at each look at its bench.
_tried: ByIdentity[Plan] = ByIdentity(32)


def make_calibrate_view(
    plan: Plan,
    probe: Probe,
    method: Method,
    taken: list[TakenPair],
    previewed: list[TakenPair],
    stated: tuple[Stated, tuple[BudgetRow, ...]],
    times_a_day: TimesADay,
) -> CalibrateView:
    """Fit what was taken and finish everything that the page shows.

    `previewed` is fitted along but not taken yet; `stated` are the figures of the method and the
    rows of one's own.
    `times_a_day` rehearses a plan on the record: how often each load is switched on.
    """
    rows = [*taken, *previewed]
    pairs = [row.pair for row in rows]
    refusal = ""
    fit: Fit | None = None
    try:
        fit = method.fit(pairs, stated[0]).with_rows(stated[1])
    except CalibrationError as exc:
        refusal = exc.at_field if pairs else exc.fix
    results = fit.results if fit else tuple(PairResult(pair=p, fitted=p.reading) for p in pairs)
    axis = Axis(*method.axis(pairs))
    bars = _bars(fit) if fit else ()
    return CalibrateView(
        verdict=_stands(plan, probe, method)
        if not rows and probe.calibration.certificate
        else calibrate_verdict(
            probe.name,
            fit,
            refusal=refusal,
            unit=method.unit,
            difference=method.difference,
            places=method.places,
            ends=method.ends(fit) if fit else "",
            doubt_these=method.doubt_these,
            untested=method.untested,
        ),
        carried=_carried(plan, probe, method, pairs),
        fit=fit,
        rows=tuple(
            _row(number, row, method, result if fit else None, fit)
            for number, (row, result) in enumerate(zip(rows, results, strict=True), 1)
        ),
        errors=error_plot(results, fit, axis, method.difference),
        residuals=residual_plot(fit, axis, method.difference) if fit else None,
        axis=tuple(
            GridLine(at=axis.x(value), text=f"{value:.0f}".replace("-", "−"))
            for value in np.arange(axis.low, axis.high + axis.step / 2, axis.step).tolist()
        ),
        bars=bars[:MOST_BARS],
        bars_left=len(bars) - MOST_BARS,
        pairs_chip=f"{len(taken)} pairs recorded{', 1 typed' if previewed else ''}",
        moves=_moves(plan, probe, fit, times_a_day) if fit else (),
        equation=f"true = {line_words(fit.line.slope, fit.line.intercept)}" if fit else "",
        words=_words(fit, method) if fit else refusal,
        where=method.where(fit) if fit else "",
        expanded=figure(fit.expanded, method.places) if fit else "",
        one_point=fit is not None and not fit.line.is_sloped,
        coverage=_coverage(fit) if fit else "",
        budget=make_budget_view(fit, method.unit, method.difference) if fit else None,
    )


def _coverage(fit: Fit) -> str:
    return f"k = {short(round(fit.budget.factor, 2))}"


def _carried(plan: Plan, probe: Probe, method: Method, pairs: Sequence[Pair]) -> CarriedView | None:
    line = probe.calibration
    if line.basis != "carried":
        return None
    source = plan.probe(line.carried_from or "")
    proofs = proofs_of(probe, pairs)
    failed = [proof for proof in proofs if not proof.holds]
    if not proofs:
        words = "Nothing is measured here yet. Record one point anywhere in its range."
    elif failed:
        words = (
            "The line is not valid here: this probe differs from the identical one. Record pairs "
            "and sign its own certificate."
        )
    else:
        words = (
            "The line is valid where it was tested. Sign to give this probe its own certificate."
        )
    return CarriedView(
        source=source.name if source else line.carried_from or "",
        equation=line_words(line.slope, line.intercept),
        expanded=figure(line.expanded_uncertainty, method.places),
        rows=tuple(
            (
                figure(proof.reference, method.places - 1),
                signed(proof.off, method.places),
                figure(proof.allowed, method.places),
                "holds" if proof.holds else "does not",
            )
            for proof in proofs
        ),
        words=words,
        proven=bool(proofs) and not failed,
    )


def _stands(plan: Plan, probe: Probe, method: Method) -> Verdict:
    """What is said while no pair was taken since the last certificate."""
    own = probe.calibration
    if is_void(plan, probe):
        return Verdict(
            state="fails",
            sentence=f"{probe.name}: certificate {own.certificate} is void.",
            rest=VOID_WORDS,
        )
    return Verdict(
        state="holds",
        sentence=f"{probe.name}: certificate {own.certificate} stands, "
        f"±{figure(own.expanded_uncertainty, method.places)} {method.unit}.",
        rest="Pairs recorded from now on belong to the next certificate.",
    )


def _row(
    number: int, taken: TakenPair, method: Method, result: PairResult | None, fit: Fit | None
) -> PairRow:
    pair = taken.pair
    check = pair.approach == "check"
    beyond = False
    if result is not None and fit is not None:
        beyond = number in fit.outliers
        if check:
            beyond = abs(result.residual) > fit.check_limit(result)
    return PairRow(
        number=number,
        id=taken.id,
        medium=method.medium(pair),
        approach=method.approach_words(pair),
        detail=pair.detail,
        reference=figure(pair.reference, method.places),
        reading=figure(pair.reading, method.places),
        fitted=figure(result.fitted, method.places) if result else "–",
        residual=signed(result.residual, method.places) if result else "–",
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


def _moves(plan: Plan, probe: Probe, fit: Fit, times_a_day: TimesADay) -> tuple[Moved, ...]:
    """What each threshold of this probe really was, when the old line said that it was reached."""
    old = probe.calibration
    moved = []
    rules = plan.bands_on(probe.id)
    if not rules:
        return ()
    before = times_a_day(plan)
    line = new_calibration(fit, UNSIGNED)
    after = times_a_day(
        _tried.get((plan,), (probe.id, line), lambda: calibrated(plan, probe.id, line))
    )
    for rule in rules:
        times = "–"
        if rule.load in before and rule.load in after:
            times = f"{figure(before[rule.load])} → {figure(after[rule.load])}"
        load = plan.load(rule.load)
        for word, threshold in (("on", rule.band.on_threshold), ("off", rule.band.off_threshold)):
            raw = old.reading_at(threshold)
            moved.append(
                Moved(
                    label=f"{load.name if load else rule.load} {word}",
                    note=_outside(line, threshold, probe),
                    was_really=figure(fit.line.at(raw)),
                    will_be=figure(threshold),
                    times_a_day=times,
                )
            )
    return tuple(moved)


def _outside(line: Calibration, threshold: float, probe: Probe) -> str:
    """That a threshold lies where no pair showed the line, and what U is there."""
    unit = unit_of(probe.quantity)
    outside = outside_words(line, unit, threshold)
    return f"{outside}: ±{figure(line.expanded_at(threshold), 2)} {unit}" if outside else ""


def _words(fit: Fit, method: Method) -> str:
    parts = method.words(fit)
    if fit.outliers:
        which = ", ".join(str(number) for number in fit.outliers)
        several = len(fit.outliers) > 1
        parts.append(
            f"Pair{'s' if several else ''} {which} contradict{'' if several else 's'} the others, "
            f"beyond U of the fit without {'them' if several else 'it'}: record again; nothing is "
            "removed automatically."
        )
    if fit.checks:
        worst = max(fit.checks, key=lambda r: abs(r.residual))
        parts.append(
            f"Error at the check point: {figure(abs(worst.residual), method.places)} "
            f"{method.difference}; up to {figure(fit.check_limit(worst), method.places)} is "
            "acceptable."
        )
        if not any(fit.verifies(row) for row in fit.checks):
            known = figure(worst.pair.reference_expanded, method.places)
            parts.append(
                f"A check known to ±{known} {method.difference} cannot verify ±"
                f"{figure(fit.expanded, method.places)}: take a better reference."
            )
    else:
        parts.append("The pairs of a fit cannot verify it. A check pair can.")
    return " ".join(parts)


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedRow:
    """A certificate in the list beside the bench."""

    number: int
    at_ms: int
    stands: str


def signed_rows(signed: list[Certificate], method: Method) -> tuple[SignedRow, ...]:
    """Every certificate of a probe with what it promised."""
    return tuple(
        SignedRow(
            number=row.number,
            at_ms=row.at_ms,
            stands=f"±{figure(row.document['expanded_uncertainty'], method.places)} {method.unit}",
        )
        for row in signed
    )
