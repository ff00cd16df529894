"""What a load does without supply, and when it comes back, in one sentence for all sheets."""

from aldea.core.base.instants import span
from aldea.core.plan.document import Load, Plan

RETURNS = {"off": "stays off", "decide": "decides again", "last": "is as it was"}
AT_REST = "is off"


def without_supply(load: Load, plan: Plan) -> str:
    """How it stands while there is no supply."""
    if load.kind == "pulse_drive":
        return "stays where it stands"
    if load.kind == "two_way":
        return "is worked by its wall switch alone"
    if load.kind == "valve" and load.valve is not None:
        by_itself = "shuts" if load.valve.at_rest == "shut" else "opens"
        return f"{by_itself} by itself"
    runs = any(relay.contact == "nc" for relay in plan.relays_of(load.id))
    return "runs: its contact is closed at rest" if runs else AT_REST


def power_cut_sentence(load: Load, plan: Plan) -> str:
    """Both in one sentence: it stays where it stands without supply, then stays off."""
    back = load.power_return
    wait = f" after {span(back.delay_s)}" if back.delay_s else ""
    after = RETURNS[back.policy]
    if load.kind == "pulse_drive" and back.policy == "off":
        after = "moves only when it is told to"
    if load.kind == "valve" and back.policy == "off" and load.valve is not None:
        after = "stays shut" if load.valve.at_rest == "shut" else "stays open"
    return f"{load.name} {without_supply(load, plan)} without supply, then {after}{wait}."
