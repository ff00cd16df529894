"""Pins given again to some signals while all others stay."""

from aldea.core.devices.finding import Mend
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Assignment
from aldea.core.wiring.assign import assign_pins


def assigned_again(plan: Plan, *names: str) -> Plan:
    """The plan with some signals given new pins by the solver; all else stays where it is."""
    kept = tuple(
        row.model_copy(update={"by": "hand"}) for row in plan.assignments if row.signal not in names
    )
    hands = {row.signal for row in plan.assignments if row.by == "hand"}
    done = assign_pins(plan.model_copy(update={"assignments": kept}), explain=False)
    if done.conflict:
        done = assign_pins(
            plan.model_copy(
                update={
                    "assignments": tuple(
                        r for r in plan.assignments if r.by == "hand" and r.signal not in names
                    )
                }
            )
        )
    rows = tuple(
        row if row.by == "solver" or row.signal in hands else _as_before(plan, row)
        for row in done.assignments
    )
    return plan.model_copy(update={"assignments": rows or plan.assignments})


def give_new_pins(*names: str) -> Mend:
    """A mend that gives signals new pins."""
    return lambda plan: assigned_again(plan, *names)


def _as_before(plan: Plan, row: Assignment) -> Assignment:
    return next((old for old in plan.assignments if old.signal == row.signal), row)
