"""Search in a plan: probes, loads, rules, pins and what else has a name, best matches first."""

import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from aldea.core.plan.document import Plan
from aldea.core.words.rules import rule_sentence

Kind = Literal[
    "probe", "load", "rule", "pin", "control", "board", "supply", "place", "schedule", "mode",
    "condition", "signal",
]  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Hit:
    """A part that was found: its kind, id, name, and the line that tells it from others.

    `owner` is the load of a rule, and the part whose signal sits on a pin.
    """

    kind: Kind
    id: str
    name: str
    line: str
    owner: str = ""


def plain_text(text: str) -> str:
    """Text as it is compared: without accents and capitals."""
    apart = unicodedata.normalize("NFKD", text)
    return "".join(sign for sign in apart if not unicodedata.combining(sign)).casefold()


def search_plan(plan: Plan, query: str, most: int = 40) -> tuple[Hit, ...]:
    """The parts in whose name, id or line every word of the query stands, best ones first.

    A name that begins with the query comes first, then a word of a name that does, then a name that
    contains it, then the rest; within these the order of the plan. At most `most` of them.
    """
    words = plain_text(query).split()
    if not words:
        return ()
    hits: list[tuple[int, Hit]] = []
    for hit in _parts(plan):
        name, rest = plain_text(hit.name), plain_text(f"{hit.line} {hit.id}")
        if all(word in name or word in rest for word in words):
            hits.append((_place(" ".join(words), name, words), hit))
    hits.sort(key=lambda row: row[0])
    return tuple(hit for _, hit in hits[:most])


def _place(query: str, name: str, words: list[str]) -> int:
    if name.startswith(query):
        return 0
    if all(any(part.startswith(word) for part in name.split()) for word in words):
        return 1
    return 2 if all(word in name for word in words) else 3


def _parts(plan: Plan) -> Iterator[Hit]:
    """Every part of a plan that has a page, with the line that tells it from others."""
    places = {place.id: place.name for place in plan.places}
    boards = {board.id: board.name for board in plan.boards}

    for probe in plan.probes:
        line = f"{probe.quantity.replace('_', ' ')}, {places.get(probe.place, '')}"
        yield Hit(kind="probe", id=probe.id, name=probe.name, line=line)
    for load in plan.loads:
        line = f"{load.load_class}, {places.get(load.place, '')}"
        yield Hit(kind="load", id=load.id, name=load.name, line=line)
    for control in plan.controls:
        line = f"{control.kind.replace('_', ' ')}, {places.get(control.place, '')}"
        yield Hit(kind="control", id=control.id, name=control.name, line=line)
    for rule in plan.rules:
        owner = plan.load(rule.load)
        name = f"{owner.name if owner else rule.load}: {rule.name or rule.priority}"
        line = rule_sentence(plan, rule)
        yield Hit(kind="rule", id=rule.id, name=name, line=line, owner=rule.load)
    for row in plan.assignments:
        owner_key, _, role = row.signal.partition(".")
        line = f"{_owner_name(plan, owner_key)}, {role}, on {boards.get(row.board, row.board)}"
        yield Hit(kind="pin", id=f"{row.board}:{row.pin}", name=row.pin, line=line, owner=owner_key)
    yield from _shared_parts(plan)


def _owner_name(plan: Plan, key: str) -> str:
    """What the part of a signal is called: `probe:rh`, `relay:k1`."""
    kind, _, part_id = key.partition(":")
    names = {
        "probe": {probe.id: probe.name for probe in plan.probes},
        "load": {load.id: load.name for load in plan.loads},
        "control": {control.id: control.name for control in plan.controls},
    }
    return names.get(kind, {}).get(part_id, part_id.upper())


def _shared_parts(plan: Plan) -> Iterator[Hit]:
    """Boards, supplies and places, and what rules share."""
    for board in plan.boards:
        yield Hit(kind="board", id=board.id, name=board.name, line="board")
    for supply in plan.supplies:
        yield Hit(kind="supply", id=supply.id, name=supply.name, line="supply")
    for place in plan.places:
        yield Hit(kind="place", id=place.id, name=place.name, line=f"place, {place.kind}")
    for schedule in plan.schedules:
        yield Hit(kind="schedule", id=schedule.id, name=schedule.name, line="schedule")
    for mode in plan.modes:
        yield Hit(kind="mode", id=mode.id, name=mode.name, line=f"mode: {', '.join(mode.values)}")
    for condition in plan.conditions:
        name = condition.name or condition.id
        yield Hit(kind="condition", id=condition.id, name=name, line="named condition")
    for signal in plan.derived:
        line = f"calculated signal, {signal.made.kind.replace('_', ' ')}"
        yield Hit(kind="signal", id=signal.id, name=signal.name, line=line)
