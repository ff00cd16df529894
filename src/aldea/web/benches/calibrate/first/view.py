"""Calibrate by what stands in the house: what is due first, then each kind with its parts."""

from dataclasses import dataclass

from aldea.core.calibrate.methods.registry import METHODS
from aldea.core.plan.document import Plan
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.certificates.due import DueList, DueRow
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES

MOST_DUE = 8  # the others are on the due list


@dataclass(frozen=True, slots=True, kw_only=True)
class KindTile:
    """A kind of bench: what it works out, how long it usually takes, its parts in this house."""

    key: str
    heading: str
    does: str
    takes: str
    links: tuple[tuple[str, str, bool], ...]
    lacks: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DueWork:
    """A probe that is due, where it is calibrated and how long that usually takes."""

    row: DueRow
    heading: str
    takes: str
    address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstPage:
    """What is due, the kinds that the house has parts for, and those that it has none for."""

    verdict: Verdict
    due: tuple[DueWork, ...]
    more_due: int
    here: tuple[KindTile, ...]
    elsewhere: tuple[KindTile, ...]


def first_page(plan: Plan, base: str, due: DueList) -> FirstPage:
    """Finish the first page of Calibrate for a house."""
    pressing = [row for row in due.rows if row.state != "holds"]
    owed = {row.probe for row in pressing}
    tiles = [*_pair_tiles(plan, base, owed), *_recording_tiles(plan, base)]
    work = [blocks for row in pressing if (blocks := _due_work(row, tiles)) is not None]
    here = tuple(tile for tile in tiles if tile.links)
    return FirstPage(
        verdict=due.verdict if due.rows else _nothing_due(here),
        due=tuple(work[:MOST_DUE]),
        more_due=max(0, len(work) - MOST_DUE),
        here=here,
        elsewhere=tuple(tile for tile in tiles if not tile.links),
    )


def _nothing_due(here: tuple[KindTile, ...]) -> Verdict:
    if here:
        return Verdict(state="owed", sentence="Nothing is due.", rest="No rule reads a probe yet.")
    return Verdict(
        state="owed", sentence="Nothing to calibrate yet.", rest="Add a probe at Lay out first."
    )


def _pair_tiles(plan: Plan, base: str, owed: set[str]) -> list[KindTile]:
    return [
        KindTile(
            key=method.quantity,
            heading=method.heading,
            does=method.does,
            takes=method.takes,
            links=tuple(
                (p.name, f"{base}/calibrate/{p.id}", p.id in owed)
                for p in plan.probes
                if p.quantity == method.quantity
            ),
            lacks="no such probe",
        )
        for method in METHODS.values()
    ]


def _recording_tiles(plan: Plan, base: str) -> list[KindTile]:
    return [
        KindTile(
            key=bench.key,
            heading=bench.heading,
            does=bench.does,
            takes=bench.takes,
            links=tuple(
                (name, f"{base}/recordings/{bench.key}/{subject}", False)
                for subject, name in bench.subjects(plan)
            ),
            lacks=f"for {bench.called}",
        )
        for bench in RECORDINGS_BENCHES.values()
    ]


def _due_work(row: DueRow, tiles: list[KindTile]) -> DueWork | None:
    """The first bench that a due probe has, in the order of the kinds; None where it has none."""
    for tile in tiles:
        for _, address, _ in tile.links:
            if address.endswith(f"/{row.probe}"):
                return DueWork(row=row, heading=tile.heading, takes=tile.takes, address=address)
    return None
