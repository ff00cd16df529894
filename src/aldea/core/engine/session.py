"""A run that goes on piece by piece: what it did is seen before what comes in next is known."""

import ctypes
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, fields, replace
from types import MappingProxyType
from typing import Any

import numpy as np

from aldea.core.base.arrays import FloatArray, IntArray
from aldea.core.base.errors import InputError
from aldea.core.engine import layout as lay
from aldea.core.engine.calendar import calendar_of
from aldea.core.engine.compiled_plan import CompiledPlan
from aldea.core.engine.fresh import (
    cells_of_fields,
    fresh_state,
    out_room,
    rooms_by_period,
    tables_of_run,
)
from aldea.core.engine.inputs import Inputs, compile_inputs
from aldea.core.engine.replay import Run, first_room, fits, run_of
from aldea.core.engine.scans import Scans, loaded_scans
from aldea.core.engine.tables.coming import Level
from aldea.core.engine.tables.rows import Cells, as_array, column, over, table_over
from aldea.core.engine.tables.run import RunTables, StateTables
from aldea.core.readings.samples import Samples

NOTHING_SENSED: Mapping[str, int] = MappingProxyType({})
NO_SAMPLES = Samples(
    t_ms=np.zeros(0, dtype=np.int64), probe=np.zeros(0, dtype=np.int64), value=np.zeros(0)
)


@dataclass(frozen=True, slots=True, eq=False)
class Moment:
    """Where a session stood, so that it can go on from there more than once."""

    now_ms: int
    goes_on: bool
    brought: tuple[int, int]
    tables: tuple[bytes, ...]


