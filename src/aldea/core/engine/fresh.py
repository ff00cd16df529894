"""The tables of a run that has not begun: where it stands, and room for what comes out."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from aldea.core.engine import layout as lay
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.inputs import CompiledInputs
from aldea.core.engine.tables.coming import Counts, Cursor, EventRow, LineRow, WriteRow
from aldea.core.engine.tables.conditions import ConditionNow
from aldea.core.engine.tables.loads import LineNow, LoadNow, LoadSpec, RuleNow
from aldea.core.engine.tables.memory import FieldSpec, MemoryNow, SlotNow
from aldea.core.engine.tables.people import (
    ButtonNow,
    DoorwayNow,
    InputNow,
    ModeChangeNow,
    ScheduleNow,
    SelectorNow,
)
from aldea.core.engine.tables.probes import (
    SIGNAL_RATE,
    DerivedSpec,
    ProbeNow,
    Quiet,
    RateNow,
    SignalNow,
)
from aldea.core.engine.tables.rows import (
    I8,
    I16,
    I64,
    Real,
    Table,
    as_array,
    fresh_cells,
    fresh_table,
    room_for,
    table_of,
)
from aldea.core.engine.tables.run import (
    HAS_CONTROLS,
    HAS_DERIVED,
    HAS_DOORWAYS,
    HAS_DRIVES,
    HAS_MEMORY,
    HAS_PATTERNS,
    HAS_SCHEDULES,
    HAS_TWO_WAY,
    CalendarTables,
    Head,
    OutTables,
    PlanTables,
    StateTables,
)

SPARE = 3  # readings of a rate beside those within its time: the one compared with, the newest


def tables_of_run(compiled: CompiledPlan, brought: CompiledInputs, rooms: list[int]) -> PlanTables:
    """The plan with what its overrides do, and room for each rate.

    Where nothing senses a load, it does what it is told.
    """
    known = {name: row for row, name in enumerate(compiled.input_ids)}
    reported = {known[name] for name in brought.sensed}
    rows = [row.copied() for row in compiled.tables.loads]
    for row in rows:
        if row.kind == lay.KIND_TWO_WAY and row.sense not in reported:
            row.sense = lay.NONE
        ends = (row.open_input, row.shut_input)
        if row.kind == lay.KIND_DRIVE and not any(end in reported for end in ends):
            row.open_input = row.shut_input = lay.NONE
    return replace(
        compiled.tables,
        loads=table_of(LoadSpec, rows),
        actions=brought.actions,
        derived=_with_rings(compiled.tables.derived, rooms),
    )


def _with_rings(derived: Table[DerivedSpec], rooms: list[int]) -> Table[DerivedSpec]:
    """Every rate with a ring of its own, of as many readings as it needs."""
    rows = [row.copied() for row in derived]
    ring = 0
    for row, room in zip(rows, rooms, strict=True):
        row.ring, row.room = ring, room
        ring += room
    return table_of(DerivedSpec, rows)


def rooms_by_samples(compiled: CompiledPlan, brought: CompiledInputs) -> list[int]:
    """How many readings each rate must hold over known samples: those within its time, and two."""
    tables = compiled.tables
    rooms = [0] * len(tables.derived)
    for d, row in enumerate(tables.derived):
        if row.kind != SIGNAL_RATE:
            continue
        probe = tables.signal_members[row.first]
        mine = as_array(brought.tables.sample_probe) == probe
        t_ms = as_array(brought.tables.sample_ms)[mine]
        within = np.arange(len(t_ms)) - np.searchsorted(t_ms, t_ms - row.over_ms)
        rooms[d] = int(within.max(initial=0)) + SPARE
    return rooms


def rooms_by_period(compiled: CompiledPlan, most: int) -> list[int]:
    """The same where what comes in is not known yet: a reading a scan, or `most` in all."""
    return [
        min(row.over_ms // compiled.period_ms, most) + SPARE if row.kind == SIGNAL_RATE else 0
        for row in compiled.tables.derived
    ]


def rooms_by_interval(compiled: CompiledPlan) -> list[int]:
    """The same for a board, which reads each probe at its own interval."""
    rooms = []
    for row in compiled.tables.derived:
        probe = compiled.plan.probe(
            compiled.probe_ids[compiled.tables.signal_members[row.first]]
            if row.kind == SIGNAL_RATE
            else ""
        )
        apart_ms = max(1, round(1000 * probe.reading_interval_s)) if probe else 0
        rooms.append(row.over_ms // apart_ms + SPARE if probe else 0)
    return rooms


def fresh_state(
    compiled: CompiledPlan, plan: PlanTables, calendar: CalendarTables, *, seeds: bool = False
) -> StateTables:
    """The state of a run that has not begun; the clock is that of the instants."""
    probes, signals = len(plan.probes), len(plan.probes) + len(plan.derived)
    takes = [row.takes for row in plan.probes]
    rates = sum(row.room for row in plan.derived)
    cells = cells_of_fields(plan.fields)
    now = StateTables(
        head=Head(clock_known=1, seeds=int(seeds), has=_has(plan, calendar)),
        cursor=Cursor(),
        probes=fresh_table(ProbeNow, probes),
        quiet=fresh_table(Quiet, probes),
        ring=fresh_cells(Real, sum(takes)),
        scratch=fresh_cells(Real, max(takes, default=0)),
        signals=fresh_table(SignalNow, signals),
        rates=fresh_table(RateNow, len(plan.derived)),
        rate_ms=fresh_cells(I64, rates),
        rate_values=fresh_cells(Real, rates),
        conditions=fresh_table(ConditionNow, len(plan.conditions)),
        loads=fresh_table(LoadNow, len(plan.loads)),
        rules=fresh_table(RuleNow, len(plan.rules)),
        lines=fresh_table(LineNow, len(plan.lines)),
        starts_ms=fresh_cells(I64, sum(max(row.starts, 0) for row in plan.loads)),
        turns=fresh_cells(I8, len(plan.exclusive)),
        inputs=fresh_table(InputNow, len(compiled.input_ids)),
        buttons=fresh_table(ButtonNow, len(plan.buttons)),
        selectors=fresh_table(SelectorNow, len(plan.selectors)),
        code_ms=fresh_cells(I64, len(plan.codes)),
        modes=fresh_cells(I16, len(plan.modes)),
        mode_changes=fresh_table(ModeChangeNow, len(plan.mode_changes)),
        doorways=fresh_table(DoorwayNow, len(plan.doorways)),
        schedules=fresh_table(ScheduleNow, len(calendar.schedules)),
        begun_ms=fresh_cells(I64, sum(row.room for row in plan.begun)),
        memory=MemoryNow(),
        slots=fresh_table(SlotNow, 2),
        slot_cells=fresh_cells(I64, 2 * cells),
        before=fresh_cells(I64, cells),
        cells=fresh_cells(I64, cells),
        base=fresh_cells(I64, cells),
        snapshot=fresh_cells(I64, cells),
    )
    for probe in now.probes:
        probe.seen_quality = lay.WARMING
    for condition in now.conditions:
        condition.seen = -1
    for line in now.lines:
        line.shown = lay.NO_LEVEL
    return now


def cells_of_fields(fields: Table[FieldSpec]) -> int:
    """How many cells the fields of a memory take together."""
    return fields[len(fields) - 1].end if len(fields) else 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Record:
    """What a slot of the memory holds: its sequence number and its cells."""

    sequence: int
    cells: Sequence[int]


def put_records(now: StateTables, records: Sequence[Record | None]) -> None:
    """Let the memory hold some records, the first slot's first; None leaves a slot empty."""
    cells = len(now.cells)
    for at, record in enumerate(records):
        if record is not None:
            now.slots[at].valid, now.slots[at].sequence = 1, record.sequence
            for cell, value in enumerate(record.cells):
                now.slot_cells[at * cells + cell] = value


