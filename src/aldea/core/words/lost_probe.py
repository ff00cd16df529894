"""What a load does when a probe that it reads gives no good reading: one answer for page and sheet.

The rule is that which the engine follows: a sensor fault rule on the probe, else what the load says
of a silence of the probes that its schedules and demands read, else a trip or an interlock that
counts as true without a reading.
"""

from dataclasses import dataclass
from typing import Any

from aldea.core.base.instants import span
from aldea.core.plan.conditions import Lasting, Named, OnValue, QualityIs, Some
from aldea.core.plan.document import Load, Plan, Rule, Wanted
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import (
    lost_together,
    named_conditions,
    probes_of_rule,
    unspoken_probes,
    working_rules,
)
from aldea.core.plan.without_reading import ABOVE_FAULT
from aldea.core.words.rules import want_words

NO_RULE = "no fault rule"


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultRule:
    """What is wanted after a probe was last good so long ago, s; `own` by a rule on that probe."""

    wanted: Wanted
    after_s: float
    own: bool

    def words(self, load: Load) -> str:
        """As a sentence begins with it: “Off after 15 min”."""
        after = f"after {span(self.after_s)}" if self.after_s else "at once"
        stays = load.kind == "pulse_drive" and self.wanted.want == "off"
        return f"{'Stays where it is' if stays else want_words(self.wanted, load)} {after}"


def fault_rule(plan: Plan, load: Load, probe: str) -> FaultRule | None:
    """The rule of a load for a probe that is lost; None where it has none."""
    rules = working_rules(plan, load.id)
    for rule in rules:
        after_s = _fault_after_s(rule, probe) if rule.priority == "fault" else None
        if after_s is not None:
            return FaultRule(wanted=rule, after_s=after_s, own=True)
    alone = probe in unspoken_probes(plan, load) and not lost_together(plan, load)
    if alone and load.on_sensor_fault.state != "keep":
        wanted = Wanted(want="on" if load.on_sensor_fault.state == "on" else "off")
        return FaultRule(wanted=wanted, after_s=load.on_sensor_fault.after_s, own=False)
    for rule in rules:
        after_s = _true_after_s(plan, rule.condition, probe)
        if rule.priority in ABOVE_FAULT and after_s is not None:
            return FaultRule(wanted=rule, after_s=after_s, own=True)
    return None


def _fault_after_s(rule: Rule, probe: str) -> float | None:
    """How long a sensor fault rule waits, s; None where it is not on this probe."""
    condition: Any = rule.condition
    wait_s = 0.0
    if condition is None:
        return rule.after_s if rule.probe == probe else None
    if isinstance(condition, Lasting):
        condition, wait_s = condition.of, condition.on_s
    on_it = isinstance(condition, QualityIs) and condition.probe == probe
    return wait_s if on_it and "stale" in condition.among else None


def _true_after_s(plan: Plan, condition: Any, probe: str) -> float | None:
    """After how long without a reading of a probe a condition is true for that alone, s."""
    if isinstance(condition, Named):
        return _true_after_s(plan, named_conditions(plan).get(condition.condition), probe)
    if isinstance(condition, Lasting):
        inner_s = _true_after_s(plan, condition.of, probe)
        return None if inner_s is None else inner_s + condition.on_s
    if isinstance(condition, Some):
        waits = [_true_after_s(plan, member, probe) for member in condition.of]
        return min((wait for wait in waits if wait is not None), default=None)
    stated = isinstance(condition, OnValue) and condition.without_reading == "true"
    if not stated or getattr(condition, "probe", "") != probe:
        return None
    return float(condition.unchanged_for_s)


def probes_read(plan: Plan, load: Load) -> tuple[str, ...]:
    """Every probe that a working rule of a load reads as a value, in the order of its rules."""
    rules = working_rules(plan, load.id)
    return tuple(dict.fromkeys(probe for rule in rules for probe in probes_of_rule(plan, rule)))


def probe_words(plan: Plan, load: Load, probe: str) -> str:
    """What a load does when one probe is lost, as a sentence begins with it."""
    rule = fault_rule(plan, load, probe)
    if rule is not None:
        return rule.words(load)
    if load.on_sensor_fault.each == "rule" and probe in unspoken_probes(plan, load):
        after = (
            f"after {span(load.on_sensor_fault.after_s)}"
            if load.on_sensor_fault.after_s
            else "at once"
        )
        return f"only the rules on it stop, {after}"
    return NO_RULE


def lost_probe_words(plan: Plan, load: Load) -> str:
    """What it does for each probe that it reads, those of one answer together."""
    by_load: dict[str, list[str]] = {}
    for probe in probes_read(plan, load):
        words = probe_words(plan, load, probe)
        by_load.setdefault(words, []).append(reading_name(plan, probe))
    if len(by_load) < 2:
        return next(iter(by_load), "reads no probe")
    return "; ".join(f"{', '.join(names)}: {words}" for words, names in by_load.items())
