"""Running a compiled plan over what comes in: allocates, calls the kernel, names what came out."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.errors import InputError
from aldea.core.engine import layout as lay
from aldea.core.engine.calendar import calendar_of
from aldea.core.engine.compiled_plan import CompiledPlan, RuleRow
from aldea.core.engine.fresh import (
    Record,
    cells_of_fields,
    fresh_state,
    out_room,
    put_records,
    rooms_by_samples,
    tables_of_run,
)
from aldea.core.engine.inputs import Inputs, PowerCut, compile_inputs
from aldea.core.engine.scans import Scans, loaded_scans
from aldea.core.engine.tables.coming import Counts
from aldea.core.engine.tables.rows import as_array
from aldea.core.engine.tables.run import CalendarTables, OutTables, RunTables
from aldea.core.readings.samples import Samples

# Untouched room costs nothing; a run that needs more is made twice.
FIRST_ROOM_FOR_EVENTS = 1 << 17
FIRST_ROOM_FOR_WRITES = 1 << 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """A change of a load's state, decider or inhibit; of a probe's quality; or of the supply.

    `state_from` and `state_to` are states for a load, quality codes for a probe, 1 and 0 for
    power. `rule` is the one that a change of state goes by, `decider` the one that decides now
    (`decided_by` the person, of an override), `wanted` the state that it wants. `inhibit`
    delays what is wanted now, `kept` has delayed this change. `cited` is the rule that is the
    cause: the one that decides or, where no rule applies, the one that matters. `value` is the
    calibrated reading that it looks at, NaN where there is none.
    """

    t_ms: int
    event_type: int
    who: int
    state_from: int
    state_to: int
    rule: int
    author: int
    decider: int
    decided_by: int
    wanted: int
    inhibit: int
    kept: int
    cited: int
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """What a compiled plan did from `start_ms` up to `end_ms`.

    `lines` are changes of relay lines (instant, row, level; −1 without power); `writes` what was
    written into memory (instant, slot, sequence number) with `cells` beside each. `trace` is what
    each sample came to, filtered and calibrated, with `qualities` in its wake, where asked for.
    """

    compiled: CompiledPlan
    start_ms: int
    end_ms: int
    rows: IntArray
    values: FloatArray
    lines: IntArray
    writes: IntArray
    cells: IntArray
    authors: tuple[str, ...]
    trace: FloatArray
    qualities: IntArray

    def events(self) -> list[Event]:
        """Every event in order of time."""
        return [
            Event(
                t_ms=row[lay.E_T_MS],
                event_type=row[lay.E_TYPE],
                who=row[lay.E_WHO],
                state_from=row[lay.E_FROM],
                state_to=row[lay.E_TO],
                rule=row[lay.E_RULE],
                author=row[lay.E_AUTHOR],
                decider=row[lay.E_DECIDER],
                decided_by=row[lay.E_DECIDED_BY],
                wanted=row[lay.E_WANT],
                inhibit=row[lay.E_INHIBIT],
                kept=row[lay.E_KEPT],
                cited=row[lay.E_CITED],
                value=value,
            )
            for row, value in zip(self.rows.tolist(), self.values.tolist(), strict=True)
        ]

    def of_load(self, load: int) -> tuple[IntArray, FloatArray]:
        """Rows and values of the events of one load."""
        mine = (self.rows[:, lay.E_TYPE] == lay.EVENT_LOAD) & (self.rows[:, lay.E_WHO] == load)
        return self.rows[mine], self.values[mine]

    def rule_row(self, rule: int) -> RuleRow | None:
        """What a rule's row means; None in the dark, and where nobody ever asks."""
        return None if rule < 0 else self.compiled.rule_rows[rule]

    def author(self, author: int) -> str:
        """Who spoke with an override; empty where nobody did."""
        return self.authors[author] if 0 <= author < len(self.authors) else ""


def run_replay(
    compiled: CompiledPlan,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    cuts: Sequence[tuple[int, int]] = (),
    inputs: Inputs = Inputs(),  # noqa: B008  frozen
    calendar: CalendarTables | None = None,
    memory: Sequence[Record | None] = (),
    boots: bool = False,
    in_service: bool = True,
    traced: bool = False,
    skipping: bool = True,
    scans: Scans | None = None,
) -> Run:
    """Run a compiled plan over recorded samples and all else that comes in.

    Times are UTC epoch milliseconds. `cuts` are plain power cuts [from, to), beside those of
    `inputs`; one that is over before the start is no cut of this run. With `boots` the start is a
    boot, that finds `memory`; else the run begins in the middle, and `in_service` lets what its
    first scan finds stand in memory, as it does on a board that has run for long. `scans` is
    what runs them: the loaded engine where nothing is given. Raises `InputError` where span or
    cuts are out of order.
    """
    if not start_ms < end_ms:
        raise InputError("replay", got=f"end {end_ms}", allowed=f"after the start {start_ms}")
    if cuts:
        whole = [PowerCut(from_ms=a, to_ms=b) for a, b in cuts]
        inputs = replace(inputs, cuts=(*inputs.cuts, *whole))
    scan = loaded_scans() if scans is None else scans
    brought = compile_inputs(compiled, samples, inputs, start_ms)
    plan = tables_of_run(compiled, brought, rooms_by_samples(compiled, brought))
    times = calendar_of(compiled, start_ms, end_ms) if calendar is None else calendar
    cells = cells_of_fields(plan.fields)
    room = first_room()
    while True:
        now = fresh_state(compiled, plan, times, seeds=in_service and not boots)
        put_records(now, memory)
        out = out_room(room, cells, len(brought.tables.sample_ms) if traced else 0)
        run = RunTables(plan=plan, calendar=times, inputs=brought.tables, now=now, out=out)
        scan(run, start_ms, end_ms, compiled.period_ms, not boots, False, skipping)
        if fits(out, room):
            break
        room = Counts(
            events=max(room.events, out.counts.events),
            lines=max(room.lines, out.counts.lines),
            writes=max(room.writes, out.counts.writes),
        )
    return run_of(compiled, out, start_ms, end_ms, brought.authors)


def first_room() -> Counts:
    """How much room a run has at first."""
    return Counts(
        events=FIRST_ROOM_FOR_EVENTS, lines=FIRST_ROOM_FOR_EVENTS, writes=FIRST_ROOM_FOR_WRITES
    )


def fits(out: OutTables, room: Counts) -> bool:
    """Whether all that came out had room."""
    counts = out.counts
    return (
        counts.events <= room.events and counts.lines <= room.lines and counts.writes <= room.writes
    )


def run_of(
    compiled: CompiledPlan, out: OutTables, start_ms: int, end_ms: int, authors: tuple[str, ...]
) -> Run:
    """What came out, copied, so that the room made for it is given back."""
    counts = out.counts
    whole = as_array(out.events).view(np.int64).reshape(len(out.events), -1)[: counts.events]
    cells = len(out.cells) // max(1, len(out.writes))
    return Run(
        compiled=compiled,
        start_ms=start_ms,
        end_ms=end_ms,
        rows=whole[:, : lay.E_INTS].copy(),
        values=as_array(out.events)["value"][: counts.events].copy(),
        lines=as_array(out.lines).view(np.int64).reshape(-1, 3)[: counts.lines].copy(),
        writes=as_array(out.writes).view(np.int64).reshape(-1, 3)[: counts.writes].copy(),
        cells=as_array(out.cells).reshape(len(out.writes), cells)[: counts.writes].copy(),
        authors=authors,
        trace=as_array(out.trace),
        qualities=as_array(out.qualities),
    )
