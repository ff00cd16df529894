"""What the Record bench says of drafts and revisions."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from aldea.core.base.figures import thousands
from aldea.core.plan.changes import PlanChange
from aldea.core.plan.document import Plan
from aldea.core.rules.findings import Gathered, gathered, unresolved
from aldea.core.wiring.checks.owed import unwired_loads
from aldea.core.words.verdicts import Verdict
from aldea.store.reading_cache import Series
from aldea.store.revisions import RevisionNote

MOST_NAMED = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Unmended:
    """Severe findings that a publisher has to answer for, and each kind of the other findings."""

    count: int
    words: str
    others: tuple[Gathered, ...]
    unwired: str


def unresolved_of(plan: Plan, today: date) -> Unmended:
    """What stands between the draft and the panel; what of it no board will switch."""
    unmended = unresolved(plan)
    words = " ".join(finding.head for finding in unmended[:MOST_NAMED])
    more = len(unmended) - MOST_NAMED
    return Unmended(
        count=len(unmended),
        words=f"{words} and {more} more." if more > 0 else words,
        unwired=", ".join(load.name for load in unwired_loads(plan)),
        others=tuple(row for row in gathered(plan, today) if row.finding.weight != "severe"),
    )


def record_verdict(
    version: int,
    notes: Sequence[RevisionNote],
    changed: Sequence[PlanChange],
    recorded: Mapping[str, Series],
) -> Verdict:
    """How the draft stands to the newest revision, and how much is recorded."""
    rest = f"{thousands(sum(row.count for row in recorded.values()))} readings are on record."
    if not notes:
        return Verdict(state="owed", sentence="Nothing is published yet.", rest=rest)
    newest = notes[0].number
    if changed:
        values = f"{len(changed)} value{'' if len(changed) == 1 else 's'}"
        sentence = f"Draft {version} differs from revision {newest} in {values}."
        return Verdict(state="owed", sentence=sentence, rest=rest)
    return Verdict(state="holds", sentence=f"Draft {version} equals revision {newest}.", rest=rest)
