"""The wiring schedule: every conductor with what it should measure and the warning at its ends."""

from collections.abc import Mapping
from dataclasses import dataclass

from aldea.core.devices.conductor import Conductor
from aldea.core.devices.finding import Finding
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import Board
from aldea.core.wiring.common_zero import zero_of
from aldea.core.wiring.conductors import conductors

MOST_ROWS = 150  # of a schedule on a page that was not asked for all of it


@dataclass(frozen=True, slots=True, kw_only=True)
class ScheduleRow:
    """A conductor with the warning that rings one of its ends, and what should be measured."""

    wire: Conductor
    tag: str
    weight: str
    measured: str

    @property
    def made_of(self) -> str:
        """Section and colour."""
        return ", ".join(part for part in (self.wire.section, self.wire.colour) if part)


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """Which rows are asked for: `all`, those `warned`, else those of a part or of a board."""

    only: str
    board: Board | None
    part: str


def schedule_rows(
    plan: Plan,
    findings: tuple[Finding, ...],
    tags: Mapping[str, str],
    readings: Mapping[str, str],
    shown: Shown,
) -> tuple[ScheduleRow, ...]:
    """The rows that are asked for, in the order of their numbers."""
    ringed = {pin: tags[f.key] for f in reversed(findings) if f.key in tags for pin in f.pins}
    names = {board.id: board.name for board in plan.boards}
    at_node = {f"{names[b]}:{p}": tag for (b, p), tag in ringed.items() if b in names}
    owners = {f.at: tags[f.key] for f in reversed(findings) if f.key in tags}
    weights = {tags[f.key]: f.weight for f in findings if f.key in tags}
    tagged = [
        (wire, at_node.get(wire.start, "" if at_node else owners.get(wire.owner, "")))
        for wire in conductors(plan)
    ]
    rows = _chosen_rows(tagged, shown, plan)
    return tuple(
        ScheduleRow(
            wire=wire,
            tag=tag,
            weight=weights.get(tag, ""),
            measured=(readings.get(wire.owner, "") if wire.signal else "")
            or (f"expect {text}" if (text := expected(wire, plan)) else ""),
        )
        for wire, tag in (rows if shown.only == "all" else rows[:MOST_ROWS])
    )


Tagged = tuple[Conductor, str]


def _chosen_rows(rows: list[Tagged], shown: Shown, plan: Plan) -> list[Tagged]:
    only, board, chosen = shown.only, shown.board, shown.part
    if only == "all":
        return rows
    if chosen:
        owners = {chosen}
        relay = next((r for r in plan.relays if f"relay:{r.id}" == chosen), None)
        if relay is not None:
            owners.add(f"load:{relay.load}")
        mine = [row for row in rows if row[0].owner in owners]
        if mine:
            return mine
    if only == "warned":
        return [row for row in rows if row[1]]
    if board is None:
        return rows
    here = f"{board.name}:"
    owners = {row.signal.split(".")[0] for row in plan.assignments if row.board == board.id}
    owners |= {f"load:{r.load}" for r in plan.relays if f"relay:{r.id}" in owners}
    zero = zero_of(plan, board)  # what joins another supply to it is a conductor of this board
    return [
        (wire, tag)
        for wire, tag in rows
        if wire.owner in owners
        or wire.start.startswith(here)
        or wire.end.startswith(here)
        or (wire.owner.startswith("supply:") and zero in (wire.start, wire.end))
    ]


def expected(wire: Conductor, plan: Plan) -> str:
    """What an instrument should show on a conductor, where that can be said beforehand."""
    probe = plan.probe(wire.owner.removeprefix("probe:")) if wire.signal else None
    device = sensor_device(probe) if probe else None
    if probe is not None and device is not None:
        return device.expected(probe.sensor, wire.signal.rsplit(".", 1)[1])
    return f"{wire.current_a:.1f} A" if wire.net == "mains" and wire.current_a else ""
