"""Running a compiled plan over what comes in: allocates, calls the kernel, names what came out."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.errors import InputError
from aldea.core.base.jit import plain
from aldea.core.engine import layout as lay
from aldea.core.engine.calendar import calendar_of
from aldea.core.engine.compiled_plan import ClaimRow, CompiledPlan
from aldea.core.engine.inputs import CompiledInputs, Inputs, PowerCut, compile_inputs
from aldea.core.engine.scan.arrays import (
    AT_INTS,
    COUNT_EVENTS,
    COUNT_LINES,
    COUNT_WRITES,
    H_CLOCK_KNOWN,
    H_HAS,
    H_INTS,
    H_SEEDS,
    HAS_CONTROLS,
    HAS_DERIVED,
    HAS_DOORWAYS,
    HAS_DRIVES,
    HAS_MEMORY,
    HAS_PATTERNS,
    HAS_SCHEDULES,
    HAS_TWO_WAY,
    OutArrays,
    PlanArrays,
    StateArrays,
)
from aldea.core.engine.scan.replay_kernel import replay_kernel
from aldea.core.engine.scan.views import packed
from aldea.core.engine.tables.conditions import fresh_conditions
from aldea.core.engine.tables.loads import (
    L_KIND,
    L_OPEN_INPUT,
    L_PATTERNS,
    L_SENSE,
    L_SHUT_INPUT,
    W_SHOWN,
    fresh_loads,
)
from aldea.core.engine.tables.memory import MemoryState, cells_of, fresh_memory
from aldea.core.engine.tables.people import Calendar, fresh_calendar, fresh_people
from aldea.core.engine.tables.probes import (
    D_OVER_MS,
    P_RATES,
    P_RATES_END,
    S_SEEN_QUALITY,
    fresh_probes,
)
from aldea.core.readings.samples import Samples

Scans = Callable[..., None]
# Untouched room costs nothing; a run that needs more is made twice.
FIRST_ROOM_FOR_EVENTS = 1 << 17
FIRST_ROOM_FOR_WRITES = 1 << 12
HELD_MOMENTS = 96


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """A change of a load's state, decider or inhibit; of a probe's quality; or of the supply.

    `state_from` and `state_to` are states for a load, quality codes for a probe, 1 and 0 for
    power. `claim` is the one that a change of state goes by, `decider` the one that decides now
    (`decided_by` the person, of a hand), `wanted` the state that it wants. `inhibit` delays what is
    wanted now, `kept` has delayed this change. `cited` is the claim that is the cause: the one that
    decides or, where nobody asks, the one that matters. `value` is the calibrated reading that it
    looks at, NaN where there is none.
    """

    t_ms: int
    event_type: int
    who: int
    state_from: int
    state_to: int
    claim: int
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
                claim=row[lay.E_CLAIM],
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

    def claim_row(self, claim: int) -> ClaimRow | None:
        """What a claim's row means; None in the dark, and where nobody ever asks."""
        return None if claim < 0 else self.compiled.claim_rows[claim]

    def author(self, author: int) -> str:
        """Who spoke with a hand; empty where nobody did."""
        return self.authors[author] if 0 <= author < len(self.authors) else ""


def run_replay(
    compiled: CompiledPlan,
    samples: Samples,
    *,
    start_ms: int,
    end_ms: int,
    cuts: Sequence[tuple[int, int]] = (),
    inputs: Inputs = Inputs(),  # noqa: B008  frozen
    calendar: Calendar | None = None,
    memory: MemoryState | None = None,
    boots: bool = False,
    in_service: bool = True,
    traced: bool = False,
    skipping: bool = True,
    scans: Scans = replay_kernel,
) -> Run:
    """Run a compiled plan over recorded samples and all else that comes in.

    Times are UTC epoch milliseconds. `cuts` are plain power cuts [from, to), beside those of
    `inputs`; one that is over before the start is no cut of this run. With `boots` the start is a
    boot, that finds `memory`; else the run begins in the middle, and `in_service` lets what its
    first scan finds stand in memory, as it does on a board that has run for long. `scans` is
    what runs them: the compiled source, or `in_python`, the same source by the interpreter. Raises
    `InputError` where span or cuts are out of order.
    """
    if not start_ms < end_ms:
        raise InputError("replay", got=f"end {end_ms}", allowed=f"after the start {start_ms}")
    if cuts:
        whole = [PowerCut(from_ms=a, to_ms=b) for a, b in cuts]
        inputs = replace(inputs, cuts=(*inputs.cuts, *whole))
    brought = compile_inputs(compiled, samples, inputs, start_ms)
    plan = as_run(compiled, brought)
    times = calendar_of(compiled, start_ms, end_ms) if calendar is None else calendar
    room = [FIRST_ROOM_FOR_EVENTS, FIRST_ROOM_FOR_EVENTS, FIRST_ROOM_FOR_WRITES]
    while True:
        out = out_room(room, cells_of(plan.memory), len(brought.arrays.sample_ms) if traced else 0)
        state = fresh_state(compiled, plan, times, brought, memory, seeds=in_service and not boots)
        tables = packed(plan, state, times, brought.arrays, out)
        scans(
            tables.ctypes.data,
            np.zeros((len(plan.loads.ints), 2), dtype=np.int64),
            np.zeros(AT_INTS, dtype=np.int64),
            start_ms,
            end_ms,
            compiled.period_ms,
            not boots,
            False,  # goes on: a session's own
            skipping,
        )
        counts = out.counts.tolist()
        if all(count <= there for count, there in zip(counts, room, strict=True)):
            break
        room = [max(count, there) for count, there in zip(counts, room, strict=True)]
    events, lines, writes = counts
    return Run(
        compiled=compiled,
        start_ms=start_ms,
        end_ms=end_ms,
        rows=out.events[:events].copy(),  # the room made for it is given back
        values=out.values[:events].copy(),
        lines=out.lines[:lines].copy(),
        writes=out.writes[:writes].copy(),
        cells=out.cells[:writes].copy(),
        authors=brought.authors,
        trace=out.trace,
        qualities=out.qualities,
    )


