"""Checks of who has the say: claims that are never heard, and two that contradict each other."""

from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import combinations
from typing import Any

from aldea.core.base.instants import ms_of
from aldea.core.devices.finding import Check, Finding
from aldea.core.engine.layout import RANK_CODES
from aldea.core.plan.claim_edits import switched, without_claim
from aldea.core.plan.conditions import (
    Always,
    Band,
    Beyond,
    InWindow,
    LoadState,
    Unless,
)
from aldea.core.plan.document import Claim, Load, Plan
from aldea.core.plan.house_rules import Exclusive
from aldea.core.plan.invariants import NeverTogether
from aldea.core.plan.reading import expanded, working_claims
from aldea.core.plan.schedules import Schedule, SunEdge
from aldea.core.rules.edges import spans_of


def _ordered(plan: Plan, load: Load) -> list[Claim]:
    return sorted(working_claims(plan, load.id), key=lambda claim: RANK_CODES[claim.rank])


def _wants(claim: Claim) -> tuple[Any, ...]:
    return (claim.want, claim.level, claim.percent, claim.pulse_s)


def never_heard(plan: Plan) -> Iterator[Finding]:
    """A claim under one that always holds, or that holds whenever it does."""
    for load in plan.loads:
        claims = _ordered(plan, load)
        for index, claim in enumerate(claims):
            over = next((c for c in claims[:index] if _covers(c, claim)), None)
            if over is None:
                continue
            always = isinstance(over.condition, Always)
            yield Finding(
                key=f"unheard-{claim.id}",
                weight="warning",
                head=f"{load.name}: one of its claims can never decide.",
                why=f"A stronger one ({over.name or over.rank}) "
                f"{'always holds' if always else 'holds whenever it does'}.",
                mend="Remove it, or move it above.",
                at=f"claim:{claim.id}",
                field="rank",
                press="Remove it",
                apply=lambda plan, key=claim.id: without_claim(plan, key),  # type: ignore[misc]
            )


def _covers(over: Claim, claim: Claim) -> bool:
    if over.want == "pulse":
        return False
    if isinstance(over.condition, Always):
        return True
    if over.condition is None or claim.condition is None:
        return False
    return over.condition == claim.condition or _implied(claim.condition, over.condition)


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
        return condition.probe, sign, condition.on, condition.off
    if isinstance(condition, Beyond):
        sign = 1 if condition.kind == "above" else -1
        return condition.probe, sign, condition.value, condition.value - sign * condition.gap
    return None


def within_its_hours(plan: Plan) -> Iterator[Finding]:
    """A rule of a schedule all of whose times lie within those of a stronger rule's schedule."""
    for load in plan.loads:
        claims = _ordered(plan, load)
        for index, claim in enumerate(claims):
            inner = _schedule_of(plan, claim)
            for over in claims[:index]:
                outer = _schedule_of(plan, over)
                if inner is None or outer is None or inner.id == outer.id or over.want == "pulse":
                    continue
                if not _inside(plan, inner, outer):
                    continue
                yield Finding(
                    key=f"unheard-{claim.id}",
                    weight="warning",
                    head=f"{load.name}: the rule for “{inner.name}” can never decide.",
                    why=f"All its times lie within “{outer.name}”, whose rule is above it.",
                    mend="Move it above, or choose other times.",
                    at=f"claim:{claim.id}",
                    field="rank",
                )
                break


def _schedule_of(plan: Plan, claim: Claim) -> Schedule | None:
    if not isinstance(claim.condition, InWindow):
        return None
    key = claim.condition.schedule
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
        above = [c for c in _ordered(plan, load) if c.rank in ("trip", "interlock")]
        for first, second in combinations(above, 2):
            if first.rank != second.rank or {first.want, second.want} != {"open", "shut"}:
                continue
            yield Finding(
                key=f"ways-{first.id}-{second.id}",
                weight="warning",
                head=f"{load.name}: one {first.rank} opens it and another shuts it.",
                why=f"Where both hold the upper one wins, and it is to {first.want}: nothing of "
                "a lower level changes that.",
                mend="Put what must win above; move the other to the level of a demand where it "
                "only asks.",
                at=f"claim:{second.id}",
                field="rank",
            )


def at_one_level(plan: Plan) -> Iterator[Finding]:
    """Two claims of one level that want opposite things and can hold at once."""
    for load in plan.loads:
        for first, second in combinations(_ordered(plan, load), 2):
            if first.rank != second.rank or _wants(first) == _wants(second):
                continue
            if "off" not in (first.want, second.want) and "shut" not in (first.want, second.want):
                continue
            if not _may_both_hold(first.condition, second.condition):
                continue
            yield Finding(
                key=f"both-{first.id}-{second.id}",
                weight="open",
                head=f"{load.name}: two claims of one level can contradict each other.",
                why=f"Both are of level {first.rank}; where both hold, the upper one wins.",
                mend="Leave it where that is what you mean, or move one to another level.",
                at=f"claim:{second.id}",
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
        low, high = (condition.off, end) if rising else (-end, condition.off)
        return condition.probe, low, high
    if isinstance(condition, Beyond):
        above = condition.kind == "above"
        edge = condition.value - condition.gap if above else condition.value + condition.gap
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
        made = (
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
            why="An interlock is heard a scan later, and a hand above it can pass; only exclusive "
            "relays promise that the two never conduct together.",
            mend="Make their relays exclusive, half a second apart.",
            at=f"load:{first.id}",
            field="claims",
            press="Make them exclusive" if made else "",
            apply=(lambda plan, made=made: _with_exclusive(plan, made)) if made else None,  # type: ignore[misc]
        )


def _kept_off(plan: Plan, load: Load, other: Load) -> bool:
    return any(
        claim.rank == "interlock"
        and claim.condition is not None
        and any(
            isinstance(part, LoadState) and part.load == other.id
            for part in expanded(plan, claim.condition)
        )
        for claim in working_claims(plan, load.id)
    )


def _with_exclusive(plan: Plan, made: Exclusive) -> Plan:
    return plan.model_copy(update={"exclusive": (*plan.exclusive, made)})


def stand_ins(plan: Plan) -> Iterator[Finding]:
    """A claim whose figures stand in for a trial, or are assumed."""
    for claim in plan.claims:
        load = plan.load(claim.load)
        if load is None or claim.basis == "stated":
            continue
        trial = claim.basis == "stand_in"
        yield Finding(
            key=f"basis-{claim.id}",
            weight="severe" if trial else "open",
            head=f"{load.name}: a figure {'stands in for a trial' if trial else 'is assumed'}.",
            why=f"{claim.note[:1].upper()}{claim.note[1:]}."
            if claim.note
            else "Nobody bore it out.",
            mend="Say the true figure before publishing."
            if trial
            else "Look at it on a recorded day, then mark it as stated.",
            at=f"claim:{claim.id}",
            field="basis",
        )


def switched_off(plan: Plan) -> Iterator[Finding]:
    """A claim that is switched off for now."""
    for claim in plan.claims:
        load = plan.load(claim.load)
        if load is None or not claim.off_for_now:
            continue
        yield Finding(
            key=f"off-{claim.id}",
            weight="open",
            head=f"{load.name}: a claim is switched off for now.",
            why=claim.name or f"It is one of level {claim.rank}.",
            mend="Switch it on, or remove it.",
            at=f"claim:{claim.id}",
            press="Switch it on",
            apply=lambda plan, key=claim.id: switched(plan, key),  # type: ignore[misc]
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
