"""The plan of some loads alone: a small house of what they need, to be given to somebody else."""

from collections.abc import Iterator, Mapping
from typing import Any

from aldea.core.plan.document import Plan

# Collections in which one part names another by its id. What names a load from without (a rule,
# a relay) comes along with it; boards come only where they feed something, and bring no pins.
BY_ID = (
    "places", "probes", "loads", "derived", "conditions", "modes", "schedules", "doorways",
    "supplies", "boards", "board_types",
)  # fmt: skip
OF_A_LOAD = ("rules", "relays")
IF_WHOLE = ("controls", "groups", "exclusive", "invariants")  # taken where all they name is there
NO_MORE: Mapping[str, Any] = {
    "assignments": (), "stock": (), "numbers": (), "copies": (), "sheet": None
}  # fmt: skip


def excerpt(plan: Plan, load_ids: frozenset[str]) -> Plan:
    """The plan of some loads with their rules and all that these stand on; pins are left out.

    Loads that a rule looks at come along with their own rules. Controls, groups, exclusive relays
    and must-nevers come along where every part that they name does.
    """
    known = {(name, row.id): row for name in (*BY_ID, *OF_A_LOAD) for row in getattr(plan, name)}
    of_load: dict[str, list[tuple[str, str]]] = {}
    for name in OF_A_LOAD:
        for row in getattr(plan, name):
            of_load.setdefault(row.load, []).append((name, row.id))
    taken: set[tuple[str, str]] = set()
    waiting = [("loads", load_id) for load_id in load_ids if ("loads", load_id) in known]
    while waiting:
        key = waiting.pop()
        if key in taken:
            continue
        taken.add(key)
        names = set(_texts(known[key].model_dump(mode="json")))
        waiting += [(name, text) for name in BY_ID for text in names if (name, text) in known]
        if key[0] == "loads":
            waiting += of_load.get(key[1], ())
    kept: dict[str, Any] = {
        name: tuple(row for row in getattr(plan, name) if (name, row.id) in taken)
        for name in (*BY_ID, *OF_A_LOAD)
    }
    left_out = {text for name, text in known if (name, text) not in taken}
    left_out -= {text for _, text in taken}
    for name in IF_WHOLE:
        kept[name] = tuple(row for row in getattr(plan, name) if not _names(row, left_out))
    first = next(load.name for load in kept["loads"] if load.id in load_ids)
    house = plan.house.model_copy(update={"name": f"{first}, {plan.house.name}"[:80]})
    memory = plan.memory
    if memory.fields is not None:
        fields = tuple(field for field in memory.fields if not _names(field, left_out))
        memory = memory.model_copy(update={"fields": fields})
    return plan.model_copy(update={**kept, **NO_MORE, "house": house, "memory": memory})


def _texts(value: object) -> Iterator[str]:
    """Every text in a part, also the id within `probe:rack_top` or `mode:house=away`."""
    if isinstance(value, str):
        yield value
        yield from value.replace("=", ":").replace(".", ":").split(":")
    elif isinstance(value, Mapping):
        for inner in value.values():
            yield from _texts(inner)
    elif isinstance(value, list | tuple):
        for inner in value:
            yield from _texts(inner)


def _names(row: Any, ids: set[str]) -> bool:
    facts = row if isinstance(row, str) else row.model_dump(mode="json")
    return any(text in ids for text in _texts(facts))
