"""The list of benches: every kind, for whom it is, and how it is used."""

from dataclasses import dataclass

from aldea.core.calibrate.methods.registry import METHODS
from aldea.core.plan.document import Plan
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchRow:
    """A kind of bench: what it is called, what it does, whose there are, (name, address)."""

    heading: str
    does: str
    links: tuple[tuple[str, str], ...]
    lacks: str = ""


def list_benches(plan: Plan, base: str) -> tuple[BenchRow, ...]:
    """Every kind, also those that this house has nothing for, with what they are for."""
    pairs = [
        BenchRow(
            heading=method.heading,
            does=method.does,
            links=tuple(
                (p.name, f"{base}/calibrate/{p.id}")
                for p in plan.probes
                if p.quantity == method.quantity
            ),
            lacks="no such probe",
        )
        for method in METHODS.values()
    ]
    recordings = [
        BenchRow(
            heading=bench.heading,
            does=bench.does,
            links=tuple(
                (name, f"{base}/recordings/{bench.key}/{subject}")
                for subject, name in bench.subjects(plan)
            ),
            lacks=f"for {bench.called}",
        )
        for bench in RECORDINGS_BENCHES.values()
    ]
    return (*pairs, *recordings)
