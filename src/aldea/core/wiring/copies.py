"""Another like this: a unit of one board with all that hangs on it, copied; a change carried on.

A unit is a controller, the boards that hang on it, the probes, controls and relays that sit on
them, the loads of these relays, and what their rules say of nothing else.
"""

import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from aldea.core.base.errors import InputError
from aldea.core.devices.sensors.models import SENSOR_FACTS
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import COLLECTIONS, fresh_id, ids_of, part_of, put_part
from aldea.core.plan.one_part import lead_of
from aldea.core.plan.panel import Assignment, CopiedPart
from aldea.core.plan.reading import probes_of_rule
from aldea.core.wiring.relays import free_relay_id

MOST_COPIES = 50
# keys of the plan that name a part, and of which kind
NAMES_A = {
    "probe": "probe",
    "probes": "probe",
    "part_with": "probe",
    "inner": "probe",
    "open_contact": "probe",
    "shut_contact": "probe",
    "distance_probe": "probe",
    "sense": "probe",
    "load": "load",
    "loads": "load",
    "members": "load",
    "host": "board",
}
# what a copy keeps for itself when a change is carried to it
OWN = ("id", "name", "place", "stage", "feed", "spoken", "supply", "certificate", "cable_m")
PARTS = ("board", "probe", "load", "relay", "control", "rule", "invariant")
Keys = Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """A unit: its board, and the keys of its parts (`probe:rack_top`) in the order of the plan."""

    board: str
    parts: tuple[str, ...]


def unit_of(plan: Plan, board_id: str) -> Unit:
    """Everything that hangs on a controller and on nothing else."""
    boards = {b.id for b in plan.boards if board_id in (b.id, b.host)}
    owners = {r.signal.split(".")[0] for r in plan.assignments if r.board in boards}
    probes = {p.id for p in plan.probes if f"probe:{lead_of(plan, p).id}" in owners}
    loads = {r.load for r in plan.relays if f"relay:{r.id}" in owners}
    loads |= {load.id for load in plan.loads if f"load:{load.id}" in owners}
    inside: dict[str, set[str]] = {
        "board": boards,
        "probe": probes,
        "load": loads,
        "relay": {r.id for r in plan.relays if r.load in loads},
        "control": {c.id for c in plan.controls if f"control:{c.id}" in owners},
        "rule": {
            c.id for c in plan.rules if c.load in loads and set(probes_of_rule(plan, c)) <= probes
        },
        "invariant": {
            i.id for i in plan.invariants if set(i.loads) <= loads and set(i.probes) <= probes
        },
    }
    return Unit(board=board_id, parts=tuple(_keys(plan, inside)))


def _keys(plan: Plan, inside: Mapping[str, set[str]]) -> Iterator[str]:
    for kind in PARTS:
        for part in getattr(plan, _collection(kind)):
            if part.id in inside[kind]:
                yield f"{kind}:{part.id}"


def _collection(kind: str) -> str:
    return "rules" if kind == "rule" else COLLECTIONS[kind]


def copies_of(plan: Plan, board_id: str) -> tuple[str, ...]:
    """The boards that are copies of a board."""
    return tuple(c.id.removeprefix("board:") for c in plan.copies if c.of == f"board:{board_id}")


def copied(plan: Plan, board_id: str, word: str, others: Sequence[str]) -> Plan:
    """The plan with a copy of a unit for each other word, which stands in the names for `word`.

    Where a word is the name of a place, that copy stands there. Names without the word get the
    other one at their end. Raises `InputError` for no words, a word twice, or a board that is no
    controller.
    """
    board = part_of(plan, "board", board_id)
    if board_types(plan)[board.board_type].role != "controller":
        raise InputError("board", got=board.name, allowed="a controller, with what hangs on it")
    if not others or len(others) > MOST_COPIES or len({*others, word}) <= len(others):
        raise InputError(
            "copies",
            got=", ".join(others)[:80] or "nothing",
            allowed=f"1 to {MOST_COPIES} words, each once",
            fix="Enter the replacements for the names, separated by commas: Bath, Hall.",
        )
    unit = unit_of(plan, board_id)
    for other in others:
        plan = _one_copy(plan, unit, word, other)
    return plan


