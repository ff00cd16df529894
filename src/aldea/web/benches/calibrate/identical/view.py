"""Identical probes: the same quantity made the same way, what a carried line would do to each."""

from collections.abc import Sequence
from dataclasses import dataclass

from aldea.core.base.figures import figure, signed
from aldea.core.calibrate.calibration_line import line_words
from aldea.core.calibrate.fit import Fit
from aldea.core.calibrate.identical import CarriedLine, identical_probes
from aldea.core.plan.document import Plan, Probe
from aldea.store.calibrations import Certificate

WANTS = "needs its own check point"


def to_carry(probe: Probe, fit: Fit | None, signed: Sequence[Certificate]) -> CarriedLine | None:
    """The line through the pairs that are taken now, else the one that was signed last."""
    if fit is not None:
        return CarriedLine(
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
    return CarriedLine(
        slope=own.slope,
        intercept=own.intercept,
        expanded=own.expanded_uncertainty,
        low=low,
        high=high,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class IdenticalRow:
    """One of them: its line now, what it would read after, and what is owed afterwards."""

    probe: Probe
    before: str
    after: str
    moves: str
    afterwards: str


def identical_rows(plan: Plan, probe: Probe, line: CarriedLine) -> tuple[IdenticalRow, ...]:
    """Every one with its own before and after, in the middle of where the line holds."""
    middle = (line.low + line.high) / 2
    rows = []
    for other in identical_probes(plan, probe):
        old = other.calibration
        reading = old.reading_at(middle)
        after = line.intercept + line.slope * reading
        rows.append(
            IdenticalRow(
                probe=other,
                before=line_words(old.slope, old.intercept),
                after=line_words(line.slope, line.intercept),
                moves=f"{signed(after - middle, 2)} at {figure(middle, 1)}",
                afterwards=f"certificate {old.certificate} is no longer valid; {WANTS}"
                if old.certificate
                else WANTS,
            )
        )
    return tuple(rows)