def in_python(*given: Any) -> None:
    """The scans by the interpreter: slow, and nothing between it and the source."""
    plain(replay_kernel)(*given)


def out_room(room: list[int], cells: int, traced: int) -> OutArrays:
    """Room for so many events, lines and writes, for cells of a write, and for traced samples."""
    return OutArrays(
        counts=np.zeros(3, dtype=np.int64),
        events=np.empty((room[COUNT_EVENTS], lay.E_INTS), dtype=np.int64),
        values=np.empty(room[COUNT_EVENTS]),
        lines=np.empty((room[COUNT_LINES], 3), dtype=np.int64),
        writes=np.empty((room[COUNT_WRITES], 3), dtype=np.int64),
        cells=np.empty((room[COUNT_WRITES], cells), dtype=np.int64),
        trace=np.full(traced, np.nan),
        qualities=np.full(traced, -1, dtype=np.int64),
    )


def as_run(compiled: CompiledPlan, brought: CompiledInputs) -> PlanArrays:
    """The plan with what its hands do; where nothing senses a load, it does what it is told."""
    arrays = compiled.arrays
    rows = arrays.loads.ints.copy()
    known = {name: row for row, name in enumerate(compiled.input_ids)}
    told = {known[name] for name in brought.sensed}
    for row in rows:
        if row[L_KIND] == lay.KIND_TWO_WAY and row[L_SENSE] not in told:
            row[L_SENSE] = lay.NONE
        ends = (row[L_OPEN_INPUT], row[L_SHUT_INPUT])
        if row[L_KIND] == lay.KIND_DRIVE and not any(end in told for end in ends):
            row[L_OPEN_INPUT] = row[L_SHUT_INPUT] = lay.NONE
    loads = arrays.loads._replace(ints=rows)
    return arrays._replace(people=brought.people, loads=loads)


def fresh_state(
    compiled: CompiledPlan,
    plan: PlanArrays,
    calendar: Calendar,
    brought: CompiledInputs,
    memory: MemoryState | None = None,
    *,
    seeds: bool = False,
    rate_room: int | None = None,
) -> StateArrays:
    """The state of a run that has not begun; the clock is that of the instants.

    `rate_room` is how many readings a rate may hold, where the samples are not known yet.
    """
    head = np.zeros(H_INTS, dtype=np.int64)
    head[H_CLOCK_KNOWN] = 1
    head[H_SEEDS] = int(seeds)
    head[H_HAS] = _has(plan, calendar)
    probes = fresh_probes(
        plan.probes, _rate_room(plan, brought) if rate_room is None else rate_room
    )
    probes.ints[:, S_SEEN_QUALITY] = lay.WARMING
    loads = fresh_loads(plan.loads)
    loads.lines[:, W_SHOWN] = lay.NO_LEVEL
    return StateArrays(
        head=head,
        probes=probes,
        conditions=fresh_conditions(plan.conditions),
        loads=loads,
        people=fresh_people(plan.people, len(compiled.input_ids)),
        calendar=fresh_calendar(calendar, HELD_MOMENTS),
        memory=fresh_memory(plan.memory) if memory is None else memory,
    )


def _has(plan: PlanArrays, calendar: Calendar) -> int:
    """What the plan has at all, as bits."""
    kinds = plan.loads.ints[:, L_KIND]
    people = plan.people
    worked = len(people.buttons) + len(people.selectors) + len(people.actions)
    there = {
        HAS_CONTROLS: worked,
        HAS_DOORWAYS: len(people.doorways),
        HAS_SCHEDULES: len(calendar.schedules),
        HAS_DERIVED: len(plan.probes.derived),
        HAS_TWO_WAY: (kinds == lay.KIND_TWO_WAY).sum(),
        HAS_DRIVES: (kinds == lay.KIND_DRIVE).sum(),
        HAS_PATTERNS: (plan.loads.ints[:, L_PATTERNS] > 0).sum(),
        HAS_MEMORY: len(plan.memory.fields),
    }
    return sum(bit for bit, count in there.items() if count)


def _rate_room(plan: PlanArrays, brought: CompiledInputs) -> int:
    """How many readings a rate must hold at most: those within its time, and two."""
    derived = plan.probes.derived
    longest_ms = int(derived[:, D_OVER_MS].max(initial=0))
    if not longest_ms:
        return 1
    read = plan.probes.ints[:, P_RATES] < plan.probes.ints[:, P_RATES_END]
    held = 0
    for probe in np.flatnonzero(read).tolist():
        t_ms = brought.arrays.sample_ms[brought.arrays.sample_probe == probe]
        within = np.arange(len(t_ms)) - np.searchsorted(t_ms, t_ms - longest_ms)
        held = max(held, int(within.max(initial=0)))
    return held + 3
