"""Schedules and lists out as CSV; no cell is ever run as a formula."""

import csv
import io
from collections.abc import Iterable, Sequence

from aldea.core.devices.conductor import Conductor
from aldea.core.wiring.parts import PartLine
from aldea.formats.cells import safe_cell

SCHEDULE = (
    "number",
    "from",
    "to",
    "net",
    "section",
    "colour",
    "feed",
    "current_a",
    "serves",
    "note",
)
PARTS = (
    "group",
    "part",
    "needed",
    "unit",
    "in_drawer",
    "spares",
    "pack",
    "packs_to_buy",
    "price",
)


def _table(head: Sequence[str], rows: Iterable[Sequence[object]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    for row in rows:
        writer.writerow([safe_cell(cell) if isinstance(cell, str) else cell for cell in row])
    return out.getvalue()


def schedule_csv(wires: Sequence[Conductor]) -> str:
    """The wiring schedule, one conductor a row."""
    return _table(
        SCHEDULE,
        (
            (
                wire.number,
                wire.start,
                wire.end,
                wire.net,
                wire.section,
                wire.colour,
                wire.feed,
                round(wire.current_a, 2) if wire.current_a else "",
                wire.owner,
                wire.note,
            )
            for wire in wires
        ),
    )


def netlist_csv(wires: Sequence[Conductor]) -> str:
    """Nets for those who make a circuit board: every net with the terminals that it joins.

    Terminals that conductors join, directly or over others, are one net; a net is called by the
    lowest number in it. Mains is not in it: no circuit board of one's own carries mains.
    """
    return _table(
        ("net", "part", "terminal"),
        (
            (f"N{number}", *end.rsplit(":", 1))
            for number, ends in nets([wire for wire in wires if wire.net == "ELV"])
            for end in ends
        ),
    )


def nets(wires: Sequence[Conductor]) -> list[tuple[str, list[str]]]:
    """Terminals that are joined, as (lowest number, terminals in their order of mention)."""
    numbers: dict[str, int] = {}
    joined: dict[str, set[str]] = {}
    for wire in wires:
        for end in (wire.start, wire.end):
            numbers[end] = min(numbers.get(end, int(wire.number)), int(wire.number))
        net = joined.get(wire.start, {wire.start}) | joined.get(wire.end, {wire.end})
        joined |= dict.fromkeys(net, net)
    seen: dict[int, set[str]] = {id(net): net for net in joined.values()}
    rows = []
    for net in seen.values():
        ends = sorted(net, key=lambda end: (numbers[end], end))
        rows.append((numbers[ends[0]], ends))
    return [(str(number), ends) for number, ends in sorted(rows)]


def points_csv(wires: Sequence[Conductor]) -> str:
    """Point to point, for perforated board: from, to, and the number, part after part."""
    low = sorted(
        (wire for wire in wires if wire.net == "ELV"),
        key=lambda wire: (wire.start.rsplit(":", 1)[0], int(wire.number)),
    )
    return _table(
        ("from_part", "from_terminal", "to_part", "to_terminal", "number", "note"),
        (
            (*wire.start.rsplit(":", 1), *wire.end.rsplit(":", 1), wire.number, wire.note)
            for wire in low
        ),
    )


def parts_csv(lines: Sequence[PartLine]) -> str:
    """The parts list, one part a row."""
    return _table(
        PARTS,
        (
            (
                line.group,
                line.part,
                line.needed,
                line.unit,
                line.stock.in_drawer,
                line.stock.spares,
                line.stock.pack,
                line.packs,
                round(line.price, 2),
            )
            for line in lines
        ),
    )
