"""The relays of a load: those that it needs, and those that it lacks, proposed."""

from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import part_of
from aldea.core.plan.panel import RelayOutput


def roles_wanted(plan: Plan, load_id: str) -> tuple[str, ...]:
    """The relay roles that a load of its kind needs."""
    load: Load = part_of(plan, "load", load_id)
    return load_device(load).roles(load)


def coil_volts(plan: Plan) -> float:
    """The volts of the supply that most coils would be fed from: that of the boards; else 5 V."""
    fed = [plan.supply(board.supply) for board in plan.boards]
    volts = [supply.volts for supply in fed if supply is not None]
    return max(set(volts), key=volts.count) if volts else 5.0


def free_relay_id(taken: set[str]) -> str:
    """The first of k1, k2, … that no relay has."""
    number = 1
    while f"k{number}" in taken:
        number += 1
    return f"k{number}"


def with_relays(plan: Plan, load_id: str, like: RelayOutput | None = None) -> Plan:
    """The plan with a relay for each role that a load needs and does not have yet.

    New relays are like the given one (module, polarity, rating), or of a common module.
    """
    have = {relay.role for relay in plan.relays_of(load_id)}
    relays = list(plan.relays)
    for role in roles_wanted(plan, load_id):
        if role in have:
            continue
        facts = like.model_dump() if like else {"coil_v": coil_volts(plan)}
        relays.append(
            RelayOutput.model_validate(
                {
                    **facts,
                    "id": free_relay_id({r.id for r in relays}),
                    "load": load_id,
                    "role": role,
                    "contact": "no",
                }
            )
        )
    return plan.model_copy(update={"relays": tuple(relays)})


def most_closed(load: Load, roles: set[str]) -> int:
    """How many of some of a load's relays can be closed at one time; all where it does not say."""
    return max(
        (len(set(state) & roles) for state in load_device(load).states(load)), default=0
    ) or len(roles)
