"""Checks of rules that cannot do what they say: by a dead probe, an unknown state, no such step."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding
from aldea.core.devices.sensors.gas.model import GasSensor
from aldea.core.devices.sensors.leak_tape.device import tape_divider
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.plan.conditions import Gas, Lasting, OnValue, QualityIs, Tape
from aldea.core.plan.document import Load, Plan, Probe, Rule
from aldea.core.plan.levels import levels_in_words, levels_of
from aldea.core.plan.naming import reading_name
from aldea.core.plan.reading import expanded, lost_together, unspoken_probes, working_rules
from aldea.core.plan.rule_edits import put_rule
from aldea.core.plan.without_reading import (
    ABOVE_FAULT,
    keeping,
    usual_result,
    with_usual_result,
)


def acts_unread(plan: Plan) -> Iterator[Finding]:
    """A trip or an interlock that keeps its last result: it decides above the sensor fault rule."""
    for load in plan.loads:
        for rule in working_rules(plan, load.id):
            if rule.priority not in ABOVE_FAULT or rule.condition is None:
                continue
            kept = [
                part
                for part in expanded(plan, rule.condition)
                if isinstance(part, OnValue) and part.without_reading == "keep"
            ]
            if kept:
                yield _finding(plan, load, rule, kept)


def _finding(plan: Plan, load: Load, rule: Rule, kept: list[OnValue]) -> Finding:
    names = list(dict.fromkeys(reading_name(plan, getattr(part, "probe", "")) for part in kept))
    result = usual_result(load, rule.priority, rule.want)
    words = f"{result.counts} after {span(result.after_s)}"
    own = any(keeping(rule.condition))
    return Finding(
        key=f"unread-{rule.id}",
        weight="severe",
        head=f"{load.name}: one of its {rule.priority} rules keeps its last result "
        "without a reading.",
        why=f"When {' or '.join(names)} fails, the rule keeps acting on its last reading, above "
        f"the sensor fault rule.",
        fix=f"Set what it counts as without a reading; {words} is usual here."
        if own
        else "Set it in the named condition that it reads, at Schedules and modes.",
        at=f"rule:{rule.id}",
        field="condition.without_reading",
        press=f"Count as {words}" if own else "",
        apply=(lambda plan: put_rule(plan, with_usual_result(load, rule))) if own else None,
    )


def never_told(plan: Plan) -> Iterator[Finding]:
    """A rule on states that nobody can tell yet: a tape or a gas sensor without its figures."""
    for load in plan.loads:
        for rule in working_rules(plan, load.id):
            parts = expanded(plan, rule.condition) if rule.condition is not None else ()
            for part in parts:
                probe = plan.probe(part.probe) if isinstance(part, Tape | Gas) else None
                if probe is None or _has_figures(plan, probe):
                    continue
                tape = isinstance(part, Tape)
                yield Finding(
                    key=f"untold-{rule.id}",
                    weight="severe",
                    head=f"{load.name}: a rule on {probe.name} is never true yet.",
                    why="Its states depend on its construction and its pin, which are not entered."
                    if tape
                    else "Its volts in clean air were not recorded.",
                    fix="Enter its construction at Lay out, and assign its pin at Wire."
                    if tape
                    else "Record its clean air at Calibrate, Gas.",
                    at=f"rule:{rule.id}",
                    about=(f"probe:{probe.id}",),
                    field="condition.probe",
                )
                break


def below_the_failsafe(plan: Plan) -> Iterator[Finding]:
    """A rule on a probe's own fault that is weaker than what the load does on that fault."""
    for load in plan.loads:
        followed = unspoken_probes(plan, load)
        if load.on_sensor_fault.state == "keep" or lost_together(plan, load):
            continue
        for rule in working_rules(plan, load.id):
            waited = rule.condition if isinstance(rule.condition, Lasting) else None
            part = waited.of if waited else rule.condition
            wait_s = waited.on_s if waited else 0.0
            if rule.priority not in ("schedule", "demand") or not isinstance(part, QualityIs):
                continue
            if part.probe not in followed or load.on_sensor_fault.after_s > wait_s:
                continue
            if "good" in part.among or rule.want == load.on_sensor_fault.state:
                continue
            yield Finding(
                key=f"unheard-{rule.id}",
                weight="severe",
                head=f"{load.name}: its rule on the fault of {reading_name(plan, part.probe)} "
                "can never decide.",
                why=f"On a sensor fault the load goes to {load.on_sensor_fault.state}, and "
                f"a sensor fault has priority over a {rule.priority}.",
                fix="Give the rule the priority of a sensor fault.",
                at=f"rule:{rule.id}",
                field="priority",
                press="Set that priority",
                apply=lambda plan, rule=rule: put_rule(  # type: ignore[misc]
                    plan, rule.model_copy(update={"priority": "fault"})
                ),
            )


def _has_figures(plan: Plan, probe: Probe) -> bool:
    sensor = probe.sensor
    if isinstance(sensor, LeakTape):
        return tape_divider(probe, sensor, plan) is not None
    return isinstance(sensor, GasSensor) and sensor.clean_air_v is not None


def no_such_level(plan: Plan) -> Iterator[Finding]:
    """A rule that wants a step or a pattern that its load has not."""
    for load in plan.loads:
        for rule in working_rules(plan, load.id):
            if rule.want not in ("step", "pattern") or rule.level in levels_of(load, rule.want):
                continue
            yield Finding(
                key=f"level-{rule.id}",
                weight="severe",
                head=f"{load.name}: one of its rules requests {rule.want} {rule.level}.",
                why=f"It has {levels_in_words(load, rule.want)}. The next lower is taken.",
                fix="Choose one of those, or change what its relays make.",
                at=f"rule:{rule.id}",
                field="level",
            )


UNREAD_CHECKS: tuple[Check, ...] = (acts_unread, below_the_failsafe, never_told, no_such_level)
