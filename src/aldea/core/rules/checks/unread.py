"""Checks of rules that go on by the last reading of a probe that has none any more."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.claim_edits import put_claim
from aldea.core.plan.conditions import OnValue
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import expanded, working_claims
from aldea.core.plan.without_reading import (
    ABOVE_FAULT,
    keeping,
    usual_result,
    with_usual_result,
)


def acts_unread(plan: Plan) -> Iterator[Finding]:
    """A trip or an interlock that keeps its last result: it decides above the sensor fault rule."""
    for load in plan.loads:
        for claim in working_claims(plan, load.id):
            if claim.rank not in ABOVE_FAULT or claim.condition is None:
                continue
            kept = [
                part
                for part in expanded(plan, claim.condition)
                if isinstance(part, OnValue) and part.without_reading == "keep"
            ]
            if kept:
                yield _finding(plan, load, claim, kept)


def _finding(plan: Plan, load: Load, claim: Claim, kept: list[OnValue]) -> Finding:
    names = list(dict.fromkeys(reading_name(plan, getattr(part, "probe", "")) for part in kept))
    result = usual_result(load, claim.rank, claim.want)
    words = f"{result.counts} after {span(result.after_s)}"
    own = any(keeping(claim.condition))
    return Finding(
        key=f"unread-{claim.id}",
        weight="severe",
        head=f"{load.name}: one of its {claim.rank} rules keeps its last result without a reading.",
        why=f"When {' or '.join(names)} fails, the rule goes on by its last reading, above the "
        "sensor fault rule.",
        mend=f"State what it counts as without a reading; {words} is usual here."
        if own
        else "State it in the named condition that it reads, at Schedules and modes.",
        at=f"claim:{claim.id}",
        field="condition.without_reading",
        press=f"Count it as {words}" if own else "",
        apply=(lambda plan: put_claim(plan, with_usual_result(load, claim))) if own else None,
    )


UNREAD_CHECKS: tuple[Check, ...] = (acts_unread,)
