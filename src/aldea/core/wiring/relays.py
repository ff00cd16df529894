"""The relays of a load: those that it needs, and those that it lacks, proposed."""

from aldea.core.devices.loads.ratings import (
    contact_of,
    load_current_a,
    start_current_a,
)
from aldea.core.devices.loads.registry import load_device
from aldea.core.plan.document import Load, Plan
from aldea.core.plan.edits import part_of
from aldea.core.plan.panel import RelayOutput, TransistorSwitch
from aldea.core.wiring.drivers import bears_a, starts_a

USUAL_RATINGS_A = (10.0, 16.0)
# usual field-effect parts that 3.3 V switch fully; assumed, the part's own sheet goes before
TRANSISTORS = (
    TransistorSwitch(limit_a=5.0, on_ohm=0.03),
    TransistorSwitch(limit_a=20.0, on_ohm=0.008),
    TransistorSwitch(limit_a=50.0, on_ohm=0.003),
)


def roles_wanted(load: Load) -> tuple[str, ...]:
    """The relay roles that a load of its kind needs."""
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

    New relays are like the given one (module, polarity, rating), or of a common module whose
    contact bears the load; where none of the usual ones does, it switches a contactor, and direct
    current is switched by a transistor.
    """
    have = {relay.role for relay in plan.relays_of(load_id)}
    load: Load = part_of(plan, "load", load_id)
    relays = list(plan.relays)
    for role in roles_wanted(load):
        if role in have:
            continue
        facts = like.model_dump() if like else {"coil_v": coil_volts(plan)}
        output = RelayOutput.model_validate(
            {
                **facts,
                "id": free_relay_id({r.id for r in relays}),
                "load": load_id,
                "role": role,
                "contact": "no",
            }
        )
        relays.append(output if like else _bearing(output, load, plan))
    return plan.model_copy(update={"relays": tuple(relays)})


def _bearing(relay: RelayOutput, load: Load, plan: Plan) -> RelayOutput:
    """A relay of the lowest usual rating that bears a load; else a contactor, or a transistor."""
    for rated_a in USUAL_RATINGS_A:
        bearing = relay.model_copy(update={"rated_a": rated_a})
        if contact_of(bearing, load, plan).fits:
            return bearing
    if not load.on_mains and load.runs_on == "dc" and len(roles_wanted(load)) == 1:
        current_a = load_current_a(load, plan)
        for part in TRANSISTORS:
            if bears_a(part) >= current_a and starts_a(part) >= start_current_a(load, plan):
                return relay.model_copy(update={"transistor": part, "active": "high"})
    takes = load.on_mains and not load_device(load).no_contactor
    return relay.model_copy(update={"contactor": takes})


def most_closed(load: Load, roles: set[str]) -> int:
    """How many of some of a load's relays can be closed at one time; all where it does not say."""
    return max(
        (len(set(state) & roles) for state in load_device(load).states(load)), default=0
    ) or len(roles)
