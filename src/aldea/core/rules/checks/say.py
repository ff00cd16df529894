"""Checks of who has the say: rules that are never heard, and two that contradict each other."""

from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import combinations
from typing import Any

from aldea.core.base.instants import ms_of
from aldea.core.devices.finding import Check, Finding
from aldea.core.engine.layout import PRIORITY_CODES
from aldea.core.plan.conditions import (
    Always,
    Band,
    Beyond,
    InWindow,
    LoadState,
    Unless,
)
from aldea.core.plan.document import Load, Plan, Rule
from aldea.core.plan.house_rules import Exclusive
from aldea.core.plan.invariants import NeverTogether
from aldea.core.plan.reading import expanded, working_rules
from aldea.core.plan.rule_edits import switched, without_rule
from aldea.core.plan.schedules import Schedule, SunEdge
from aldea.core.rules.edges import spans_of


def _ordered(plan: Plan, load: Load) -> list[Rule]:
    return sorted(working_rules(plan, load.id), key=lambda rule: PRIORITY_CODES[rule.priority])


def _wants(rule: Rule) -> tuple[Any, ...]:
    return (rule.want, rule.level, rule.percent, rule.pulse_s)


def never_heard(plan: Plan) -> Iterator[Finding]:
    """A rule under one that always holds, or that holds whenever it does."""
    for load in plan.loads:
        rules = _ordered(plan, load)
        for index, rule in enumerate(rules):
            over = next((c for c in rules[:index] if _covers(c, rule)), None)
            if over is None:
                continue
            always = isinstance(over.condition, Always)
            yield Finding(
                key=f"unheard-{rule.id}",
                weight="warning",
                head=f"{load.name}: one of its rules can never decide.",
                why=f"A stronger one ({over.name or over.priority}) "
                f"{'always holds' if always else 'holds whenever it does'}.",
                fix="Remove it, or move it above.",
                at=f"rule:{rule.id}",
                field="priority",
                press="Remove",
                apply=lambda plan, key=rule.id: without_rule(plan, key),  # type: ignore[misc]
            )


def _covers(over: Rule, rule: Rule) -> bool:
    if over.want == "pulse":
        return False
    if isinstance(over.condition, Always):
        return True
    if over.condition is None or rule.condition is None:
        return False
    return over.condition == rule.condition or _implied(rule.condition, over.condition)


def _implied(one: Any, other: Any) -> bool:
    """Whether a condition can hold only while another does: edges on one reading, in one direction.

    It begins at or beyond where the other begins, and ends no later than that one ends.
    """
    first, second = _edges_of(one), _edges_of(other)
    if first is None or second is None or first[:2] != second[:2]:
        return False
    sign = first[1]
    return sign * (first[2] - second[2]) >= 0 and sign * (first[3] - second[3]) >= 0


def _edges_of(condition: Any) -> tuple[str, int, float, float] | None:
    """Probe, direction (1 rising), where it begins and where it ends; None for other kinds."""
    if isinstance(condition, Band) and not condition.delay_on_s and not condition.delay_off_s:
        sign = 1 if condition.direction == "rising" else -1
        return condition.probe, sign, condition.on_threshold, condition.off_threshold
    if isinstance(condition, Beyond):
        sign = 1 if condition.kind == "above" else -1
        return condition.probe, sign, condition.value, condition.value - sign * condition.hysteresis
    return None


def within_its_hours(plan: Plan) -> Iterator[Finding]:
    """A rule of a schedule all of whose times lie within those of a stronger rule's schedule."""
    for load in plan.loads:
        rules = _ordered(plan, load)
        for index, rule in enumerate(rules):
            inner = _schedule_of(plan, rule)
            for over in rules[:index]:
                outer = _schedule_of(plan, over)
                if inner is None or outer is None or inner.id == outer.id or over.want == "pulse":
                    continue
                if not _inside(plan, inner, outer):
                    continue
                yield Finding(
                    key=f"unheard-{rule.id}",
                    weight="warning",
                    head=f"{load.name}: the rule for “{inner.name}” can never decide.",
                    why=f"All its times lie within “{outer.name}”, whose rule is above it.",
                    fix="Move it above, or choose other times.",
                    at=f"rule:{rule.id}",
                    field="priority",
                )
                break


