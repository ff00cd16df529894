"""What a rule counts as while the value that it reads is not good: the usual result by its want."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any

from aldea.core.devices.loads.classes import must_rest
from aldea.core.plan.conditions import OnValue, Unless, WithoutReading, all_within, members_of
from aldea.core.plan.document import Load, Rule

ABOVE_FAULT = ("trip", "interlock")
# A reading that fails for a moment ends nothing; a guard that is blind for long stops its load.
GLITCH_S = 60.0
BLIND_S = 900.0
OPPOSITE: dict[WithoutReading, WithoutReading] = {"keep": "keep", "true": "false", "false": "true"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """What a condition counts as without a reading, and how long it is unchanged before, s."""

    counts: WithoutReading
    after_s: float

    @property
    def fields(self) -> dict[str, Any]:
        """The same as fields of a condition."""
        return {"without_reading": self.counts, "unchanged_for_s": self.after_s}

    @property
    def under_not(self) -> "Result":
        """What a condition must count as for its opposite to count as this."""
        return replace(self, counts=OPPOSITE[self.counts])


KEPT = Result(counts="keep", after_s=0.0)


def usual_result(load: Load, priority: str, want: str) -> Result:
    """The safe one: nothing is moved, heated or fed without a reading, and a guard stays a guard.

    A rule of level trip or interlock that switches its load off counts as true after 15 min; one
    that switches it on or moves a drive, and any rule that runs heat, water or motion, as false
    after 60 s. Any other rule keeps its last result: the sensor fault level is above it.
    """
    stops = want in ("off", "shut") and load.kind != "pulse_drive"
    if priority in ABOVE_FAULT:
        if stops:
            return Result(counts="true", after_s=BLIND_S)
        return Result(counts="false", after_s=GLITCH_S)
    if not stops and must_rest(load.load_class):
        return Result(counts="false", after_s=GLITCH_S)
    return KEPT


def with_result(condition: Any, result: Result, probes: frozenset[str] | None = None) -> Any:
    """A condition in which each part on a value that keeps its last result has another one.

    With `probes` only the parts on those.
    """
    if isinstance(condition, OnValue) and condition.without_reading == "keep":
        read = {getattr(condition, key, None) for key in ("probe", "less")}
        if probes is not None and not read & probes:
            return condition
        return condition.model_copy(update=result.fields)
    members = members_of(condition)
    if not members:
        return condition
    inside = result.under_not if isinstance(condition, Unless) else result
    changed = tuple(with_result(member, inside, probes) for member in members)
    of = changed if isinstance(condition.of, tuple) else changed[0]
    return condition.model_copy(update={"of": of})


def with_usual_result(load: Load, rule: Rule) -> Rule:
    """A rule whose condition counts without a reading as is usual for what it wants."""
    if rule.condition is None:
        return rule
    result = usual_result(load, rule.priority, rule.want)
    return rule.model_copy(update={"condition": with_result(rule.condition, result)})


def by_its_rule(load: Load, rule: Rule, probes: Iterable[str]) -> Rule:
    """A rule as the engine takes it where a lost probe stops only the rules on it.

    Its parts on one of these probes that keep their last result count as false after the load's
    time; what states a result of its own stays.
    """
    follows = rule.priority in ("schedule", "demand") and rule.condition is not None
    if load.on_sensor_fault.each != "rule" or load.on_sensor_fault.state == "keep" or not follows:
        return rule
    stops = Result(counts="false", after_s=load.on_sensor_fault.after_s)
    return rule.model_copy(
        update={"condition": with_result(rule.condition, stops, frozenset(probes))}
    )


def keeping(condition: Any) -> Iterator[OnValue]:
    """The parts of a condition that keep their last result, those of named ones apart."""
    for part in all_within(condition):
        if isinstance(part, OnValue) and part.without_reading == "keep":
            yield part
