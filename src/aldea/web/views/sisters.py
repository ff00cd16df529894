"""Sister probes: the same quantity made the same way, what a carried line would do to each."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from aldea.core.calibrate.bench import Fit
from aldea.core.plan.document import Calibration, Plan, Probe
from aldea.core.plan.edit import calibrated
from aldea.core.words.figures import figure, signed
from aldea.store.calibrations import Certificate


@dataclass(frozen=True, slots=True, kw_only=True)
class Carried:
    """A line to carry: true = intercept + slope · reading, its U (k = 2), where it holds."""

    slope: float
    intercept: float
    expanded: float
    low: float
    high: float


def to_carry(probe: Probe, fit: Fit | None, signed: Sequence[Certificate]) -> Carried | None:
    """The line through the pairs that are taken now, else the one that was signed last."""
    if fit is not None:
        return Carried(
            slope=fit.line.slope,
            intercept=fit.line.intercept,
            expanded=fit.expanded,
            low=fit.low,
            high=fit.high,
        )
    own = probe.calibration
    document = next((c.document for c in signed if c.number == own.certificate), None)
    if document is None:
        return None
    low, high = document["range"]
    return Carried(
        slope=own.slope,
        intercept=own.intercept,
        expanded=own.expanded_uncertainty,
        low=low,
        high=high,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Sister:
    """A sister: its line now, what it would read after, and whether a certificate would end."""

    probe: Probe
    before: str
    after: str
    moves: str
    loses: int | None


def _sisters(plan: Plan, probe: Probe) -> list[Probe]:
    made = probe.sensor.kind if probe.sensor else None
    return [
        other
        for other in plan.probes
        if other.id != probe.id
        and other.quantity == probe.quantity
        and (other.sensor.kind if other.sensor else None) == made
    ]


def sisters_of(plan: Plan, probe: Probe, line: Carried) -> tuple[Sister, ...]:
    """Every sister with its own before and after, in the middle of where the line holds."""
    middle = (line.low + line.high) / 2
    rows = []
    for other in _sisters(plan, probe):
        old = other.calibration
        reading = (middle - old.intercept) / old.slope
        after = line.intercept + line.slope * reading
        rows.append(
            Sister(
                probe=other,
                before=line_words(old.slope, old.intercept),
                after=line_words(line.slope, line.intercept),
                moves=f"{signed(after - middle, 2)} at {figure(middle, 1)}",
                loses=old.certificate,
            )
        )
    return tuple(rows)


def line_words(slope: float, intercept: float) -> str:
    """A line as it is written."""
    sign = "+" if slope >= 0 else "−"
    return f"{figure(intercept, 2)} {sign} {figure(abs(slope), 4)} × reading"


def carried_line(plan: Plan, probe: Probe, line: Carried, chosen: Collection[str]) -> Plan:
    """The plan with the line put into chosen sisters: as sold in doubt, with no certificate.

    Nothing was measured on them: each keeps the larger of its own doubt and the line's, and asks
    for a check point of its own.
    """
    for other in _sisters(plan, probe):
        if other.id in chosen:
            made = Calibration(
                slope=round(line.slope, 6),
                intercept=round(line.intercept, 5),
                expanded_uncertainty=max(
                    other.calibration.expanded_uncertainty, round(line.expanded, 2)
                ),
            )
            plan = calibrated(plan, other.id, made)
    return plan
