"""What a load does without supply, and when it comes back, in one sentence for all sheets."""

from aldea.core.base.instants import duration
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Load, Plan

AT_REST = "is off"


def without_supply(load: Load, plan: Plan) -> str:
    """How it stands while there is no supply."""
    if load.kind == "pulse_drive":
        return "stays where it is"
    if load.kind == "two_way":
        return "is worked by its wall switch alone"
    if load.kind == "valve" and load.valve is not None:
        by_itself = "shuts" if load.valve.at_rest == "shut" else "opens"
        return f"{by_itself} by itself"
    runs = any(relay.contact == "nc" for relay in plan.relays_of(load.id))
    return "runs: its contact is closed at rest" if runs else AT_REST


def return_clause(load: Load) -> str:
    """What it does when the supply is back: “stays off until every rule that requests it …”."""
    back = load.power_return
    waits = f"waits {duration(back.delay_s)}, then " if back.delay_s else ""
    rest = load_device(load).state_words[0].lower()
    if load.kind == "pulse_drive":
        rest = "where it is"
    elif load.kind == "valve" and load.valve is not None:
        rest = load.valve.at_rest
    words = {
        "off": f"stays {rest} until every rule that requests it has been inactive once",
        "follow_rules": "follows its rules again",
        "last": "returns to its last state until a rule decides",
    }
    return f"{waits}{words[back.policy]}"


def power_cut_sentence(load: Load, plan: Plan) -> str:
    """Both in one sentence: it is off without supply, then follows its rules again."""
    after = return_clause(load)
    same = "stays where it is "  # of a drive: said once
    then = f"and then {after.removeprefix(same)}" if after.startswith(same) else f"then {after}"
    return f"{load.name} {without_supply(load, plan)} without supply, {then}."
