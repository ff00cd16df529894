"""Schedules and lists out as CSV; no cell is ever run as a formula."""

import csv
import io
from collections.abc import Iterable, Sequence

from aldea.core.devices.conductor import Conductor
from aldea.core.wiring.parts import PartLine
from aldea.formats.board_csv import safe_cell

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
