"""The parts list with every figure finished, in its groups."""

from dataclasses import dataclass
from itertools import groupby

from aldea.core.base.figures import as_typed, figure, short
from aldea.core.wiring.parts import PartLine, total_price
from aldea.core.words.verdicts import Verdict


@dataclass(frozen=True, slots=True, kw_only=True)
class StockCell:
    """A figure of the drawer that a person may type."""

    name: str
    label: str
    value: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PartRow:
    """A part: what is needed, what is there, what to buy."""

    part: str
    needed: str
    cells: tuple[StockCell, ...]
    packs: str
    price: str


def part_groups(lines: tuple[PartLine, ...]) -> list[tuple[str, list[PartRow]]]:
    """Rows by group; fields are numbered through all of them."""
    numbered = groupby(enumerate(lines), key=lambda pair: pair[1].group)
    return [(group, [_row(index, line) for index, line in pairs]) for group, pairs in numbered]


def _row(index: int, line: PartLine) -> PartRow:
    stock = line.stock
    labels = (
        ("drawer", "in the drawer", stock.in_drawer),
        ("spares", "spares", stock.spares),
        ("pack", "a pack holds", stock.pack),
        ("price", "a pack costs", stock.pack_price),
    )
    return PartRow(
        part=line.part,
        needed=f"{short(line.needed)} {line.unit}".rstrip(),
        cells=tuple(
            StockCell(name=f"{name}-{index}", label=f"{line.part}, {label}", value=as_typed(value))
            for name, label, value in labels
        ),
        packs=str(line.packs or ""),
        price=figure(line.price, 2) if line.price else "",
    )


def parts_verdict(lines: tuple[PartLine, ...], currency: str) -> Verdict:
    """How much is still to get, and what it costs as far as prices are known."""
    missing = [line for line in lines if line.packs]
    total = f"{figure(total_price(lines), 2)} {currency}"
    unpriced = any(not line.price for line in missing)
    return Verdict(
        state="owed" if missing else "holds",
        sentence=f"{len(missing)} of {len(lines)} parts are still to get, {total}"
        f"{' for those with a price' if unpriced else ''}.",
        rest="Less the drawer, in whole packs.",
    )