def out_room(room: Counts, cells: int, traced: int) -> OutTables:
    """Room for so many events, lines and writes, for cells of a write, and for traced samples."""
    trace, qualities = room_for(Real, traced), room_for(I8, traced)
    as_array(trace)[:] = np.nan
    as_array(qualities)[:] = -1
    return OutTables(
        counts=Counts(),
        events=room_for(EventRow, room.events),
        lines=room_for(LineRow, room.lines),
        writes=room_for(WriteRow, room.writes),
        cells=room_for(I64, room.writes * cells),
        trace=trace,
        qualities=qualities,
    )


def _has(plan: PlanTables, calendar: CalendarTables) -> int:
    """What the plan has at all, as bits."""
    kinds = [row.kind for row in plan.loads]
    there = {
        HAS_CONTROLS: len(plan.inputs) + len(plan.selectors) + len(plan.actions),
        HAS_DOORWAYS: len(plan.doorways),
        HAS_SCHEDULES: len(calendar.schedules),
        HAS_DERIVED: len(plan.derived),
        HAS_TWO_WAY: kinds.count(lay.KIND_TWO_WAY),
        HAS_DRIVES: kinds.count(lay.KIND_DRIVE),
        HAS_PATTERNS: sum(row.patterns > 0 for row in plan.loads),
        HAS_MEMORY: len(plan.fields),
    }
    return sum(bit for bit, count in there.items() if count)