class Session:
    """A compiled plan at work from `start_ms`, up to `end_ms` at most.

    `samples` and `levels` are how many of each may come in beside those `known` before. `sensed`
    gives the level, at the start, of every digital input that somebody watches; an input that is
    not among them senses nothing. What else is known before (people, cuts) is in `inputs`; `boots`
    and `scans` are those of a replay.
    """

    def __init__(
        self,
        compiled: CompiledPlan,
        *,
        start_ms: int,
        end_ms: int,
        samples: int,
        levels: int,
        known: Samples = NO_SAMPLES,
        sensed: Mapping[str, int] = NOTHING_SENSED,
        inputs: Inputs = Inputs(),  # noqa: B008  frozen
        boots: bool = False,
        scans: Scans | None = None,
    ) -> None:
        self.compiled = compiled
        self.start_ms = self.now_ms = start_ms
        self._goes_on = False
        self._boots, self._scans = boots, loaded_scans() if scans is None else scans
        first = [(start_ms, name, level) for name, level in sensed.items()]
        whole = Inputs(
            levels=[*first, *inputs.levels],
            messages=inputs.messages,
            clock=inputs.clock,
            cuts=inputs.cuts,
            people=inputs.people,
        )
        brought = compile_inputs(compiled, known, whole, start_ms)
        given = brought.tables
        levels_now = as_array(given.levels)
        later = np.zeros(levels, dtype=levels_now.dtype)
        later["t_ms"] = lay.FOREVER
        whole_levels = np.concatenate((levels_now, later))
        tables = replace(
            given,
            levels=table_over(Level, {name: whole_levels[name] for name in later.dtype.names}),
            sample_ms=_longer(given.sample_ms, samples, lay.FOREVER),
            sample_probe=_longer(given.sample_probe, samples, 0),
            sample_value=_longer(given.sample_value, samples, 0.0),
        )
        self._authors = brought.authors
        self._samples, self._levels = len(given.sample_ms), len(given.levels)
        plan = tables_of_run(compiled, brought, rooms_by_period(compiled, len(tables.sample_ms)))
        calendar = calendar_of(compiled, start_ms, end_ms)
        self._room = first_room()
        self._run = RunTables(
            plan=plan,
            calendar=calendar,
            inputs=tables,
            now=fresh_state(compiled, plan, calendar, seeds=not boots),
            out=out_room(self._room, cells_of_fields(plan.fields), 0),
        )
        self._sample_ms = as_array(tables.sample_ms)
        self._sample_probe = as_array(tables.sample_probe)
        self._sample_value = as_array(tables.sample_value)
        self._level_ms = column(tables.levels, "t_ms")
        self._rows = {name: row for row, name in enumerate(compiled.input_ids)}

    def sample(self, t_ms: int, probe: int, value: float) -> None:
        """A sample of a probe, by its row; not before the last one, nor before now."""
        self.samples(np.array([t_ms]), np.array([probe]), np.array([value]))

    def samples(self, t_ms: IntArray, probe: IntArray, value: FloatArray) -> None:
        """Samples in order of time, as many as `sample` would take one by one."""
        end = self._samples + len(t_ms)
        if end > len(self._sample_ms):
            raise InputError("session", got="more samples than it has room for", allowed="fewer")
        rows = slice(self._samples, end)
        self._sample_ms[rows] = t_ms
        self._sample_probe[rows] = probe
        self._sample_value[rows] = value
        self._samples = end

    def level(self, t_ms: int, name: str, now: int) -> None:
        """The level that a digital input takes on; one that no rule looks at is passed over."""
        if name not in self._rows:
            return
        if self._levels >= len(self._run.inputs.levels):
            raise InputError("session", got="more levels than it has room for", allowed="fewer")
        row = self._run.inputs.levels[self._levels]
        row.t_ms, row.input, row.level = t_ms, self._rows[name], now
        self._levels += 1

    def advance(self, to_ms: int, *, skipping: bool = True) -> None:
        """Scan on, up to but not including `to_ms`.

        Skipping passes over samples that change nothing, and leaves the values as they were; else
        every scan is made, and the tables show what the readings are.
        """
        self._scans(
            self._run,
            self.now_ms,
            to_ms,
            self.compiled.period_ms,
            not self._boots,
            self._goes_on,
            skipping,
        )
        self._goes_on = True
        self.now_ms = to_ms

    def _changing(self) -> Iterator[Any]:
        for part in fields(self._run.now):
            yield getattr(self._run.now, part.name)
        yield self._run.out.counts

    def moment(self) -> Moment:
        """Where it stands now."""
        copies = tuple(bytes(table) for table in self._changing())
        return Moment(self.now_ms, self._goes_on, (self._samples, self._levels), copies)

    def back_to(self, moment: Moment) -> None:
        """Stand again where it stood, with nothing come in since."""
        for table, was in zip(self._changing(), moment.tables, strict=True):
            ctypes.memmove(ctypes.addressof(table), was, len(was))
        self._sample_ms[moment.brought[0] : self._samples] = lay.FOREVER
        self._level_ms[moment.brought[1] : self._levels] = lay.FOREVER
        self._samples, self._levels = moment.brought
        self.now_ms, self._goes_on = moment.now_ms, moment.goes_on

    @property
    def state(self) -> StateTables:
        """Every table of where it stands, to be read."""
        return self._run.now

    def states(self) -> dict[str, int]:
        """The state of every load now."""
        states = [load.state for load in self._run.now.loads]
        return dict(zip(self.compiled.load_ids, states, strict=True))

    def lines(self) -> IntArray:
        """The changes of relay lines so far: instant, row, level."""
        out = self._run.out
        rows: IntArray = as_array(out.lines).view(np.int64).reshape(-1, 3)
        return rows[: out.counts.lines]

    def run(self) -> Run:
        """What it has done so far; `InputError` where that is more than it had room for."""
        if not fits(self._run.out, self._room):
            raise InputError("session", got="more events than it has room for", allowed="a shorter")
        return run_of(self.compiled, self._run.out, self.start_ms, self.now_ms, self._authors)


def _longer(cells: Cells[Any], more: int, filled: float) -> Cells[Any]:
    """Cells with room for more behind them."""
    given = as_array(cells)
    longer: Cells[Any] = over(np.concatenate((given, np.full(more, filled, dtype=given.dtype))))
    return longer
