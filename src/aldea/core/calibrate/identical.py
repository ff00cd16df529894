"""Identical probes: the same quantity made the same way; a line carried from one to others."""

import math
from collections.abc import Collection
from dataclasses import dataclass

from aldea.core.calibrate.pairs import Pair
from aldea.core.plan.calibration import Calibration
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.one_part import sensor_of
from aldea.core.plan.tuning import calibrated


@dataclass(frozen=True, slots=True, kw_only=True)
class CarriedLine:
    """A line to carry: true = intercept + slope · reading, its U (k = 2), where it holds."""

    slope: float
    intercept: float
    expanded: float
    low: float
    high: float


def identical_probes(plan: Plan, probe: Probe) -> list[Probe]:
    """Every other probe of the same quantity that is made the same way."""

    def build_of(one: Probe) -> str | None:
        sensor = sensor_of(plan, one)
        return sensor.kind if sensor else None

    return [
        other
        for other in plan.probes
        if other.id != probe.id
        and other.quantity == probe.quantity
        and build_of(other) == build_of(probe)
    ]


def carried_line(plan: Plan, probe: Probe, line: CarriedLine, chosen: Collection[str]) -> Plan:
    """The plan with the line put into the chosen probes: as sold in doubt, with no certificate.

    Nothing was measured on them: each keeps the larger of its own doubt and the line's, and asks
    for a check point of its own.
    """
    for other in identical_probes(plan, probe):
        if other.id in chosen:
            carried = Calibration(
                slope=round(line.slope, 6),
                intercept=round(line.intercept, 5),
                basis="carried",
                carried_from=probe.id,
                expanded_uncertainty=max(
                    other.calibration.expanded_uncertainty, round(line.expanded, 2)
                ),
            )
            plan = calibrated(plan, other.id, carried)
    return plan


@dataclass(frozen=True, slots=True, kw_only=True)
class Proof:
    """A pair of a probe's own against the line that was carried to it: off by, and may be."""

    reference: float
    off: float
    allowed: float

    @property
    def holds(self) -> bool:
        """Whether the line reads true there, as far as both can tell."""
        return abs(self.off) <= self.allowed


def proofs_of(probe: Probe, pairs: Collection[Pair]) -> tuple[Proof, ...]:
    """Each pair of a probe against its carried line; none where its line is its own.

    Allowed is both uncertainties, combined (k = 2).
    """
    line = probe.calibration
    if line.basis != "carried":
        return ()
    return tuple(
        Proof(
            reference=pair.reference,
            off=line.at(pair.reading) - pair.reference,
            allowed=math.hypot(line.expanded_uncertainty, pair.reference_expanded),
        )
        for pair in pairs
    )