def _one_copy(plan: Plan, unit: Unit, word: str, other: str) -> Plan:
    here = next((p.id for p in plan.places if p.name.casefold() == other.casefold()), None)
    to: dict[str, str] = {}
    for key in unit.parts:
        kind, _, part_id = key.partition(":")
        taken = {p.id for p in plan.rules} if kind == "rule" else ids_of(plan, kind)
        taken |= {copy.partition(":")[2] for copy in to.values() if copy.startswith(f"{kind}:")}
        to[key] = f"{kind}:{free_relay_id(taken) if kind == 'relay' else fresh_id(part_id, taken)}"
    home = part_of(plan, "board", unit.board).place
    for key, copy in to.items():
        kind, _, part_id = key.partition(":")
        old = _part(plan, kind, part_id)
        facts = _mapped(json.loads(old.model_dump_json()), to)
        facts["id"] = copy.partition(":")[2]
        if "name" in facts:
            facts["name"] = _renamed(facts["name"], word, other)
        if here is not None and facts.get("place") == home:
            facts["place"] = here
        if kind == "control":
            facts["codes"] = []  # each remote sends codes of its own
        if kind == "probe":
            facts["sensor"] = _blank(facts["sensor"])
            facts["calibration"] |= {"basis": "entered", "certificate": None, "carried_from": None}
        plan = _put(plan, kind, type(old).model_validate_json(json.dumps(facts)))
    rows = tuple(
        Assignment(
            signal=f"{to[row.signal.split('.')[0]]}.{row.signal.split('.', 1)[1]}",
            board=to[f"board:{row.board}"].removeprefix("board:"),
            pin=row.pin,
            by=row.by,
            reason=row.reason,
        )
        for row in plan.assignments
        if row.signal.split(".")[0] in to and f"board:{row.board}" in to
    )
    origin = {c.id: c.of for c in plan.copies}
    links = tuple(CopiedPart(id=copy, of=origin.get(key, key)) for key, copy in to.items())
    return plan.model_copy(
        update={"assignments": (*plan.assignments, *rows), "copies": (*plan.copies, *links)}
    )


def _blank(sensor: dict[str, Any] | None) -> dict[str, Any] | None:
    """A sensor's facts without what was measured on that one part."""
    own = SENSOR_FACTS[sensor["kind"]].own_figures if sensor else ()
    return {key: value for key, value in sensor.items() if key not in own} if sensor else None


def _renamed(name: str, word: str, other: str) -> str:
    new_name = name.replace(word, other) if word and word in name else f"{name} {other}"
    return new_name[:80]


def _part(plan: Plan, kind: str, part_id: str) -> Any:
    if kind == "rule":
        return next(rule for rule in plan.rules if rule.id == part_id)
    return part_of(plan, kind, part_id)


def _put(plan: Plan, kind: str, part: Any) -> Plan:
    if kind != "rule":
        return put_part(plan, kind, part)
    if any(rule.id == part.id for rule in plan.rules):
        rows = tuple(part if rule.id == part.id else rule for rule in plan.rules)
    else:
        rows = (*plan.rules, part)
    return plan.model_copy(update={"rules": rows})


def _mapped(value: Any, to: Keys, key: str = "") -> Any:
    """A part's facts with the ids of the unit's parts put in for those that they name."""
    if isinstance(value, dict):
        return {name: _mapped(inner, to, name) for name, inner in value.items()}
    if isinstance(value, list):
        return [_mapped(inner, to, key) for inner in value]
    if isinstance(value, str) and key in NAMES_A:
        kind = NAMES_A[key]
        return to.get(f"{kind}:{value}", f"{kind}:{value}").removeprefix(f"{kind}:")
    return value


def carried(plan: Plan, board_id: str) -> Plan:
    """The figures of a unit carried to all its copies; each keeps its names and its places.

    A copy's certificate and line are its own; so is the address that its jumpers make.
    """
    unit = unit_of(plan, board_id)
    for copy_id in copies_of(plan, board_id):
        mine = set(unit_of(plan, copy_id).parts)
        to = {c.of: c.id for c in plan.copies if c.id in mine}
        for key in unit.parts:
            if key in to:
                plan = _carry(plan, key, to)
        boards = {f"board:{b.id}" for b in plan.boards} & set(to)
        theirs = {to[name].removeprefix("board:") for name in boards}
        rows = [r for r in plan.assignments if r.board not in theirs]
        for row in plan.assignments:
            owner, line = row.signal.split(".", 1)
            if owner in to and f"board:{row.board}" in to:
                at = to[f"board:{row.board}"].removeprefix("board:")
                moved = {"signal": f"{to[owner]}.{line}", "board": at}
                rows.append(row.model_copy(update=moved))
        plan = plan.model_copy(update={"assignments": tuple(rows)})
    return plan


def _carry(plan: Plan, key: str, to: Keys) -> Plan:
    kind, _, part_id = key.partition(":")
    source, target = _part(plan, kind, part_id), _part(plan, kind, to[key].partition(":")[2])
    facts = _mapped(json.loads(source.model_dump_json()), to)
    own = json.loads(target.model_dump_json())
    kept = {name: own[name] for name in OWN if name in own}
    if kind == "probe":
        kept["calibration"] = own["calibration"]
        kept["part_with"] = own["part_with"]
        if own["sensor"] and facts["sensor"] and own["sensor"]["kind"] == facts["sensor"]["kind"]:
            figures = SENSOR_FACTS[own["sensor"]["kind"]].own_figures
            mine = {key: own["sensor"][key] for key in figures if key in own["sensor"]}
            kept["sensor"] = {**facts["sensor"], **mine}
        else:
            kept["sensor"] = _blank(facts["sensor"])
    if kind == "control":
        kept["codes"] = own["codes"]
    if kind == "board" and own.get("host"):
        kept["host"] = own["host"]
    return _put(plan, kind, type(target).model_validate_json(json.dumps({**facts, **kept})))
