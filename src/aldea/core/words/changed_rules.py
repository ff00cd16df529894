"""What a change of a plan changes of its rules, in the sentences that its owner reads."""

from dataclasses import dataclass

from aldea.core.base.figures import short
from aldea.core.base.memo import per_pair
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.schedules import Schedule, SunEdge
from aldea.core.words.claims import load_sentences


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleChange:
    """One load or schedule whose rules differ: the sentences that went, and those that came."""

    name: str
    gone: tuple[str, ...]
    come: tuple[str, ...]


CAUGHT_UP = {
    True: "A moment that a power cut hides or breaks off starts late, and ends on time.",
    False: "A moment that passes without power or a known clock is skipped.",
}


def schedule_sentences(schedule: Schedule) -> list[str]:
    """When a schedule is on, in sentences."""
    found = []
    for window in schedule.windows:
        days = ", ".join(day.capitalize() for day in window.days)
        every = "every day" if len(window.days) == 7 else days
        found.append(f"From {_edge(window.start)} to {_edge(window.end)}, {every}.")
    for moments in schedule.moments:
        days = ", ".join(day.capitalize() for day in moments.days)
        every = "every day" if len(moments.days) == 7 else days
        found.append(f"At {', '.join(moments.at)} for {short(schedule.for_s)} s, {every}.")
    found += [f"From {span.start} to {span.end}." for span in schedule.dates]
    if schedule.except_dates:
        found.append(f"Not on {', '.join(schedule.except_dates)}.")
    if schedule.when_clock_unknown:
        found.append("While the clock is not known it counts as on.")
    if schedule.catch_up is not None:
        found.append(CAUGHT_UP[schedule.catch_up])
    return found


def _edge(edge: str | SunEdge) -> str:
    if isinstance(edge, str):
        return edge
    minutes = abs(edge.offset_min)
    if not minutes:
        return edge.at
    return f"{short(minutes)} min {'after' if edge.offset_min > 0 else 'before'} {edge.at}"


@per_pair
def rule_changes(was: Plan, now: Plan) -> tuple[RuleChange, ...]:
    """What differs between two plans, load by load, then schedule by schedule."""
    found: list[RuleChange] = []
    for key in dict.fromkeys([load.id for load in (*was.loads, *now.loads)]):
        before, after = was.load(key), now.load(key)
        name = (after or before).name  # type: ignore[union-attr]
        found += _difference(name, _said(was, before), _said(now, after))
    old = {schedule.id: schedule for schedule in was.schedules}
    new = {schedule.id: schedule for schedule in now.schedules}
    for key in dict.fromkeys((*old, *new)):
        name = f"Schedule “{(new.get(key) or old[key]).name}”"
        found += _difference(
            name,
            schedule_sentences(old[key]) if key in old else [],
            schedule_sentences(new[key]) if key in new else [],
        )
    return tuple(found)


def _said(plan: Plan, load: Load | None) -> list[str]:
    return [text for _, text in load_sentences(plan, load)] if load is not None else []


def _difference(name: str, was: list[str], now: list[str]) -> list[RuleChange]:
    gone = tuple(text for text in was if text not in now)
    come = tuple(text for text in now if text not in was)
    kept = [text for text in was if text in now]
    if not gone and not come and kept != [text for text in now if text in was]:
        come = ("The same rules in another order: the upper one wins.",)
    return [RuleChange(name=name, gone=gone, come=come)] if gone or come else []
