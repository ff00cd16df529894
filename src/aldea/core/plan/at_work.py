"""Which loads are set to work: whoever writes a rule for one, or a control, means it to follow."""

from collections.abc import Collection

from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.reading import want_reaches


def set_to_work(plan: Plan, load_ids: Collection[str]) -> Plan:
    """The plan with these loads in service, where they were only planned."""
    for load in plan.loads:
        if load.id in load_ids and load.stage != "working":
            plan = put_part(plan, "load", load.model_copy(update={"stage": "working"}))
    return plan


def loads_under_controls(plan: Plan) -> frozenset[str]:
    """The loads that a control switches: by itself, by a press, code or position, by a group."""
    wired = {control.load for control in plan.controls if control.load and control.kind != "lamp"}
    wants = [want for control in plan.controls for want in control.wants]
    reached = {
        load.id for load in plan.loads if any(want_reaches(plan, want, load) for want in wants)
    }
    return frozenset(wired | reached)


def with_controls(before: Plan, after: Plan) -> Plan:
    """The plan after an edit of its controls, with the loads that they switch from now on at work.

    A load that they switched before keeps its stage: somebody set it so.
    """
    return set_to_work(after, loads_under_controls(after) - loads_under_controls(before))
