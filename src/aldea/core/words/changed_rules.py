"""What a change of a plan changes of its rules, in the sentences that its owner reads."""

from dataclasses import dataclass

from aldea.core.base.memo import per_pair
from aldea.core.plan.document import Load, Plan
from aldea.core.words.rules import load_sentences
from aldea.core.words.schedules import schedule_sentences


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleChange:
    """One load or schedule whose rules differ: the sentences that went, and those that came."""

    name: str
    gone: tuple[str, ...]
    come: tuple[str, ...]


@per_pair
def rule_changes(was: Plan, now: Plan) -> tuple[RuleChange, ...]:
    """What differs between two plans, load by load, then schedule by schedule."""
    changes: list[RuleChange] = []
    for key in dict.fromkeys([load.id for load in (*was.loads, *now.loads)]):
        before, after = was.load(key), now.load(key)
        name = (after or before).name  # type: ignore[union-attr]
        changes += _difference(name, _sentences_of(was, before), _sentences_of(now, after))
    old = {schedule.id: schedule for schedule in was.schedules}
    new = {schedule.id: schedule for schedule in now.schedules}
    for key in dict.fromkeys((*old, *new)):
        name = f"Schedule “{(new.get(key) or old[key]).name}”"
        changes += _difference(
            name,
            schedule_sentences(old[key]) if key in old else [],
            schedule_sentences(new[key]) if key in new else [],
        )
    return tuple(changes)


def _sentences_of(plan: Plan, load: Load | None) -> list[str]:
    return [text for _, text in load_sentences(plan, load)] if load is not None else []


def _difference(name: str, was: list[str], now: list[str]) -> list[RuleChange]:
    gone = tuple(text for text in was if text not in now)
    come = tuple(text for text in now if text not in was)
    kept = [text for text in was if text in now]
    if not gone and not come and kept != [text for text in now if text in was]:
        come = ("The same rules in another order: the upper one wins.",)
    return [RuleChange(name=name, gone=gone, come=come)] if gone or come else []
