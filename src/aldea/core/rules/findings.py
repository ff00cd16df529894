"""Everything that can be said against the rules of a plan without a run, the severe first."""

from dataclasses import dataclass
from datetime import date

from aldea.core.base.memo import per_plan
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.document import Plan
from aldea.core.plan.reading import probes_of_rule
from aldea.core.rules.checks.bands import BAND_CHECKS
from aldea.core.rules.checks.ends import END_CHECKS
from aldea.core.rules.checks.memory import MEMORY_CHECKS
from aldea.core.rules.checks.outside import OUTSIDE_CHECKS
from aldea.core.rules.checks.say import SAY_CHECKS
from aldea.core.rules.checks.times import DATED_CHECKS, TIME_CHECKS
from aldea.core.rules.checks.unread import UNREAD_CHECKS
from aldea.core.wiring.findings import ORDER, findings, severe, tried

LONG_AGO = date(2000, 1, 1)
RULE_CHECKS: tuple[Check, ...] = (
    *BAND_CHECKS,
    *SAY_CHECKS,
    *END_CHECKS,
    *UNREAD_CHECKS,
    *OUTSIDE_CHECKS,
    *TIME_CHECKS,
    *MEMORY_CHECKS,
)


def rule_findings(plan: Plan, today: date = LONG_AGO) -> tuple[Finding, ...]:
    """Every finding of the rules: the severe first, then warnings, then what is still open.

    `today` is the date from which on what the calendar brings is looked at; without it nothing is
    over yet.
    """
    kept = _kept_by_date(plan)
    if today not in kept:
        findings = [finding for check in RULE_CHECKS for finding in check(plan)]
        findings += [finding for dated in DATED_CHECKS for finding in dated(plan, today)]
        kept[today] = tuple(sorted(findings, key=lambda finding: ORDER[finding.weight]))
    return kept[today]


@per_plan
def _kept_by_date(_plan: Plan) -> dict[date, tuple[Finding, ...]]:
    return {}


def offered_for(plan: Plan, load_id: str | None, today: date = LONG_AGO) -> tuple[Finding, ...]:
    """What bears on the rules of one load, with the fixes that fix; None: of no load alone.

    First what is said against the rules, then what is wrong with the wiring that they rest on:
    of the load, its relays, the probes that its rules read. Each fix is tried on a copy. In a
    large house those of one load are enough.
    """
    kept = _kept_by_load(plan)
    key = (load_id, today if load_id is None else LONG_AGO)  # dates are of schedules alone
    if key not in kept:
        owners = _rested_on(plan, load_id)
        kept[key] = (
            *tried(plan, lambda p: rule_findings(p, today), lambda f: load_of(plan, f) == load_id),
            *tried(plan, findings, lambda f: f.weight != "open" and bool(owners & _whose(plan, f))),
        )
    return kept[key]


def _rested_on(plan: Plan, load_id: str | None) -> set[str]:
    """Owners of what the rules of a load rest on."""
    if load_id is None:
        return {""}
    rules = [rule for rule in plan.rules if rule.load == load_id]
    return {
        f"load:{load_id}",
        *(f"relay:{relay.id}" for relay in plan.relays_of(load_id)),
        *(f"probe:{probe}" for rule in rules for probe in probes_of_rule(plan, rule)),
    }


def _whose(plan: Plan, finding: Finding) -> set[str]:
    """Everything that a finding is about; an empty word where no load is among it, nor a part."""
    owners = {finding.at, *finding.about}
    named = {owner.partition(":")[0] for owner in owners}
    return owners | ({""} if named <= {"place", "control"} else set())


@per_plan
def _kept_by_load(_plan: Plan) -> dict[tuple[str | None, date], tuple[Finding, ...]]:
    return {}


def load_of(plan: Plan, finding: Finding) -> str | None:
    """The load that a finding is about; None where it is about a schedule or the memory."""
    kind, _, key = finding.at.partition(":")
    if kind == "load":
        return key
    rule = next((c for c in plan.rules if kind == "rule" and c.id == key), None)
    return rule.load if rule else None


def unresolved(plan: Plan) -> tuple[Finding, ...]:
    """What is severe in the wiring and in the rules; stand-ins apart, which no reason publishes."""
    rules = (f for f in rule_findings(plan) if not f.key.startswith("basis-"))
    return (*severe(plan), *(finding for finding in rules if finding.weight == "severe"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Gathered:
    """The first finding of a kind, and how many more of the kind there are."""

    finding: Finding
    more: int
    of_rules: bool

    @property
    def head(self) -> str:
        """The first of them in words, and the count of the others."""
        if not self.more:
            return self.finding.head
        return f"{self.finding.head} And {self.more} more of the kind."


def gathered(plan: Plan, today: date = LONG_AGO) -> tuple[Gathered, ...]:
    """Every kind of finding once, of wiring and rules, the severe first, the open last."""
    groups: dict[tuple[bool, str, str], list[Finding]] = {}
    for of_rules, merged in ((False, findings(plan)), (True, rule_findings(plan, today))):
        for finding in merged:
            kind = (of_rules, finding.key.partition("-")[0], finding.weight)
            groups.setdefault(kind, []).append(finding)
    rows = [
        Gathered(finding=same[0], more=len(same) - 1, of_rules=of_rules)
        for (of_rules, _, _), same in groups.items()
    ]
    return tuple(sorted(rows, key=lambda row: ORDER[row.finding.weight]))
