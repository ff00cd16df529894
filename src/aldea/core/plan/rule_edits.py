"""Changing a load's rules: put in, moved inside their level, disabled, taken out."""

from aldea.core.base.errors import NotFoundError
from aldea.core.plan.document import Plan, Rule
from aldea.core.plan.edits import fresh_id


def rule_of(plan: Plan, rule_id: str) -> Rule:
    """The rule of that id; `NotFoundError` where there is none."""
    for rule in plan.rules:
        if rule.id == rule_id:
            return rule
    raise NotFoundError("rule", got=repr(rule_id)[:80], allowed="a rule of this plan")


def fresh_rule_id(plan: Plan, load: str, priority: str) -> str:
    """An id for a new rule of a load."""
    return fresh_id(f"{load} {priority}", {rule.id for rule in plan.rules})


def put_rule(plan: Plan, rule: Rule) -> Plan:
    """The plan with a rule in the place of the one of its id, or at the end of its load's."""
    if any(old.id == rule.id for old in plan.rules):
        rows = tuple(rule if old.id == rule.id else old for old in plan.rules)
        return plan.model_copy(update={"rules": rows})
    last = max((i for i, old in enumerate(plan.rules) if old.load == rule.load), default=-1)
    at = last + 1 if last >= 0 else len(plan.rules)
    return plan.model_copy(update={"rules": (*plan.rules[:at], rule, *plan.rules[at:])})


def without_rule(plan: Plan, rule_id: str) -> Plan:
    """The plan without a rule."""
    rule_of(plan, rule_id)
    return plan.model_copy(update={"rules": tuple(c for c in plan.rules if c.id != rule_id)})


def switched(plan: Plan, rule_id: str) -> Plan:
    """The plan with a rule disabled, or on again."""
    rule = rule_of(plan, rule_id)
    return put_rule(plan, rule.model_copy(update={"disabled": not rule.disabled}))


def moved_rule(plan: Plan, rule_id: str, by: int) -> Plan:
    """The plan with a rule moved so many places up (negative) or down inside its level.

    It never leaves its load and its level: its level says who wins. At an end of it nothing
    changes; beyond an end it stands at it.
    """
    rule = rule_of(plan, rule_id)
    level = [
        index
        for index, other in enumerate(plan.rules)
        if (other.load, other.priority) == (rule.load, rule.priority)
    ]
    order = [plan.rules[index] for index in level]
    here = order.index(rule)
    there = min(max(here + by, 0), len(order) - 1)
    order.insert(there, order.pop(here))
    rows = list(plan.rules)
    for index, row in zip(level, order, strict=True):
        rows[index] = row
    return plan.model_copy(update={"rules": tuple(rows)})
