"""Everything by place: each thing with its cable, every conductor with its number and its end."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from markupsafe import Markup

from aldea.core.base.memo import per_plan
from aldea.core.devices.conductor import Conductor
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import part_of
from aldea.core.wiring.conductors import conductors
from aldea.web.shell.templates import templates

ROW, HEAD, LINE = 24, 30, 14
LETTERS = 84  # that a line beside a cable has room for
IN_PANEL = re.compile(r"X1:|K\d|KM ")
FROM_PANEL = ("X1:", "N bar", "PE bar")

Numbered = tuple[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class CableRow:
    """A thing and its cable, as a row of the drawing; `lines` hold (number, end) of conductors."""

    y: float
    owner: str
    name: str
    cable: str
    lines: tuple[tuple[Numbered, ...], ...]
    mains: bool

    @property
    def height(self) -> float:
        """Its height, px."""
        return ROW + LINE * max(0, len(self.lines) - 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceBlock:
    """A place with the cables that lead to it."""

    name: str
    y: float
    height: float
    rows: tuple[CableRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceDrawing:
    """All places, one under the other, and the inside of the panel."""

    blocks: tuple[PlaceBlock, ...]
    height: float


@per_plan
def places_svg(plan: Plan) -> Markup:
    """The drawing as it stands on the page: three hundred cables take longer to write than to find.

    It follows from the plan alone, so it is written once for each.
    """
    svg = templates.env.get_template("wire/panel/places.svg").render(places=draw_places(plan))
    return Markup(svg)  # noqa: S704  made by our own escaping template


def draw_places(plan: Plan) -> PlaceDrawing:
    """Each place with its cables, then what is wired inside the panel; no conductor is left out."""
    wires = conductors(plan)
    away = {f"relay:{relay.id}" for relay in plan.relays if relay.cable_m or relay.place}
    inside = {wire for wire in wires if wire.owner not in away and _inside(wire)}
    groups = [
        (place.name, [w for w in wires if w.place == place.id and w not in inside])
        for place in plan.places
    ]
    groups.append(("Inside the panel", [w for w in wires if w in inside]))
    blocks: list[PlaceBlock] = []
    y = 4.0
    for name, members in groups:
        if not members:
            continue
        rows = tuple(_rows(plan, members, y + HEAD, inside))
        height = HEAD + sum(row.height for row in rows)
        blocks.append(PlaceBlock(name=name, y=y, height=height - 6, rows=rows))
        y += height + 4
    return PlaceDrawing(blocks=tuple(blocks), height=y)


def _inside(wire: Conductor) -> bool:
    return wire.owner.startswith("relay:") or bool(IN_PANEL.match(wire.end))


def _rows(
    plan: Plan, wires: Iterable[Conductor], y: float, inside: set[Conductor]
) -> Iterator[CableRow]:
    by_owner: dict[tuple[str, str], list[Conductor]] = {}
    for wire in wires:
        by_owner.setdefault((wire.owner, wire.net), []).append(wire)
    for (owner, feed), group in by_owner.items():
        row = CableRow(
            y=y,
            owner=owner,
            name=_name(plan, owner),
            cable="in the panel" if group[0] in inside else _cable(group, feed),
            lines=tuple(_lines((wire.number, _where(wire, wire in inside)) for wire in group)),
            mains=feed == "mains",
        )
        yield row
        y += row.height


def _cable(group: list[Conductor], feed: str) -> str:
    if feed == "ELV":
        return f"{len(group)} × {group[0].section}"
    count = sum(wire.start.startswith(FROM_PANEL) for wire in group)
    return f"{count} × electrician decides, mains"


def _where(wire: Conductor, inside: bool) -> str:
    """Where a conductor comes from; both ends where it begins outside the panel or stays inside."""
    if inside or (wire.net == "mains" and not wire.start.startswith(FROM_PANEL)):
        return f"{wire.start} → {wire.end}"
    return wire.start


def _lines(pieces: Iterable[Numbered]) -> Iterator[tuple[Numbered, ...]]:
    line: list[Numbered] = []
    used = 0
    for number, where in pieces:
        wanted = len(number) + len(where) + 4
        if line and used + wanted > LETTERS:
            yield tuple(line)
            line, used = [], 0
        line.append((number, where))
        used += wanted
    if line:
        yield tuple(line)


def _name(plan: Plan, owner: str) -> str:
    kind, _, part_id = owner.partition(":")
    return part_id.upper() if kind == "relay" else str(part_of(plan, kind, part_id).name)
