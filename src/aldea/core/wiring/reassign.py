"""Pins given again to some signals while all others stay."""

from aldea.core.devices.finding import Mend
from aldea.core.plan.document import Plan
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.seating import seated_quickly


def assigned_again(plan: Plan, *names: str) -> Plan:
    """The plan with some signals given new pins, and all else where it is.

    Where no free pin serves them, the solver deals all that no hand has chosen.
    """
    quick = seated_quickly(plan, names)
    if quick is not None:
        return quick
    left = tuple(row for row in plan.assignments if row.signal not in names)
    done = assign_pins(plan.model_copy(update={"assignments": left}), redeal=True)
    return plan.model_copy(update={"assignments": done.assignments or plan.assignments})


def give_new_pins(*names: str) -> Mend:
    """A mend that gives signals new pins; the plan as it is where there are none."""
    return lambda plan: seated_quickly(plan, names) or plan