def _schedule_of(plan: Plan, rule: Rule) -> Schedule | None:
    if not isinstance(rule.condition, InWindow):
        return None
    key = rule.condition.schedule
    return next((schedule for schedule in plan.schedules if schedule.id == key), None)


def _inside(plan: Plan, inner: Schedule, outer: Schedule) -> bool:
    """Whether each span of a schedule lies in one of another, through one year."""
    beside_sun = plan.house.latitude_deg is None and any(
        isinstance(edge, SunEdge)
        for schedule in (inner, outer)
        for window in schedule.windows
        for edge in (window.start, window.end)
    )
    if beside_sun:
        return False
    spans, over = (spans_of(plan, one, YEAR_FROM_MS, YEAR_TO_MS) for one in (inner, outer))
    inside = [(start, end) for start, end in spans if YEAR_FROM_MS <= start < YEAR_TO_MS]
    return bool(inside) and all(
        any(first <= start and end <= last for first, last in over) for start, end in inside
    )


YEAR_FROM_MS = ms_of(datetime(2026, 1, 1, tzinfo=UTC))
YEAR_TO_MS = ms_of(datetime(2027, 1, 1, tzinfo=UTC))


def both_ways_above_all(plan: Plan) -> Iterator[Finding]:
    """A drive that one interlock or trip opens and another of the level shuts."""
    for load in plan.loads:
        if load.kind != "pulse_drive":
            continue
        above = [c for c in _ordered(plan, load) if c.priority in ("trip", "interlock")]
        for first, second in combinations(above, 2):
            if first.priority != second.priority or {first.want, second.want} != {"open", "shut"}:
                continue
            yield Finding(
                key=f"ways-{first.id}-{second.id}",
                weight="warning",
                head=f"{load.name}: one {first.priority} opens it and another shuts it.",
                why=f"Where both hold the upper one wins, and it is to {first.want}: no rule of "
                f"lower priority changes that.",
                fix="Put the rule that must win above. Make the other a demand where it is only "
                "a request.",
                at=f"rule:{second.id}",
                field="priority",
            )


def at_one_level(plan: Plan) -> Iterator[Finding]:
    """Two rules of one level that want opposite things and can hold at once."""
    for load in plan.loads:
        for first, second in combinations(_ordered(plan, load), 2):
            if first.priority != second.priority or _wants(first) == _wants(second):
                continue
            if "off" not in (first.want, second.want) and "shut" not in (first.want, second.want):
                continue
            if not _may_both_hold(first.condition, second.condition):
                continue
            yield Finding(
                key=f"both-{first.id}-{second.id}",
                weight="open",
                head=f"{load.name}: two rules of one priority can contradict each other.",
                why=f"Both have the priority {first.priority}; where both hold, the upper one "
                f"wins.",
                fix="Give one another priority, or accept this where it is intended.",
                at=f"rule:{second.id}",
                field="want",
            )


def _may_both_hold(one: Any, other: Any) -> bool:
    """Whether two conditions on one reading or one schedule can be seen to overlap.

    What hangs on different things is not said to: nobody knows whether it can.
    """
    if isinstance(one, Unless) and one.of == other:
        return False
    if isinstance(other, Unless) and other.of == one:
        return False
    first, second = _span_of(one), _span_of(other)
    if first is not None and second is not None:
        return first[0] == second[0] and first[1] <= second[2] and second[1] <= first[2]
    return isinstance(one, InWindow) and one == other


