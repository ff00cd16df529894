"""Sister probes: the same quantity made the same way, what a carried line would do to each."""

from collections.abc import Collection
from dataclasses import dataclass

from aldea.core.calibrate.bench import Fit
from aldea.core.plan.document import Calibration, Plan, Probe
from aldea.core.plan.edit import calibrated
from aldea.core.words.figures import figure, signed


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


def sisters_of(plan: Plan, probe: Probe, fit: Fit) -> tuple[Sister, ...]:
    """Every sister with its own before and after, in the middle of the range of the fit."""
    middle = (fit.low + fit.high) / 2
    rows = []
    for other in _sisters(plan, probe):
        old = other.calibration
        reading = (middle - old.intercept) / old.slope
        rows.append(
            Sister(
                probe=other,
                before=_line(old.slope, old.intercept),
                after=_line(fit.line.slope, fit.line.intercept),
                moves=f"{signed(fit.line.at(reading) - middle, 2)} at {figure(middle, 1)}",
                loses=old.certificate,
            )
        )
    return tuple(rows)


def _line(slope: float, intercept: float) -> str:
    sign = "+" if slope >= 0 else "−"
    return f"{figure(intercept, 2)} {sign} {figure(abs(slope), 4)} × reading"


def carried_line(plan: Plan, probe: Probe, fit: Fit, chosen: Collection[str]) -> Plan:
    """The plan with the line put into chosen sisters: as sold in doubt, with no certificate.

    Nothing was measured on them: each keeps the larger of its own doubt and the fit's, and asks
    for a check point of its own.
    """
    for other in _sisters(plan, probe):
        if other.id in chosen:
            made = Calibration(
                slope=round(fit.line.slope, 6),
                intercept=round(fit.line.intercept, 5),
                expanded_uncertainty=max(
                    other.calibration.expanded_uncertainty, round(fit.expanded, 2)
                ),
            )
            plan = calibrated(plan, other.id, made)
    return plan
