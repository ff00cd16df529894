"""Everything that can be said against the rules of a plan without a run, the severe first."""

from aldea.core.base.memo import per_plan
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.document import Plan
from aldea.core.rules.checks.bands import BAND_CHECKS
from aldea.core.rules.checks.ends import END_CHECKS
from aldea.core.rules.checks.memory import MEMORY_CHECKS
from aldea.core.rules.checks.say import SAY_CHECKS
from aldea.core.rules.checks.times import TIME_CHECKS
from aldea.core.wiring.findings import ORDER, severe, tried

RULE_CHECKS: tuple[Check, ...] = (
    *BAND_CHECKS,
    *SAY_CHECKS,
    *END_CHECKS,
    *TIME_CHECKS,
    *MEMORY_CHECKS,
)


@per_plan
def rule_findings(plan: Plan) -> tuple[Finding, ...]:
    """Every finding of the rules: the severe first, then warnings, then what is still open."""
    found = [finding for check in RULE_CHECKS for finding in check(plan)]
    return tuple(sorted(found, key=lambda finding: ORDER[finding.weight]))


def offered_for(plan: Plan, load_id: str | None) -> tuple[Finding, ...]:
    """Those about one load, with the mends that mend; None: those about no load alone.

    Each mend is tried on a copy. In a large house those of one load are enough.
    """
    kept = _kept_by_load(plan)
    if load_id not in kept:
        kept[load_id] = tried(plan, rule_findings, lambda f: load_of(plan, f) == load_id)
    return kept[load_id]


@per_plan
def _kept_by_load(_plan: Plan) -> dict[str | None, tuple[Finding, ...]]:
    return {}


def load_of(plan: Plan, finding: Finding) -> str | None:
    """The load that a finding is about; None where it is about a schedule or the memory."""
    kind, _, key = finding.at.partition(":")
    if kind == "load":
        return key
    claim = next((c for c in plan.claims if kind == "claim" and c.id == key), None)
    return claim.load if claim else None


def unmended(plan: Plan) -> tuple[Finding, ...]:
    """What is severe in the wiring and in the rules; stand-ins apart, which no reason publishes."""
    rules = (f for f in rule_findings(plan) if not f.key.startswith("basis-"))
    return (*severe(plan), *(finding for finding in rules if finding.weight == "severe"))
