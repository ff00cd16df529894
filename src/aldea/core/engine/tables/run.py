"""A run: every table that a scan works on, in five groups.

The names here are those of the C that is written from the scan; what the plan, the calendar and
the inputs hold is never written by it.
"""

from dataclasses import dataclass, fields
from functools import cache
from typing import get_args, get_origin, get_type_hints

from aldea.core.engine.tables.coming import (
    ClockRow,
    Counts,
    Cursor,
    CutRow,
    EventRow,
    Level,
    LineRow,
    MessageRow,
    WriteRow,
)
from aldea.core.engine.tables.conditions import ConditionNow, ConditionSpec
from aldea.core.engine.tables.loads import (
    ExclusiveSpec,
    LineNow,
    LineSpec,
    LoadNow,
    LoadSpec,
    PatternSpec,
    RuleNow,
    RuleSpec,
)
from aldea.core.engine.tables.memory import FieldSpec, MemoryNow, PolicySpec, SlotNow
from aldea.core.engine.tables.people import (
    ActionSpec,
    BegunSpec,
    ButtonNow,
    ButtonSpec,
    CodeSpec,
    DoorwayNow,
    DoorwaySpec,
    GroupSpec,
    InputNow,
    InputSpec,
    ModeChangeNow,
    ModeChangeSpec,
    ModeSpec,
    PositionSpec,
    ResetSpec,
    ScheduleNow,
    ScheduleSpec,
    SelectorNow,
    SelectorSpec,
    SunSpec,
)
from aldea.core.engine.tables.probes import (
    DerivedSpec,
    ProbeNow,
    ProbeSpec,
    Quiet,
    RateNow,
    SignalNow,
)
from aldea.core.engine.tables.rows import I8, I16, I32, I64, Cells, Real, Row, Table, row

# What a plan has at all; stages that it does not need are passed over.
(
    HAS_CONTROLS,
    HAS_DOORWAYS,
    HAS_SCHEDULES,
    HAS_DERIVED,
    HAS_TWO_WAY,
    HAS_DRIVES,
    HAS_PATTERNS,
    HAS_MEMORY,
) = (1 << bit for bit in range(8))


@row
class Head(Row):
    """What all stages know of a run."""

    booted_ms: I64
    clock_base_ms: I64  # what the clock says, less the instant
    clock_low_ms: I64  # the least that it said since it is known without a break
    has: I16
    first: I8  # whether this is the first scan after a boot
    free: I8  # whether the run began in the middle, so that no boot rule binds it
    clock_known: I8
    stirred: I8
    listens: I8
    seeds: I8
    lines: I8


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanTables:
    """A compiled plan."""

    probes: Table[ProbeSpec]
    derived: Table[DerivedSpec]
    signal_members: Cells[I32]
    rate_feeds: Cells[I32]
    conditions: Table[ConditionSpec]
    condition_members: Cells[I32]
    loads: Table[LoadSpec]
    rules: Table[RuleSpec]
    lines: Table[LineSpec]
    combos: Cells[I8]
    patterns: Table[PatternSpec]
    parts_ms: Cells[I64]
    exclusive: Table[ExclusiveSpec]
    exclusive_lines: Cells[I16]
    inputs: Table[InputSpec]
    buttons: Table[ButtonSpec]
    selectors: Table[SelectorSpec]
    positions: Table[PositionSpec]
    codes: Table[CodeSpec]
    actions: Table[ActionSpec]
    modes: Table[ModeSpec]
    mode_changes: Table[ModeChangeSpec]
    groups: Table[GroupSpec]
    group_members: Cells[I16]
    doorways: Table[DoorwaySpec]
    begun: Table[BegunSpec]  # by schedule
    fields: Table[FieldSpec]
    policy: PolicySpec


@dataclass(frozen=True, slots=True, kw_only=True)
class CalendarTables:
    """Schedules, resets and the sun as instants of the board's clock, in order of time."""

    schedules: Table[ScheduleSpec]
    span_from_ms: Cells[I64]
    span_to_ms: Cells[I64]
    moment_ms: Cells[I64]
    suns: Table[SunSpec]
    sun_ms: Cells[I64]
    sun_up: Cells[I8]
    resets: Table[ResetSpec]
    reset_ms: Cells[I64]


@dataclass(frozen=True, slots=True, kw_only=True)
class InputTables:
    """What comes in during a run, each kind in order of time."""

    sample_ms: Cells[I64]
    sample_probe: Cells[I64]
    sample_value: Cells[Real]
    levels: Table[Level]
    messages: Table[MessageRow]
    clock: Table[ClockRow]
    cuts: Table[CutRow]


@dataclass(frozen=True, slots=True, kw_only=True)
class StateTables:
    """Where a run stands."""

    head: Head
    cursor: Cursor
    probes: Table[ProbeNow]
    quiet: Table[Quiet]
    ring: Cells[Real]
    scratch: Cells[Real]
    signals: Table[SignalNow]
    rates: Table[RateNow]
    rate_ms: Cells[I64]
    rate_values: Cells[Real]
    conditions: Table[ConditionNow]
    loads: Table[LoadNow]
    rules: Table[RuleNow]
    lines: Table[LineNow]
    starts_ms: Cells[I64]
    turns: Cells[I8]
    inputs: Table[InputNow]
    buttons: Table[ButtonNow]
    selectors: Table[SelectorNow]
    code_ms: Cells[I64]
    modes: Cells[I16]
    mode_changes: Table[ModeChangeNow]
    doorways: Table[DoorwayNow]
    schedules: Table[ScheduleNow]
    begun_ms: Cells[I64]
    memory: MemoryNow
    slots: Table[SlotNow]
    slot_cells: Cells[I64]  # those of the first slot, then those of the second
    before: Cells[I64]
    cells: Cells[I64]
    base: Cells[I64]
    snapshot: Cells[I64]


@dataclass(frozen=True, slots=True, kw_only=True)
class OutTables:
    """What comes out; a row beyond the room is counted and not written.

    `trace` is what each sample came to, filtered and calibrated (NaN where it did not enter the
    filter), `qualities` the quality in its wake; both are as long as somebody asked for.
    """

    counts: Counts
    events: Table[EventRow]
    lines: Table[LineRow]
    writes: Table[WriteRow]
    cells: Cells[I64]
    trace: Cells[Real]
    qualities: Cells[I8]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, weakref_slot=True)
class RunTables:
    """What a scan is given."""

    plan: PlanTables
    calendar: CalendarTables
    inputs: InputTables
    now: StateTables
    out: OutTables


@cache
def rows_of_tables() -> tuple[type[Row], ...]:
    """Every class of rows that a table is made of, in the order of the tables, each once."""
    rows: dict[type[Row], None] = {}
    for group in get_type_hints(RunTables).values():
        hints = get_type_hints(group, include_extras=True)
        for part in fields(group):
            hint = hints[part.name]
            row = get_args(hint)[0] if get_origin(hint) is Table else hint
            if isinstance(row, type) and issubclass(row, Row):
                rows[row] = None
    return tuple(rows)
