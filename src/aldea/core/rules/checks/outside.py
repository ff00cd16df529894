"""Checks of drives that others can move by their own button, above schedules and demands."""

from collections.abc import Iterator

from aldea.core.base.instants import span
from aldea.core.devices.finding import Check, Finding
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.reading import working_rules
from aldea.core.plan.rule_edits import put_rule
from aldea.core.plan.without_reading import with_usual_result


def moved_from_outside(plan: Plan) -> Iterator[Finding]:
    """A rule that shuts a drive below the level of overrides: its own button can block it."""
    for load in plan.loads:
        if load.kind != "pulse_drive":
            continue
        for rule in working_rules(plan, load.id):
            if rule.priority not in ("schedule", "demand") or rule.want != "shut":
                continue
            raised = rule.model_copy(update={"priority": "interlock"})
            yield Finding(
                key=f"outside-{rule.id}",
                weight="open",
                head=f"{load.name}: its own button can block a rule that shuts it.",
                why=f"Moved by its own button it is overridden {_how_long(load)}; an override is "
                f"stronger than a {rule.priority} rule.",
                fix="Make the rule an interlock, or accept this where a person may keep it open.",
                at=f"rule:{rule.id}",
                field="priority",
                press="Make it an interlock",
                apply=lambda plan, load=load, raised=raised: put_rule(  # type: ignore[misc]
                    plan, with_usual_result(load, raised)
                ),
            )


def _how_long(load: Load) -> str:
    if load.override.ends_by == "time":
        return f"for {span(load.override.for_s)}"
    if load.override.ends_by == "agreement":
        return "until its rules request the same state"
    return "until it is returned to automatic"


OUTSIDE_CHECKS: tuple[Check, ...] = (moved_from_outside,)