def _span_of(condition: Any) -> tuple[str, float, float] | None:
    """The values at which a condition can hold, by the probe that it reads."""
    end = float("inf")
    if isinstance(condition, Band):
        rising = condition.direction == "rising"
        low, high = (condition.off_threshold, end) if rising else (-end, condition.off_threshold)
        return condition.probe, low, high
    if isinstance(condition, Beyond):
        above = condition.kind == "above"
        edge = (
            condition.value - condition.hysteresis
            if above
            else condition.value + condition.hysteresis
        )
        return (condition.probe, edge, end) if above else (condition.probe, -end, edge)
    return None


def never_together(plan: Plan) -> Iterator[Finding]:
    """Two loads that must never be on together, kept apart by an interlock alone."""
    owner = {relay.id: relay.load for relay in plan.relays}
    grouped = [{owner.get(relay) for relay in group.relays} for group in plan.exclusive]
    for invariant in plan.invariants:
        rule = invariant.rule
        if not isinstance(rule, NeverTogether):
            continue
        first, second = (plan.load(load) for load in rule.loads)
        if first is None or second is None or any(set(rule.loads) <= group for group in grouped):
            continue
        if not (_kept_off(plan, first, second) or _kept_off(plan, second, first)):
            continue
        relays = tuple(r.id for load in rule.loads for r in plan.relays_of(load)[:1])
        group = (
            Exclusive(
                id=f"never_{first.id}_{second.id}"[:48],
                relays=relays,
                dead_s=0.5,
                why=invariant.why,
            )
            if len(relays) == len(rule.loads)
            else None
        )
        yield Finding(
            key=f"together-{invariant.id}",
            weight="warning",
            head=f"{first.name} and {second.name} are kept apart by an interlock alone.",
            why="An interlock acts one scan later, and a manual override can get past it. Only "
            "exclusive relays ensure that the two never conduct together.",
            fix="Make their relays exclusive, half a second apart.",
            at=f"load:{first.id}",
            field="rules",
            press="Make them exclusive" if group else "",
            apply=(lambda plan, group=group: _with_exclusive(plan, group)) if group else None,  # type: ignore[misc]
        )


def _kept_off(plan: Plan, load: Load, other: Load) -> bool:
    return any(
        rule.priority == "interlock"
        and rule.condition is not None
        and any(
            isinstance(part, LoadState) and part.load == other.id
            for part in expanded(plan, rule.condition)
        )
        for rule in working_rules(plan, load.id)
    )


def _with_exclusive(plan: Plan, group: Exclusive) -> Plan:
    return plan.model_copy(update={"exclusive": (*plan.exclusive, group)})


def stand_ins(plan: Plan) -> Iterator[Finding]:
    """A rule whose figures stand in for a trial, or are assumed."""
    for rule in plan.rules:
        load = plan.load(rule.load)
        if load is None or rule.basis == "entered":
            continue
        trial = rule.basis == "trial"
        yield Finding(
            key=f"basis-{rule.id}",
            weight="severe" if trial else "open",
            head=f"{load.name}: a figure {'is a trial value' if trial else 'is assumed'}.",
            why=f"{rule.note[:1].upper()}{rule.note[1:]}."
            if rule.note
            else "Nobody has confirmed it.",
            fix="Enter the true figure before publishing."
            if trial
            else "Check it on a recorded day, then mark it as entered.",
            at=f"rule:{rule.id}",
            field="basis",
        )


def switched_off(plan: Plan) -> Iterator[Finding]:
    """A rule that is disabled."""
    for rule in plan.rules:
        load = plan.load(rule.load)
        if load is None or not rule.disabled:
            continue
        yield Finding(
            key=f"off-{rule.id}",
            weight="open",
            head=f"{load.name}: a rule is disabled.",
            why=rule.name or f"It is a rule of priority {rule.priority}.",
            fix="Enable, or remove it.",
            at=f"rule:{rule.id}",
            press="Enable",
            apply=lambda plan, key=rule.id: switched(plan, key),  # type: ignore[misc]
        )


SAY_CHECKS: tuple[Check, ...] = (
    never_heard,
    within_its_hours,
    both_ways_above_all,
    at_one_level,
    never_together,
    stand_ins,
    switched_off,
)
