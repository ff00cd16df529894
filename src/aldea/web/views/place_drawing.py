"""Everything by place: each thing with its cable and the pins that it ends on."""

from dataclasses import dataclass

from aldea.core.plan.build import part_of
from aldea.core.plan.document import Plan
from aldea.core.wire.conductors import conductors
from aldea.core.wire.mains import Conductor

ROW, HEAD = 24, 30


@dataclass(frozen=True, slots=True, kw_only=True)
class CableRow:
    """A thing and its cable, as a row of the drawing."""

    y: float
    owner: str
    name: str
    count: int
    section: str
    ends: str
    mains: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceBlock:
    """A place with the cables that lead to it."""

    name: str
    y: float
    height: float
    rows: tuple[CableRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceDrawing:
    """All places, one under the other."""

    blocks: tuple[PlaceBlock, ...]
    height: float


def draw_places(plan: Plan) -> PlaceDrawing:
    """Each place with its cables: how many conductors, what section, where they end."""
    blocks: list[PlaceBlock] = []
    y = 4.0
    by_place: dict[str, dict[tuple[str, str], list[Conductor]]] = {}
    for wire in conductors(plan):
        if not wire.owner.startswith("relay:"):
            here = by_place.setdefault(wire.place, {})
            here.setdefault((wire.owner, wire.feed), []).append(wire)
    for place in plan.places:
        by_owner = by_place.get(place.id)
        if not by_owner:
            continue
        rows = tuple(
            CableRow(
                y=y + HEAD + index * ROW,
                owner=owner,
                name=_name(plan, owner),
                count=len(_outside(group, feed)),
                section=group[0].section if feed == "ELV" else "electrician decides",
                ends=", ".join(dict.fromkeys(w.start for w in _outside(group, feed))),
                mains=feed == "mains",
            )
            for index, ((owner, feed), group) in enumerate(by_owner.items())
        )
        height = HEAD + ROW * len(rows)
        blocks.append(PlaceBlock(name=place.name, y=y, height=height - 6, rows=rows))
        y += height + 4
    return PlaceDrawing(blocks=tuple(blocks), height=y)


def _outside(group: list[Conductor], feed: str) -> list[Conductor]:
    """Of mains, what leaves the panel: from the strip X1 and from the bars."""
    if feed == "ELV":
        return group
    return [w for w in group if w.start.startswith(("X1:", "N bar", "PE bar"))]


def _name(plan: Plan, owner: str) -> str:
    kind, _, part_id = owner.partition(":")
    return str(part_of(plan, kind, part_id).name)
